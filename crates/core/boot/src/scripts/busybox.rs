use super::{Checks, Programs, ReadOnly, Scripts};

/// BusyBox init with the usual inittab: `mount -o remount,rw /`, `mount -a`,
/// `swapon -a`, no check; what fails is passed over, and what the table says of
/// root too. Recorded with busybox 1.35 and no other program.
pub(super) const SCRIPTS: Scripts = Scripts {
    checks: Checks::None,
    stops: false,
    netdev_apart: false,
    remounts_unnamed: true,
    read_only: ReadOnly::Alone,
    programs: Programs::Busybox,
    shell: "a shell",
    recorded: Some("busybox-init.jsonl"),
};
