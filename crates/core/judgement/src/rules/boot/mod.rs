//! What entries mean to the boot.

pub(super) mod array_not_declared;
pub(super) mod automount_vital;
pub(super) mod boot_target;
pub(super) mod crypt_mapping_missing;
pub(super) mod crypt_option_unknown;
pub(super) mod crypt_passphrase;
pub(super) mod crypt_source_lost;
pub(super) mod device_timeout_value;
pub(super) mod disks_not_awaited;
pub(super) mod entry_fails;
pub(super) mod extra_fails;
pub(super) mod generator_aborts;
pub(super) mod generator_differs;
pub(super) mod initramfs_outdated;
pub(super) mod initramfs_usr;
pub(super) mod netdev_missing;
pub(super) mod next_command_line;
pub(super) mod nofail_missing;
pub(super) mod nofail_on_vital;
pub(super) mod order_cycle;
pub(super) mod parts_missing;
pub(super) mod requires_unknown_unit;
pub(super) mod resume_stale;
pub(super) mod root_unknown;
pub(super) mod unit_overrides_entry;
