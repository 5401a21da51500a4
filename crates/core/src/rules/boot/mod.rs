pub(super) mod entry_fails;
pub(super) mod nofail_missing;
