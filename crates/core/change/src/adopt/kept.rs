//! Which of the options that the kernel lists somebody chose: the others are
//! what it does by itself.

use bradawl_catalogue::options::FLAGS;
use bradawl_facts::record::Mount;
use bradawl_facts::size::{exact, of_kernel};

/// Options of single types that are listed only when they were chosen, or
/// whose usual value is the second word.
const CHOSEN: [(&str, &[(&str, &str)]); 9] = [
    (
        "ext",
        &[
            ("errors", "continue"),
            ("data", "ordered"),
            ("discard", ""),
            ("commit", "5"),
            ("usrquota", ""),
            ("grpquota", ""),
            ("prjquota", ""),
            ("nobarrier", ""),
            ("journal_checksum", ""),
        ],
    ),
    (
        "xfs",
        &[
            ("discard", ""),
            ("usrquota", ""),
            ("grpquota", ""),
            ("prjquota", ""),
            ("wsync", ""),
            ("dax", "inode"),
        ],
    ),
    (
        "btrfs",
        &[
            ("subvol", "/"),
            ("compress", ""),
            ("compress-force", ""),
            ("autodefrag", ""),
            ("nodatacow", ""),
            ("nodatasum", ""),
            ("degraded", ""),
            ("commit", "30"),
            ("user_subvol_rm_allowed", ""),
        ],
    ),
    ("f2fs", &[("compress_algorithm", ""), ("discard", ""), ("background_gc", "on")]),
    (
        "vfat",
        &[("uid", "0"), ("gid", "0"), ("fmask", "0022"), ("dmask", "0022"), ("flush", ""), ("utf8", "")],
    ),
    ("exfat", &[("uid", "0"), ("gid", "0"), ("fmask", "0022"), ("dmask", "0022")]),
    ("ntfs3", &[("uid", "0"), ("gid", "0"), ("fmask", "0022"), ("dmask", "0022")]),
    ("tmpfs", &[("size", ""), ("mode", "1777"), ("uid", "0"), ("gid", "0"), ("noswap", "")]),
    ("nfs", &[("soft", ""), ("vers", ""), ("sec", "sys"), ("nolock", "")]),
];

/// The options of a mount that an entry needs to make it so again.
pub(super) fn kept(mount: &Mount) -> Vec<String> {
    let family = |name: &str| match name {
        "ext" => matches!(mount.fstype.as_str(), "ext2" | "ext3" | "ext4"),
        "nfs" => matches!(mount.fstype.as_str(), "nfs" | "nfs4"),
        _ => mount.fstype == name,
    };
    let of_type = CHOSEN.iter().find(|(name, _)| family(name)).map_or(&[][..], |(_, options)| options);
    let chosen = |option: &&str| {
        let (name, value) = option.split_once('=').unwrap_or((option, ""));
        let row = of_type.iter().find(|(n, _)| *n == name);
        FLAGS.contains(option) || row.is_some_and(|(_, usual)| usual.is_empty() || *usual != value)
    };
    // An async discard is the kernel's own choice.
    let listed = mount.options.split(',').filter(chosen).filter(|o| *o != "discard=async");
    one_mask(listed.map(as_written).collect())
}

/// As people write it: the kernel lists subvolumes from the top, sizes in KiB,
/// modes without the first zero.
fn as_written(option: &str) -> String {
    match option.split_once('=') {
        Some(("subvol", path)) => format!("subvol={}", path.trim_start_matches('/')),
        Some(("mode", mode)) if mode.len() == 3 => format!("mode=0{mode}"),
        Some(("size", size)) => format!("size={}", rounded(size)),
        _ => option.to_owned(),
    }
}

fn rounded(size: &str) -> String {
    let bytes = of_kernel(size, "kmg").and_then(|bytes| u64::try_from(bytes).ok());
    // Kernels tell sizes in kibibytes.
    bytes.filter(|b| *b > 0 && size.ends_with('k')).map_or_else(
        || size.to_owned(),
        |bytes| match exact(bytes) {
            kib if kib.ends_with('K') => size.to_owned(),
            larger => larger,
        },
    )
}

/// One mask for files and directories where both are the same.
fn one_mask(options: Vec<String>) -> Vec<String> {
    let mask = |name: &str| options.iter().find_map(|o| o.strip_prefix(name));
    let Some(same) = mask("fmask=").filter(|m| mask("dmask=") == Some(m)).map(|m| format!("umask={m}"))
    else {
        return options;
    };
    let kept = options.into_iter().filter(|o| !o.starts_with("dmask="));
    kept.map(|o| if o.starts_with("fmask=") { same.clone() } else { o }).collect()
}
