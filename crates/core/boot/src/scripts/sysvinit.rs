use super::Scripts;

/// The scripts of Debian's sysvinit. Recorded with Debian 12: a device with a
/// pass number that is not there stops the boot, even with noauto; a mount
/// that fails does not.
pub(super) const SCRIPTS: Scripts =
    Scripts { checks: true, lost_fails: true, stops: true, shell: "the maintenance shell", recorded: true };
