//! Values in the form in which the kernel shows them once a file system is mounted:
//! counted in other units, in octal with its width, numbers as decimal, words in short
//! (all recorded: tests/truth_shown.rs). What hangs on the host, such as a percentage of
//! its memory or the number of a user, stays as it is written.

use bradawl_facts::size::{kernel_number, of_kernel};

/// How the values of an option are shown.
#[derive(Clone, Copy)]
enum Shown {
    /// In octal, of so many digits at least; bits beyond the mask are dropped.
    Octal(usize, i64),
    /// A number, and root as 0.
    Number,
    /// A count with a unit as a plain number.
    Count,
    /// A count with a unit, from 0 to this.
    AtMost(i64),
    /// In KiB, up to the next whole one of so many bytes.
    Kib(i64),
    /// In the largest of K and M that it reaches.
    Page,
    /// A word as another.
    Words(&'static [(&'static str, &'static str)]),
    /// A path from the top, without slashes that say nothing.
    Path,
}

use Shown::{AtMost, Count, Kib, Number, Octal, Page, Path, Words};

/// Types, options, form.
const ROWS: &[(&[&str], &[&str], Shown)] = &[
    (&["tmpfs", "devpts"], &["mode", "ptmxmode"], Octal(3, 0o7777)),
    (&["hugetlbfs"], &["mode"], Octal(1, 0o1777)),
    (&["debugfs", "tracefs"], &["mode"], Octal(1, 0o7777)),
    (&["bpf"], &["mode"], Octal(1, 0o6777)),
    (&["vfat", "msdos", "exfat", "ntfs3"], &["fmask", "dmask"], Octal(4, i64::MAX)),
    (&["vfat", "msdos", "exfat"], &["allow_utime"], Octal(4, 0o7777)),
    (&["udf"], &["umask"], Octal(1, i64::MAX)),
    (&["devtmpfs"], &["mode"], Octal(3, 0o7777)),
    (&["udf"], &["mode", "dmode"], Octal(1, 0o777)),
    (
        &[
            "tmpfs",
            "devpts",
            "jfs",
            "udf",
            "debugfs",
            "vfat",
            "msdos",
            "exfat",
            "iso9660",
            "hugetlbfs",
            "ntfs3",
            "tracefs",
        ],
        &["uid", "gid"],
        Number,
    ),
    (&["ext2", "ext3", "ext4"], &["resuid", "resgid", "commit", "stripe", "sb"], Number),
    (&["tmpfs", "devtmpfs", "hugetlbfs"], &["nr_inodes"], Count),
    (&["hugetlbfs"], &["size"], Count),
    (&["hugetlbfs"], &["pagesize"], Page),
    (&["tmpfs", "devtmpfs"], &["size"], Kib(4096)),
    (&["xfs"], &["allocsize", "logbsize"], Kib(1024)),
    (
        &["proc"],
        &["hidepid"],
        Words(&[("0", "off"), ("1", "noaccess"), ("2", "invisible"), ("4", "ptraceable")]),
    ),
    (&["btrfs"], &["compress"], Words(&[("zstd", "zstd:3"), ("zlib", "zlib:3")])),
    (
        &["btrfs"],
        &["rescue"],
        Words(&[
            ("ibadroots", "ignorebadroots"),
            ("idatacsums", "ignoredatacsums"),
            ("isuperflags", "ignoresuperflags"),
            ("imetacsums", "ignoremetacsums"),
        ]),
    ),
    (&["btrfs"], &["subvol"], Path),
    (&["btrfs"], &["max_inline"], AtMost(4096)),
    (&["xfs"], &["logbufs"], Words(&[("0", "8")])),
    (&["f2fs"], &["checkpoint"], Words(&[("disable", "disable:0")])),
    (&["f2fs"], &["compress_algorithm"], Words(&[("lz4:0", "lz4"), ("zstd", "zstd:1"), ("zstd:0", "zstd")])),
    (&["f2fs"], &["alloc_mode"], Words(&[("default", "reuse")])),
    (&["overlay"], &["uuid"], Words(&[("auto", "on")])),
    (&["vfat", "msdos"], &["check"], Words(&[("relaxed", "r"), ("strict", "s"), ("normal", "n")])),
    (&["iso9660"], &["map"], Words(&[("acorn", "a"), ("normal", "n"), ("off", "o")])),
];

/// The value as the kernel shows it; `None`: as it is written.
pub(super) fn shown(fstype: &str, name: &str, value: &str) -> Option<String> {
    let (.., form) =
        ROWS.iter().find(|(types, names, _)| types.contains(&fstype) && names.contains(&name))?;
    match form {
        Octal(width, mask) => {
            let number = i64::from_str_radix(value, 8).ok()?;
            Some(format!("{:0width$o}", number & mask))
        }
        Number if value == "root" => Some("0".to_owned()),
        Number => kernel_number(value).filter(|n| *n >= 0).map(|n| n.to_string()),
        Count => of_kernel(value, SIZES).map(|n| n.to_string()),
        AtMost(most) => of_kernel(value, SIZES).map(|n| n.clamp(0, *most).to_string()),
        Kib(step) => {
            let bytes = of_kernel(value, SIZES).filter(|n| *n >= 0)?;
            let whole = bytes.checked_add(step - 1)? / step * step;
            Some(format!("{}k", whole / 1024))
        }
        Page => {
            let bytes = of_kernel(value.trim_end_matches('B'), SIZES)?;
            Some(if bytes >= MIB { format!("{}M", bytes / MIB) } else { format!("{}K", bytes / 1024) })
        }
        Words(words) => words.iter().find(|(word, _)| *word == value).map(|(_, to)| (*to).to_owned()),
        Path => {
            let mut steps: Vec<&str> = Vec::new();
            for step in value.split('/').filter(|step| !matches!(*step, "" | ".")) {
                // Above the top is the top.
                match step {
                    ".." => steps.truncate(steps.len().saturating_sub(1)),
                    _ => steps.push(step),
                }
            }
            Some(format!("/{}", steps.join("/")))
        }
    }
}

/// Units of the kernel's sizes.
const SIZES: &str = "kmgtpe";
const MIB: i64 = 1 << 20;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn truth_table() {
        for (fstype, option, expected) in [
            ("tmpfs", "size=8M", "8192k"),
            ("tmpfs", "size=1", "4k"),
            ("tmpfs", "size=50%", ""),
            ("tmpfs", "mode=0750", "750"),
            ("devpts", "mode=0", "000"),
            ("vfat", "fmask=133", "0133"),
            ("hugetlbfs", "pagesize=2048K", "2M"),
            ("hugetlbfs", "size=1G", "1073741824"),
            ("proc", "hidepid=2", "invisible"),
            ("btrfs", "subvol=//home/", "/home"),
            ("btrfs", "subvol=.", "/"),
            ("btrfs", "compress=zstd", "zstd:3"),
            ("btrfs", "compress=zstd:1", ""),
            ("xfs", "allocsize=1m", "1024k"),
            ("vfat", "uid=0x10", "16"),
            ("vfat", "uid=tide", ""),
            ("ext4", "data=journal", ""),
            ("tmpfs", "size=99999999999999999999", ""),
        ] {
            let (name, value) = option.split_once('=').unwrap();
            assert_eq!(shown(fstype, name, value).unwrap_or_default(), expected, "{fstype} {option}");
        }
    }
}
