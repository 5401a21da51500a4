use super::super::{Form, NotTaken, Opt, Reader, Spec, before_new, row, since_new, strict};

/// Directories laid over each other, by fuse-overlayfs: it passes over what it does
/// not know.
pub const SPEC: Spec = strict(OPTIONS)
    .strict_since(99, 0)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .without(NOT_TAKEN)
    .source("fuse-overlayfs(1); recorded answers of fuse-overlayfs 1.10 and 1.14");

const NOT_TAKEN: &[NotTaken] = &[before_new("nodiratime"), since_new("atime"), since_new("diratime")];

/// What its library knows and it does not.
const NOWHERE: Form = Form::Shaped(|_| true, "to be left out: it ends at it");

const NUMBER: Form = Form::FlagOrShaped(super::library::begins_with_number, "a number");
const MAPPING: Form = Form::FlagOrShaped(
    |v| v.is_empty() || v.split(':').count() % 3 == 0,
    "numbers by three, with colons between",
);

const OPTIONS: &[Opt] = &[
    row("lowerdir", Form::Text, "the directories below, the topmost first"),
    row("upperdir", Form::FlagOrAny, "where changes go"),
    row("workdir", Form::FlagOrAny, "a directory it needs beside it"),
    row("uidmapping", MAPPING, "how owners are translated"),
    row("gidmapping", MAPPING, "how groups are translated"),
    row("timeout", Form::FlagOrAny, "seconds that names and attributes are remembered"),
    row("threaded", NUMBER, "whether it works on several requests at once"),
    row("squash_to_root", Form::FlagOrAny, "all files are root's"),
    row("squash_to_uid", NUMBER, "owner of all files"),
    row("squash_to_gid", NUMBER, "group of all files"),
    row("static_nlink", Form::FlagOrAny, "directories have one name"),
    row("noacl", Form::FlagOrAny, "no access lists"),
    row("noxattrs", NUMBER, "without extended attributes"),
    row("fast_ino", NUMBER, "inode numbers without a look below"),
    row("fsync", NUMBER, "whether fsync counts"),
    row(
        "xattr_permissions",
        Form::FlagOrShaped(is_owner_mode, "0, 1 or 2"),
        "owners and permissions in attributes",
    ),
    row("redirect_dir", Form::FlagOrAny, "as of the kernel's overlay"),
    row("volatile", Form::FlagOrAny, "nothing is written out"),
    row("plugins", Form::FlagOrAny, "what fetches files"),
    row("kernel_cache", NOWHERE, "what was read is kept"),
    row("splice_read", NOWHERE, "reads without copying"),
    row("splice_write", NOWHERE, "writes without copying"),
    row("writeback", NUMBER, "whether writes are gathered"),
];

/// Read as a number of 32 bits, whatever stands above them.
fn is_owner_mode(value: &str) -> bool {
    let end = value.find(|c: char| !c.is_ascii_digit()).unwrap_or(value.len());
    value[..end].parse::<u64>().is_ok_and(|n| n & 0xffff_ffff <= 2)
}
