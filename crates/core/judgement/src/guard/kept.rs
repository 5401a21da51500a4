//! Whether what protects is still there after a change.

use bradawl_catalogue::options::{Asked, Verdict, check, in_force};
use bradawl_facts::Version;
use bradawl_facts::table::{Entry, Table};
use std::ops::RangeInclusive;

/// Flags that protect: the boot from an entry, the host from what is mounted.
const FLAGS: [&str; 5] = ["nofail", "nosuid", "nodev", "noexec", "ro"];
/// Options whose value says who owns and may read what is mounted.
const OWNERS: [&str; 10] =
    ["umask", "fmask", "dmask", "uid", "gid", "mode", "file_mode", "dir_mode", "forceuid", "forcegid"];

/// What became of what protects.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Kept {
    /// All of it is there.
    All,
    /// What is gone was refused where it stood, and protected nothing.
    ButRefused,
    /// Some of it is gone.
    Lost,
}

/// Holds the entry of a line against those that it became. A word counts
/// wherever it stands on the line: one in the wrong field was meant too. `but`:
/// what is not looked for.
pub(super) fn kept(
    before: &Table,
    line: usize,
    after: &Table,
    lines: RangeInclusive<usize>,
    but: &[&str],
) -> Kept {
    let read = |table: &Table, n: usize| table.line(n).and_then(|l| Entry::read(table, l));
    let Some(old) = read(before, line) else { return Kept::All };
    let mut new: Vec<Entry> = lines.filter_map(|n| read(after, n)).collect();
    if new.is_empty() {
        // Switched off: another entry may stand for it.
        new = after.entries().into_iter().filter(|e| e.target == old.target).collect();
    }
    let words = before.line(line).map(|l| words(&String::from_utf8_lossy(before.slice(l.text))));
    let refused = refused(&old);
    let mut worst = Kept::All;
    for name in FLAGS.into_iter().chain(OWNERS) {
        let was = match old.has(name) {
            true => holds(&old, name),
            false => words.iter().flatten().any(|w| w == name),
        };
        if !was || but.contains(&name) || new.iter().any(|e| holds(e, name)) {
            continue;
        }
        worst = if refused.contains(&name) { Kept::ButRefused } else { return Kept::Lost };
    }
    worst
}

/// Whether an option is in force in an entry, whatever its value.
fn holds(entry: &Entry, name: &str) -> bool {
    match FLAGS.contains(&name) && name != "nofail" {
        true => in_force(&entry.options, name, Version(2, 38)),
        false => entry.has(name),
    }
}

/// The protecting options that the entry's own type refuses.
fn refused(entry: &Entry) -> Vec<&'static str> {
    let fstype = entry.types().next().unwrap_or("auto");
    let checked = check(&Asked::new(fstype, &entry.options, None));
    let bad = checked.iter().filter(|c| c.verdict == Verdict::Refused).map(|c| &entry.options[c.index].name);
    let all = || FLAGS.into_iter().chain(OWNERS);
    bad.filter_map(|name| all().find(|own| own == name)).collect()
}

/// The names of options among the words of a line, in small letters; paths and
/// names of devices have none, but one may be joined to what stands before.
fn words(line: &str) -> Vec<String> {
    let fields = line.split([' ', '\t']).filter(|w| !w.contains("LABEL="));
    let fields = fields.map(|w| w.split('/').next().unwrap_or(w));
    let parts = fields.flat_map(|w| w.split(|c: char| !(c.is_ascii_alphanumeric() || "_=-".contains(c))));
    parts.map(|p| p.split('=').next().unwrap_or(p).to_ascii_lowercase()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_protects_is_looked_for_on_the_whole_line() {
        for (before, after, expected) in [
            ("LABEL=a /a xfs nofail,nosuid 0 0", "LABEL=a /a xfs nosuid,nofail 0 0", Kept::All),
            ("LABEL=a /a xfs nofail,nosuid 0 0", "LABEL=a /a xfs nofail 0 0", Kept::Lost),
            ("LABEL=a /a nosuid,nofail 0 0", "LABEL=a /a xfs defaults 0 0", Kept::Lost),
            ("LABEL=a /a xfs noatime;nofail 0 0", "LABEL=a /a xfs defaults 0 0", Kept::Lost),
            ("LABEL=a /a xfs noatime?nofail 0 0", "LABEL=a /a xfs defaults 0 0", Kept::Lost),
            ("LABEL=a /a xfs NOFAIL 0 0", "LABEL=a /a xfs defaults 0 0", Kept::Lost),
            ("LABEL=a /a xfs RO 0 0", "LABEL=a /a xfs rw 0 0", Kept::Lost),
            ("LABEL=a /a xfs ro,rw 0 0", "LABEL=a /a xfs rw 0 0", Kept::All),
            ("LABEL=a /a vfat umask=077 0 0", "LABEL=a /a vfat defaults 0 0", Kept::Lost),
            ("LABEL=a /a vfat uid=keeper 0 0", "LABEL=a /a vfat uid=1000 0 0", Kept::All),
            ("LABEL=a /a ext4 umask=077 0 0", "LABEL=a /a ext4 defaults 0 0", Kept::ButRefused),
            ("LABEL=a /srv/ro xfs defaults 0 0", "LABEL=a /srv/ro xfs noatime 0 0", Kept::All),
            ("LABEL=a /a xfs defaults 0 0LABEL=b /b xfs ro 0 0", "LABEL=a /a xfs defaults 0 0", Kept::Lost),
        ] {
            let tables = [before, after].map(|t| Table::parse(format!("{t}\n")));
            assert_eq!(kept(&tables[0], 1, &tables[1], 1..=1, &[]), expected, "{before}");
        }
    }
}
