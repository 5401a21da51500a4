//! What single words may be.

use bradawl_catalogue::fstypes::{Lives, known};
use bradawl_catalogue::options::is_option;
use bradawl_resolve::Source;

pub(super) type Words = Vec<String>;

/// Words that people write for a type, and the type that they mean.
const TYPE_NAMES: [(&str, &str); 14] = [
    ("bind", "none"),
    ("rbind", "none"),
    ("smbfs", "cifs"),
    ("smb", "cifs"),
    ("samba", "cifs"),
    ("fat", "vfat"),
    ("fat16", "vfat"),
    ("fat32", "vfat"),
    ("linux-swap", "swap"),
    ("iso", "iso9660"),
    ("cdfs", "iso9660"),
    ("nfs3", "nfs"),
    ("nfsv4", "nfs4"),
    ("ext4fs", "ext4"),
];

/// The type that a word means that is none.
pub(super) fn type_meant(word: &str) -> Option<&'static str> {
    TYPE_NAMES.iter().find(|(name, _)| name.eq_ignore_ascii_case(word)).map(|(_, meant)| *meant)
}

/// Whether a word can stand in the type field.
pub(super) fn is_type(word: &str) -> bool {
    let one = |t: &str| known(t).is_some() || t == "auto" || t.starts_with("fuse.");
    !word.is_empty() && (word.split(',').all(one) || type_meant(word).is_some())
}

/// Whether a type has no source but a word.
pub(super) fn in_memory(fstype: &str) -> bool {
    known(fstype).is_some_and(|t| t.lives == Lives::InKernel && t.name != "none")
}

/// Whether a word can only be a source.
pub(super) fn is_source(word: &str) -> bool {
    // A word with a value and without a slash may be an option.
    let bare = |w: &str| !w.contains([',', '=']);
    match Source::parse(word) {
        Source::Tag(_, value) => !value.is_empty(),
        Source::Device(_) => true,
        Source::Network(_) => true,
        Source::Strange(text) => bare(&text),
        Source::Path(_) | Source::Word(_) => false,
    }
}

/// Whether a word can only be a path.
pub(super) fn is_path(word: &str) -> bool {
    word.starts_with('/') && !word.starts_with("//") && !word.starts_with("/dev/")
}

/// Whether a word is a list of options: at least half of them are known.
pub(super) fn is_options(word: &str) -> bool {
    let names: Vec<&str> = word.split(',').map(name_of).filter(|n| !n.is_empty()).collect();
    let sound = |n: &&&str| is_option(n) || is_option(&n.to_ascii_lowercase());
    let count = names.iter().filter(sound).count();
    count > 0 && count * 2 >= names.len()
}

/// An option's name.
pub(super) fn name_of(option: &str) -> &str {
    option.split_once('=').map_or(option, |(name, _)| name)
}

/// Whether a word is a number of the fifth or sixth field.
pub(super) fn is_number(word: &str) -> bool {
    word.len() == 1 && word.as_bytes()[0].is_ascii_digit()
}
