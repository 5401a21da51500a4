//! Mount options: which ones exist, for which type, in which form, since and
//! until which kernel, and what becomes of a given list.
//!
//! The rows are data, one file per type under `data/`; what they claim is
//! held against recorded answers of kernels 5.10, 6.1, 6.12 and 6.18 (see the
//! test `truth_options`).

mod built;
mod data;
mod effective;
mod example;
mod form;
mod habits;
mod here;
mod judge;
mod kind;
mod label;
mod list;
mod near;
mod program;
mod protection;
mod purpose;
mod shown;
mod topic;
mod verdict;

use bradawl_facts::size::Digits;
pub use built::built_for;
pub use data::{Limit as TmpfsLimit, limit as tmpfs_limit};
pub use effective::{FLAGS, MOUNT_FLAGS, effective, effective_of, in_force, is_usual};
pub use example::example;
pub use form::Form;
pub use label::is_label;
pub use list::List;
pub use near::{is_option, near_names, near_value};
pub use program::{MountBy, program_of, program_on};
pub use protection::weakens;
pub use purpose::{Advice, PURPOSES, Purpose, purposes};
pub use topic::{Topic, topic};
pub use verdict::{About, Asked, Checked, MountSource, Verdict, check};

use bradawl_facts::Version;

/// One option a file system type, or every type, takes.
#[derive(Debug, Clone, Copy)]
pub struct Opt {
    /// Its name, without value.
    pub name: &'static str,
    /// What may stand after the name.
    pub form: Form,
    /// First kernel that takes it; `None`: older than all we know.
    pub since: Option<Version>,
    /// First kernel that refuses it again.
    pub until: Option<Version>,
    /// First kernel on which it does nothing any more.
    pub idle: Option<Version>,
    /// First version of the program that reads it which knows it, where that is
    /// not the kernel: `256.0` of the init system, `2.38` of the mount program, of the
    /// type's own program.
    pub reader_since: Option<Version>,
    /// First version of the type's own program that looks at its value; `None`: all
    /// do that.
    pub judged_since: Option<Version>,
    /// First version of it that passes over what those before refuse as a value.
    pub judged_until: Option<Version>,
    /// What it does, in one line; for retired ones what to do instead.
    pub meaning: &'static str,
    /// What holds without it; empty where there is nothing to say.
    pub default: &'static str,
    /// Options that it brings with it.
    pub implies: &'static [&'static str],
    /// Options that it takes back, and that take it back: the later counts.
    pub excludes: &'static [&'static str],
    /// Options beside which the mount is refused; with a value behind `=` only
    /// that value.
    pub conflicts: &'static [&'static str],
    /// Options without which the mount is refused.
    pub needs: &'static [&'static str],
    /// What to think of before it is used; empty where there is nothing.
    pub caution: &'static str,
    /// Who acts on it; `None`: whoever reads the options of the type.
    pub reader: Option<Reader>,
}

/// Who acts on an option.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reader {
    /// The kernel's driver of the type, or the kernel for every type.
    Kernel,
    /// The mount program.
    MountProgram,
    /// The mount program and the init system.
    Boot,
    /// The init system alone; the mount program keeps it to itself.
    InitSystem,
    /// The type's own mounting program.
    Helper,
    /// The program that activates swap, and the init system.
    SwapProgram,
}

impl Reader {
    /// Who that is, in words.
    pub fn words(self) -> &'static str {
        match self {
            Reader::Kernel => "the kernel",
            Reader::MountProgram => "the mount program",
            Reader::Boot => "the mount program and the init system",
            Reader::InitSystem => "the init system",
            Reader::Helper => "the type's own mounting program",
            Reader::SwapProgram => "swapon and the init system",
        }
    }
}

/// The options of a type.
#[derive(Debug, Clone, Copy)]
pub struct Spec {
    /// Its options; a name may stand several times, for other kernels.
    pub rows: &'static [Opt],
    /// First kernel to which its options are given one by one.
    pub one_by_one: Option<Version>,
    /// First kernel that refuses options it does not know; before it, all are
    /// passed over.
    pub strict: Version,
    /// Which parser reads its numbers where the options come as a list.
    pub digits: Digits,
    /// What whole lists run into.
    pub whole: fn(&List<'_>) -> Option<(usize, String)>,
    /// Words of every type that its own mounting program ends the mount at.
    pub not_taken: &'static [NotTaken],
    /// Whether the mount program hands flags that have a value on to it, as words of
    /// its own: those of these that it takes for the flag all the same.
    pub handed_flags: Option<&'static [&'static str]>,
    /// Whether others than these may be taken: by a program that is not known.
    pub open: bool,
    /// Whether its program takes names in capitals, and `_` for `-`.
    pub folds: bool,
    /// Who acts on them.
    pub reader: Reader,
    /// Where the rows come from.
    pub source: &'static str,
}

/// A word of every type that the program of one type ends the mount at.
#[derive(Debug, Clone, Copy)]
pub struct NotTaken {
    /// The word.
    pub name: &'static str,
    /// First version of the mount program that hands it on.
    pub since: Option<Version>,
    /// First version with which it is taken.
    pub until: Option<Version>,
}

impl NotTaken {
    /// With which mount programs, in words.
    pub fn words(&self) -> &'static str {
        match (self.since, self.until) {
            (Some(_), _) => "with mount programs since 2.39",
            (None, Some(_)) => "with mount programs before 2.39",
            (None, None) => "with every mount program",
        }
    }
}

