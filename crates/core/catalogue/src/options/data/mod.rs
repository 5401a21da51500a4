//! The rows. Sources: the kernel's Documentation/filesystems and its parsers,
//! the manual pages mount(8), ext4(5), xfs(5), btrfs(5), tmpfs(5), swapon(8),
//! systemd.mount(5), and recorded answers of real kernels.

mod bcachefs;
mod btrfs;
mod ceph;
mod cifs;
mod common;
mod devpts;
mod erofs;
mod exfat;
mod ext4;
mod f2fs;
mod fuse;
mod hugetlbfs;
mod init;
mod iso9660;
mod jfs;
mod kernel;
mod msdos;
mod network;
mod nfs;
mod nilfs2;
mod ntfs;
mod ntfs3;
mod overlay;
mod proc;
mod reiserfs;
mod squashfs;
mod swap;
mod tmpfs;
mod udf;
mod vfat;
mod xfs;

pub use common::COMMON;
pub use tmpfs::{Limit, limit};

use super::form::{
    Digits, UNSIGNED, decimal, number as number_value, octal as octal_value, size_bytes as size_value,
};
use super::program::NEW;
use super::{Form, List, NotTaken, Opt, Reader, Spec};
use bradawl_facts::Version;

/// The types, each kind of them by name.
pub fn types() -> impl Iterator<Item = &'static str> {
    SPECS.iter().chain(&FUSE).map(|(name, _)| *name)
}

static FUSE: [(&str, Spec); 12] = fuse::SPECS;

/// The types that the kernel or a program of its own mounts, with their options, by name.
const SPECS: &[(&str, Spec)] = &[
    ("9p", network::P9),
    ("bcachefs", bcachefs::SPEC),
    ("bpf", kernel::BPF),
    ("btrfs", btrfs::SPEC),
    ("ceph", ceph::SPEC),
    ("cgroup", kernel::CGROUP),
    ("cgroup2", kernel::CGROUP2),
    ("cifs", cifs::SPEC),
    ("configfs", kernel::NOTHING),
    ("debugfs", kernel::DEBUGFS),
    ("devpts", devpts::SPEC),
    ("devtmpfs", kernel::DEVTMPFS),
    ("erofs", erofs::SPEC),
    ("exfat", exfat::SPEC),
    ("ext2", ext4::EXT2),
    ("ext3", ext4::EXT3),
    ("ext4", ext4::SPEC),
    ("f2fs", f2fs::SPEC),
    ("hugetlbfs", hugetlbfs::SPEC),
    ("iso9660", iso9660::SPEC),
    ("jfs", jfs::SPEC),
    ("mqueue", kernel::NOTHING),
    ("msdos", msdos::SPEC),
    ("nfs", nfs::SPEC),
    ("nfs4", nfs::SPEC4),
    ("nilfs2", nilfs2::SPEC),
    ("none", kernel::BIND),
    ("ntfs", ntfs::ANY),
    ("ntfs-3g", ntfs::SPEC),
    ("ntfs3", ntfs3::SPEC),
    ("overlay", overlay::SPEC),
    ("proc", proc::SPEC),
    ("pstore", kernel::PSTORE),
    ("ramfs", kernel::RAMFS),
    ("reiserfs", reiserfs::SPEC),
    ("securityfs", kernel::NOTHING),
    ("smb3", cifs::SPEC),
    ("squashfs", squashfs::SPEC),
    ("swap", swap::SPEC),
    ("sysfs", kernel::NOTHING),
    ("tmpfs", tmpfs::SPEC),
    ("tracefs", kernel::TRACEFS),
    ("udf", udf::SPEC),
    ("vfat", vfat::SPEC),
    ("virtiofs", network::VIRTIOFS),
    ("xfs", xfs::SPEC),
];

/// The name under which the options of a type stand here: `sshfs` of `fuse.sshfs`.
pub fn listed_as(fstype: &str) -> &str {
    match fstype.split_once('.') {
        Some((kind, program)) if fuse::is_kind(kind) && fuse::is_known(program) => program,
        // Each program behind fuse has words of its own beside these.
        Some((kind, _)) if fuse::is_kind(kind) => "fuse",
        _ => fstype,
    }
}

