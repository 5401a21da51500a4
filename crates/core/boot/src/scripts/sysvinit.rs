use super::{Checks, Programs, ReadOnly, Scripts};

/// The scripts of Debian's sysvinit. Recorded with Debian 12: a device with a
/// pass number that is not there stops the boot, even with noauto; a mount
/// that fails does not.
pub(super) const SCRIPTS: Scripts = Scripts {
    checks: Checks::Table,
    stops: true,
    netdev_apart: true,
    remounts_unnamed: true,
    read_only: ReadOnly::Alone,
    programs: Programs::System,
    shell: "the maintenance shell",
    recorded: Some("boots-sysv.jsonl"),
};
