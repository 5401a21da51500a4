//! What entries mean to the boot.

pub(super) mod entry_fails;
pub(super) mod nofail_missing;
pub(super) mod root_unknown;
pub(super) mod unit_overrides_entry;
