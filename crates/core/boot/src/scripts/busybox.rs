use super::{Checks, RootFails, Scripts};

/// BusyBox init with the usual rcS: `mount -a`, `swapon -a`, no check; what
/// fails is passed over.
pub(super) const SCRIPTS: Scripts = Scripts {
    checks: Checks::None,
    stops: false,
    netdev_apart: false,
    root_fails: RootFails::Alone,
    shell: "a shell",
    recorded: None,
};
