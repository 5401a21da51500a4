//! Mount options: which ones exist, for which type, in which form, since and
//! until which kernel, and what becomes of a given list.
//!
//! The rows are data, one file per type under `data/`; what they claim was
//! held against recorded answers of kernels 5.10, 6.1, 6.12 and 6.18 (see the
//! test `truth_options`).

mod data;
mod effective;
mod form;
mod verdict;
mod version;

pub use effective::in_force;
pub use form::Form;
pub use verdict::{About, Checked, Verdict, check, near_names};
pub use version::KernelVersion;

/// One option a file system type, or every type, takes.
#[derive(Debug, Clone, Copy)]
pub struct Opt {
    /// Its name, without value.
    pub name: &'static str,
    /// What may stand after the name.
    pub form: Form,
    /// First kernel that takes it; `None`: older than all we know.
    pub since: Option<KernelVersion>,
    /// First kernel that refuses it again.
    pub until: Option<KernelVersion>,
    /// What it does, in one line; for retired ones what to do instead.
    pub meaning: &'static str,
}

/// The options of a type beyond those every type takes; `None` when the type
/// is not in the catalogue.
pub fn of_type(fstype: &str) -> Option<&'static [Opt]> {
    Some(match fstype {
        "ext4" | "ext3" | "ext2" => data::EXT4,
        "xfs" => data::XFS,
        "btrfs" => data::BTRFS,
        "vfat" => data::VFAT,
        "tmpfs" => data::TMPFS,
        "swap" => data::SWAP,
        _ => return None,
    })
}

/// The options every type takes: the kernel's flags, the mount program's own,
/// the init system's.
pub fn common() -> &'static [Opt] {
    data::COMMON
}

/// The types in the catalogue.
pub const TYPES: [&str; 8] = ["btrfs", "ext2", "ext3", "ext4", "swap", "tmpfs", "vfat", "xfs"];

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_are_sound() {
        for fstype in TYPES.into_iter().chain(["common"]) {
            let rows = of_type(fstype).unwrap_or_else(common);
            for (i, row) in rows.iter().enumerate() {
                assert!(!row.name.is_empty() && !row.name.contains(['=', ',', ' ']), "{fstype} {}", row.name);
                assert!(!row.meaning.is_empty() && !row.meaning.ends_with('.'), "{fstype} {}", row.name);
                let same = rows[..i].iter().any(|r| r.name == row.name);
                assert!(!same, "{fstype}: {} twice", row.name);
                if let (Some(since), Some(until)) = (row.since, row.until) {
                    assert!(since < until, "{fstype} {}", row.name);
                }
            }
        }
    }
}
