use super::{Checks, Programs, ReadOnly, Scripts, sysvinit};

/// OpenRC with the scripts of its own, as they are known; neither they nor a
/// boot were held against this. Its fsck script goes on after "operational
/// error", which is what a lost device is, and aborts the boot when errors are
/// left (`fsck_abort_on_errors`); localmount says that mounts failed, and goes
/// on.
pub(super) const SCRIPTS: Scripts = Scripts {
    checks: Checks::Present,
    stops: true,
    netdev_apart: true,
    remounts_unnamed: true,
    read_only: ReadOnly::Alone,
    programs: Programs::System,
    shell: "the shell of an aborted boot",
    recorded: None,
};

/// OpenRC as Debian packages it: it runs Debian's scripts, each with those it
/// needs. Recorded with Debian 12 (boots-inits.jsonl).
pub(super) const ON_DEBIAN: Scripts =
    Scripts { read_only: ReadOnly::Rest, recorded: Some("boots-inits.jsonl"), ..sysvinit::SCRIPTS };
