//! Where things are mounted.

pub(super) mod boot_entry;
pub(super) mod duplicate_target;
pub(super) mod efi_entry;
pub(super) mod root_entry;
pub(super) mod target_hides;
pub(super) mod target_missing;
pub(super) mod target_not_directory;
pub(super) mod target_not_empty;
pub(super) mod target_on_absent_parent;
pub(super) mod target_order;
pub(super) mod target_relative;
pub(super) mod target_shared_parent;
pub(super) mod target_symlink;
pub(super) mod target_untidy;

use super::Case;
use bradawl_facts::record::Mount;

/// What is mounted on the directory now, from a device, when no entry names it.
fn running_only<'a>(case: &Case<'a>, target: &str) -> Option<&'a Mount> {
    if case.entry_at(target).is_some() || case.is_container() {
        return None;
    }
    case.mount_at(target).filter(|m| m.source.starts_with("/dev/"))
}
