pub(super) mod duplicate_target;
pub(super) mod root_entry;
pub(super) mod target_missing;
