use super::{Scripts, sysvinit};

/// runit as Debian packages it: its first stage runs Debian's scripts one after
/// another. Recorded with Debian 12 (boots-inits.jsonl).
pub(super) const ON_DEBIAN: Scripts = Scripts { recorded: Some("boots-inits.jsonl"), ..sysvinit::SCRIPTS };

/// runit elsewhere: taken to check and mount the table as scripts usually do.
pub(super) const SCRIPTS: Scripts = Scripts { recorded: None, ..sysvinit::SCRIPTS };
