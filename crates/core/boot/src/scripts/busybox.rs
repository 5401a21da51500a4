use super::{Checks, ReadOnly, Scripts};

/// BusyBox init with the usual rcS: `mount -a`, `swapon -a`, no check; what
/// fails is passed over.
pub(super) const SCRIPTS: Scripts = Scripts {
    checks: Checks::None,
    stops: false,
    netdev_apart: false,
    remounts_unnamed: true,
    read_only: ReadOnly::Alone,
    shell: "a shell",
    recorded: None,
};