/// The word of every type that the program of this one ends the mount at; `None`: it
/// does not.
pub fn ended_by(fstype: &str, name: &str) -> Option<&'static NotTaken> {
    of_type(fstype)?.not_taken.iter().find(|word| word.name == name)
}

impl Spec {
    /// Whether a row is about the option of this name.
    fn is_about(&self, row: &Opt, name: &str) -> bool {
        let folded = || row.name.eq_ignore_ascii_case(&name.replace('_', "-"));
        row.name == name || self.folds && folded()
    }

    /// Whether its own mounting program ends the mount at a word of every type.
    fn stops_at(&self, name: &str, program: Version) -> bool {
        let of_time = |word: &NotTaken| {
            word.since.is_none_or(|since| program >= since) && word.until.is_none_or(|until| program < until)
        };
        self.not_taken.iter().any(|word| word.name == name && of_time(word))
    }

    /// Which parser reads numbers among the options on a kernel; `None`: the kernel
    /// is not known.
    fn digits_on(&self, kernel: Option<Version>) -> Option<Digits> {
        let kernel = kernel?;
        let strict = self.one_by_one.is_some_and(|since| kernel >= since);
        Some(if strict { Digits::Strict } else { self.digits })
    }
}

/// The options of a type beyond those every type takes; `None` when the type
/// is not in the catalogue.
pub fn of_type(fstype: &str) -> Option<&'static Spec> {
    data::spec(fstype)
}

/// The name under which the options of a type are listed: `sshfs` of `fuse.sshfs`.
pub fn listed_as(fstype: &str) -> &str {
    data::listed_as(fstype)
}

/// The options every type takes: the kernel's flags, the mount program's own,
/// the init system's.
pub fn common() -> &'static [Opt] {
    data::COMMON
}

/// Where what is said of [`common`] comes from.
pub const COMMON_SOURCE: &str =
    "mount(8), systemd.mount(5) and systemd.swap(5); recorded answers of kernels 5.10, 6.1, 6.12 and 6.18";

/// The types in the catalogue.
pub fn types() -> impl Iterator<Item = &'static str> {
    data::types()
}

impl Opt {
    /// `(since systemd 256)`, where the program that reads it has not always
    /// known it; empty for others.
    pub fn reader_since_words(&self) -> String {
        match (self.reader, self.reader_since) {
            (Some(Reader::InitSystem), Some(Version(since, _))) => format!(" (since systemd {since})"),
            (None, Some(since)) => format!(" (since version {since} of its program)"),
            (_, Some(since)) => format!(" (since mount {since})"),
            (_, None) => String::new(),
        }
    }

    /// Whether a kernel takes it; unknown kernels do when all known ones do.
    pub fn taken_by(&self, kernel: Option<Version>) -> bool {
        match kernel {
            Some(k) => self.since.is_none_or(|since| k >= since) && self.until.is_none_or(|until| k < until),
            None => self.since.is_none() && self.until.is_none(),
        }
    }
}

/// The option that takes one back: `nobarrier` for `barrier`, and the other way
/// round.
pub fn opposite(rows: &'static [Opt], name: &str) -> Option<&'static str> {
    let bare = name.strip_prefix("no").unwrap_or_default();
    let negated = |other: &str| other.strip_prefix("no") == Some(name);
    let found = rows.iter().find(|r| r.name == bare).or_else(|| rows.iter().find(|r| negated(r.name)));
    found.map(|r| r.name)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rows_are_sound() {
        let specs = types().map(|t| (t, of_type(t).unwrap().rows)).chain([("common", common())]);
        for (fstype, rows) in specs {
            for (i, row) in rows.iter().enumerate() {
                assert!(!row.name.is_empty() && !row.name.contains(['=', ',', ' ']), "{fstype} {}", row.name);
                assert!(!row.meaning.is_empty() && !row.meaning.ends_with('.'), "{fstype} {}", row.name);
                if let (Some(since), Some(until)) = (row.since, row.until) {
                    assert!(since < until, "{fstype} {}", row.name);
                }
                // What it brings, needs or does not go with is an option too.
                for other in row.implies.iter().chain(row.excludes).chain(row.conflicts).chain(row.needs) {
                    let name = other.split('=').next().unwrap_or(other);
                    let exists = rows.iter().chain(common()).any(|r| r.name == name);
                    assert!(exists || other.contains(' '), "{fstype} {}: {other}", row.name);
                }
                for text in [row.default, row.caution] {
                    assert!(!text.ends_with('.'), "{fstype} {}", row.name);
                }
                // Twice only for kernels that do not overlap.
                for other in rows[..i].iter().filter(|r| r.name == row.name) {
                    let apart = |a: &Opt, b: &Opt| a.until.zip(b.since).is_some_and(|(u, s)| u <= s);
                    assert!(apart(other, row) || apart(row, other), "{fstype}: {} twice", row.name);
                }
            }
        }
        assert_eq!(opposite(of_type("ext4").unwrap().rows, "barrier"), Some("nobarrier"));
        assert_eq!(opposite(of_type("ext4").unwrap().rows, "noacl"), Some("acl"));
        assert_eq!(opposite(common(), "sync"), None);
        assert!(types().all(|name| of_type(name).is_some()));
    }
}