/// The options of a type.
pub fn spec(fstype: &str) -> Option<&'static Spec> {
    let fstype = listed_as(fstype);
    let found = |specs: &'static [(&str, Spec)]| {
        specs.binary_search_by_key(&fstype, |(name, _)| *name).ok().map(|n| &specs[n].1)
    };
    found(SPECS).or_else(|| found(&FUSE))
}

/// A word that the program of a type ends at with every mount program.
const fn nowhere(name: &'static str) -> NotTaken {
    NotTaken { name, since: None, until: None }
}

/// The same for those that hand it on, as they do since their new mount calls.
const fn since_new(name: &'static str) -> NotTaken {
    NotTaken { name, since: Some(NEW), until: None }
}

/// The same for those before.
const fn before_new(name: &'static str) -> NotTaken {
    NotTaken { name, since: None, until: Some(NEW) }
}

/// The address of a host.
fn is_address(value: &str) -> bool {
    value.parse::<std::net::IpAddr>().is_ok()
}

const ADDRESS: Form = Form::Shaped(is_address, "the address of a host");

/// Character sets that kernels come with (fs/nls).
const CHARSETS: &[&str] = &[
    "utf8",
    "default",
    "ascii",
    "cp437",
    "cp737",
    "cp775",
    "cp850",
    "cp852",
    "cp855",
    "cp857",
    "cp860",
    "cp861",
    "cp862",
    "cp863",
    "cp864",
    "cp865",
    "cp866",
    "cp869",
    "cp874",
    "cp932",
    "cp936",
    "cp949",
    "cp950",
    "cp1250",
    "cp1251",
    "cp1255",
    "big5",
    "euc-jp",
    "euc-kr",
    "gb2312",
    "sjis",
    "tis-620",
    "koi8-r",
    "koi8-ru",
    "koi8-u",
    "iso8859-1",
    "iso8859-2",
    "iso8859-3",
    "iso8859-4",
    "iso8859-5",
    "iso8859-6",
    "iso8859-7",
    "iso8859-8",
    "iso8859-9",
    "iso8859-13",
    "iso8859-14",
    "iso8859-15",
    "macroman",
    "maccenteuro",
    "maccyrillic",
    "macgreek",
];
/// Code pages that kernels come with.
const CODEPAGES: &[&str] = &[
    "437", "737", "775", "850", "852", "855", "857", "860", "861", "862", "863", "864", "865", "866", "869",
    "874", "932", "936", "949", "950", "1250", "1251", "1255",
];
/// Former conversions of text.
const CONVERSIONS: &[&str] = &["b", "t", "a", "binary", "text", "auto"];

/// Most types: from the parsers, and held against recordings.
const RECORDED: &str =
    "the parser in the kernel's source; recorded answers of kernels 5.10, 6.1, 6.12 and 6.18";

/// A type that refuses what it does not know.
const fn strict(rows: &'static [Opt]) -> Spec {
    Spec {
        rows,
        one_by_one: None,
        strict: Version(0, 0),
        digits: Digits::Wrapping,
        whole: |_| None,
        not_taken: &[],
        handed_flags: None,
        open: false,
        folds: false,
        reader: Reader::Kernel,
        source: RECORDED,
    }
}

impl Spec {
    /// First kernel to which the options are given one by one.
    const fn one_by_one(self, major: u16, minor: u16) -> Spec {
        Spec { one_by_one: Some(Version(major, minor)), ..self }
    }

    /// Which reads its numbers twice where they come as a list.
    const fn reads_twice(self) -> Spec {
        Spec { digits: Digits::Both, ..self }
    }

    /// Which reads its numbers one by one, however the options come.
    const fn reads_strictly(self) -> Spec {
        Spec { digits: Digits::Strict, ..self }
    }

