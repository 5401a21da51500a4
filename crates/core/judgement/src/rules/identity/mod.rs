//! Which device is meant.

pub(super) mod ambiguous;
pub(super) mod device_unknown;
pub(super) mod extended_partition;
pub(super) mod kernel_name;
pub(super) mod label_collides;
pub(super) mod lv_hyphens;
pub(super) mod member_not_volume;
pub(super) mod partition_not_in_kernel;
pub(super) mod passing_device;
pub(super) mod removable;
pub(super) mod stale_identity;
pub(super) mod tag_spelling;
pub(super) mod whole_disk;
