//! Swap areas: what keeps them from being activated, and what is unwise.

pub(super) mod swap_file_cow;
pub(super) mod swap_file_holes;
pub(super) mod swap_file_missing;
pub(super) mod swap_file_mode;
pub(super) mod swap_file_on_absent_mount;
pub(super) mod swap_file_owner;
pub(super) mod swap_no_signature;
pub(super) mod swap_not_active;
pub(super) mod swap_not_in_table;
pub(super) mod swap_on_filesystem;
pub(super) mod swap_on_same_disk;
pub(super) mod swap_page_size;
pub(super) mod swap_priority;
pub(super) mod swap_size;
pub(super) mod swap_stale_uuid;
pub(super) mod swap_target_field;
pub(super) mod swap_twice;
pub(super) mod swap_unit_waits;
#[cfg(test)]
mod testing;

use super::Case;
use bradawl_boot::Request;
use bradawl_facts::record::PathFacts;

/// The entries that ask for a swap file, with the facts about it.
fn files<'c>(case: &'c Case<'_>) -> impl Iterator<Item = (&'c Request<'c>, &'c PathFacts)> {
    case.requests.iter().filter_map(|r| Some((r, r.facts_of_file(case.index)?)))
}