    /// Whose program is handed flags with values as they are, and takes these for the
    /// flags.
    const fn handed_flags(self, taken: &'static [&'static str]) -> Spec {
        Spec { handed_flags: Some(taken), ..self }
    }

    /// First kernel that refuses what it does not know.
    const fn strict_since(self, major: u16, minor: u16) -> Spec {
        Spec { strict: Version(major, minor), ..self }
    }

    /// Whose options others may extend.
    const fn open(self) -> Spec {
        Spec { open: true, ..self }
    }

    /// Whose program takes names in capitals, and `_` for `-`.
    const fn folds(self) -> Spec {
        Spec { folds: true, ..self }
    }

    /// With words of every type that its program does not take.
    const fn without(self, not_taken: &'static [NotTaken]) -> Spec {
        Spec { not_taken, ..self }
    }

    const fn by(self, reader: Reader) -> Spec {
        Spec { reader, ..self }
    }

    const fn source(self, source: &'static str) -> Spec {
        Spec { source, ..self }
    }

    const fn whole(self, whole: fn(&List<'_>) -> Option<(usize, String)>) -> Spec {
        Spec { whole, ..self }
    }
}

const fn row(name: &'static str, form: Form, meaning: &'static str) -> Opt {
    Opt {
        name,
        form,
        since: None,
        until: None,
        idle: None,
        reader_since: None,
        judged_since: None,
        judged_until: None,
        meaning,
        default: "",
        implies: &[],
        excludes: &[],
        conflicts: &[],
        needs: &[],
        caution: "",
        reader: None,
    }
}

const fn since(major: u16, minor: u16, row: Opt) -> Opt {
    Opt { since: Some(Version(major, minor)), ..row }
}

const fn until(major: u16, minor: u16, row: Opt) -> Opt {
    Opt { until: Some(Version(major, minor)), ..row }
}

const fn flag(name: &'static str, meaning: &'static str) -> Opt {
    row(name, Form::Flag, meaning)
}

const fn one_of(name: &'static str, words: &'static [&'static str], meaning: &'static str) -> Opt {
    row(name, Form::OneOf(words), meaning)
}

const fn number(name: &'static str, min: i64, max: i64, meaning: &'static str) -> Opt {
    row(name, Form::Number(min, max), meaning)
}

const fn octal(name: &'static str, meaning: &'static str) -> Opt {
    row(name, Form::Octal, meaning)
}

impl Opt {
    const fn since(self, major: u16, minor: u16) -> Opt {
        since(major, minor, self)
    }

    const fn until(self, major: u16, minor: u16) -> Opt {
        until(major, minor, self)
    }

    /// Taken, and without effect.
    const fn idle(self) -> Opt {
        Opt { idle: Some(Version(0, 0)), ..self }
    }

    /// Taken, and without effect from this kernel on.
    const fn idle_since(self, major: u16, minor: u16) -> Opt {
        Opt { idle: Some(Version(major, minor)), ..self }
    }

    const fn default(self, default: &'static str) -> Opt {
        Opt { default, ..self }
    }

    const fn implies(self, implies: &'static [&'static str]) -> Opt {
        Opt { implies, ..self }
    }

    const fn excludes(self, excludes: &'static [&'static str]) -> Opt {
        Opt { excludes, ..self }
    }

    const fn conflicts(self, conflicts: &'static [&'static str]) -> Opt {
        Opt { conflicts, ..self }
    }

    const fn needs(self, needs: &'static [&'static str]) -> Opt {
        Opt { needs, ..self }
    }

    const fn reader_since(self, major: u16, minor: u16) -> Opt {
        Opt { reader_since: Some(Version(major, minor)), ..self }
    }

    const fn judged_until(self, major: u16, minor: u16) -> Opt {
        Opt { judged_until: Some(Version(major, minor)), ..self }
    }

    const fn judged_since(self, major: u16, minor: u16) -> Opt {
        Opt { judged_since: Some(Version(major, minor)), ..self }
    }

    const fn caution(self, caution: &'static str) -> Opt {
        Opt { caution, ..self }
    }

    const fn by(self, reader: Reader) -> Opt {
        Opt { reader: Some(reader), ..self }
    }
}
