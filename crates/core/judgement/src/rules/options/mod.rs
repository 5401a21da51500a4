//! How things are mounted.

pub(super) mod atime_redundant;
pub(super) mod discard_mount;
pub(super) mod hardening;
pub(super) mod mask_wide;
pub(super) mod noauto_nofail;
pub(super) mod option_conflict;
pub(super) mod option_ignored;
pub(super) mod option_overridden;
pub(super) mod option_repeated;
pub(super) mod option_retired;
pub(super) mod option_unknown;
pub(super) mod option_value;
pub(super) mod option_without_effect;
pub(super) mod option_wrong_type;
pub(super) mod ownership_names;
pub(super) mod quota_without_tools;
pub(super) mod sync_cost;
pub(super) mod tmpfs_size;
