//! When file systems are checked.

pub(super) mod check_would_fail;
pub(super) mod pass_missing;
pub(super) mod pass_on_virtual;
pub(super) mod pass_root;
pub(super) mod pass_useless;
