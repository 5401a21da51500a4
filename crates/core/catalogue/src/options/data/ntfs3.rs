use super::{Form, Opt, Spec, flag, octal_value, one_of, row, strict};

/// NTFS by the kernel's own driver.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 15);

/// Up to the bits that permissions have.
const PERMISSIONS: Form =
    Form::Shaped(|v| octal_value(v).is_some_and(|n| n <= 0o7777), "permission bits in octal, up to 7777");

const OPTIONS: &[Opt] = &[
    row("uid", Form::Uid, "owner of all files").default("who mounts it: root at boot"),
    row("gid", Form::Uid, "group of all files").default("who mounts it: root at boot"),
    row("umask", PERMISSIONS, "permissions removed from all").default("022 at boot"),
    row("dmask", PERMISSIONS, "permissions removed from directories").default("umask"),
    row("fmask", PERMISSIONS, "permissions removed from files").default("umask"),
    one_of("iocharset", super::CHARSETS, "character set of names")
        .default("as the kernel was built, mostly utf8"),
    flag("discard", "tells the disk at once what is free"),
    flag("force", "mounts although it is marked as dirty")
        .caution("Windows left it unfinished: writing may destroy files; run Windows' own check first"),
    flag("sparse", "new files may have holes"),
    flag("nohidden", "does not show hidden files"),
    flag("hide_dot_files", "files that begin with a dot are hidden").since(6, 0),
    flag("windows_names", "only names that Windows accepts").since(6, 2),
    flag("showmeta", "shows its own files"),
    flag("sys_immutable", "system files cannot be changed"),
    flag("prealloc", "reserves room ahead"),
    flag("nocase", "names without case").since(6, 2),
];
