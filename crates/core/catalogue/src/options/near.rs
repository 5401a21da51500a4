//! Names and values that exist, for those that do not.

use super::{Opt, common, of_type, types};
use bradawl_facts::Version;
use std::collections::HashSet;
use std::sync::LazyLock;

/// Types people meet first, in that order.
const USUAL: [&str; 8] = ["ext4", "xfs", "btrfs", "vfat", "exfat", "tmpfs", "nfs", "cifs"];

/// Up to four types that have such an option, the usual ones first.
pub(super) fn belongs_to(name: &str) -> Vec<&'static str> {
    let has = |t: &&str| of_type(t).is_some_and(|spec| spec.rows.iter().any(|r| r.name == name));
    let others = types().filter(|t| !USUAL.contains(t));
    USUAL.into_iter().chain(others).filter(has).take(4).collect()
}

/// Names within two edits of this one that the type takes, nearest first; the
/// name itself alone where it is only spelt in capitals or with the other dash.
/// Never the opposite of what was written: `noexce` is not `exec`.
pub fn near_names(fstype: &str, name: &str, kernel: Option<Version>) -> Vec<&'static str> {
    let folded = name.to_ascii_lowercase();
    let limit = if folded.len() <= 4 { 1 } else { 2 };
    let rows = of_type(fstype).map(|spec| spec.rows).unwrap_or_default();
    // A word that its program ends at is no help, whichever mount program hands it on.
    let ends_it = |name: &str| of_type(fstype).is_some_and(|s| s.not_taken.iter().any(|w| w.name == name));
    let in_time = |row: &&Opt| row.taken_by(kernel) || kernel.is_none();
    let taken = || rows.iter().chain(common()).filter(in_time).filter(|row| !ends_it(row.name));
    let alike = |row: &&Opt| row.name != name && row.name.replace('_', "-") == folded.replace('_', "-");
    if let Some(same) = taken().find(alike) {
        return vec![same.name];
    }
    let turned = |other: &str| folded.starts_with("no") != other.starts_with("no");
    let mut near: Vec<(usize, &'static str)> = taken()
        .filter(|row| row.name.len().abs_diff(folded.len()) <= limit && !turned(row.name))
        .map(|row| (strsim::osa_distance(&folded, &row.name.to_ascii_lowercase()), row.name))
        .filter(|&(distance, _)| (1..=limit).contains(&distance))
        .collect();
    near.sort();
    // `ro` and `rw` are one letter apart and say the opposite.
    near.retain(|(_, name)| folded.len() > 2 || !matches!(*name, "ro" | "rw"));
    near.into_iter().map(|(_, name)| name).take(3).collect()
}

/// Whether any type takes an option of this name, or every type does.
pub fn is_option(name: &str) -> bool {
    static NAMES: LazyLock<HashSet<&'static str>> = LazyLock::new(|| {
        let rows = types().filter_map(of_type).flat_map(|spec| spec.rows.iter());
        rows.chain(common()).map(|row| row.name).collect()
    });
    let own = ["x-", "X-"].iter().any(|prefix| name.starts_with(prefix));
    own || NAMES.contains(name)
}

/// The value that was meant where an option's value does not fit: the same
/// word with the other dash or in small letters, a word within two letters, a
/// size without what is too much behind it.
pub fn near_value(fstype: &str, name: &str, value: &str, kernel: Option<Version>) -> Option<String> {
    let rows = of_type(fstype).map(|spec| spec.rows).unwrap_or_default();
    let mut all = rows.iter().chain(common()).filter(|row| row.name == name);
    let row = all.find(|row| row.taken_by(kernel) || kernel.is_none())?;
    row.form.near(value)
}
