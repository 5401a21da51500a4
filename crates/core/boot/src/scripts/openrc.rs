use super::Scripts;

/// OpenRC, as it is known; neither its scripts nor a boot were held against
/// this. Its fsck script goes on after "operational error", which is what a
/// lost device is, and aborts the boot when errors are left
/// (`fsck_abort_on_errors`); localmount says that mounts failed, and goes on.
pub(super) const SCRIPTS: Scripts = Scripts {
    checks: true,
    lost_fails: false,
    stops: true,
    shell: "the shell of an aborted boot",
    recorded: false,
};
