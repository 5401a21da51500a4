use super::{Form, Opt, Spec, flag, one_of, row, strict};

/// ReiserFS; gone from kernels since 6.13.
pub const SPEC: Spec = strict(OPTIONS).whole(|list| {
    let file =
        ["usrjquota", "grpjquota"].into_iter().find(|n| list.value(n).is_some_and(|v| !v.is_empty()))?;
    match list.has("jqfmt") {
        true => None,
        false => list.refuse(file, "it needs jqfmt beside it"),
    }
});

const ALLOCATOR: Form = Form::Shaped(
    |v| v.split(':').all(|word| ALLOCATORS.contains(&word.split('=').next().unwrap_or_default())),
    "ways of choosing blocks, with colons between them",
);
const ALLOCATORS: [&str; 16] = [
    "concentrating_formatted_nodes",
    "displacing_large_files",
    "displacing_new_packing_localities",
    "old_hashed_relocation",
    "new_hashed_relocation",
    "dirid_groups",
    "oid_groups",
    "packing_groups",
    "hashed_formatted_nodes",
    "skip_busy",
    "hundredth_slices",
    "old_way",
    "displace_based_on_dirid",
    "preallocmin",
    "preallocsize",
    "hashed_relocation",
];

const FILE: Form = Form::Shaped(|v| !v.contains('/'), "the name of a file in the root directory");

const OPTIONS: &[Opt] = &[
    row("tails", Form::OneOf(&["on", "off", "small"]), "ends of files packed together"),
    flag("notail", "ends of files are not packed together"),
    flag("conv", "converts an old format"),
    flag("nolog", "writes no journal"),
    flag("attrs", "inode attributes"),
    flag("noattrs", "no inode attributes"),
    flag("expose_privroot", "shows its own directory"),
    flag("user_xattr", "extended attributes of users"),
    flag("nouser_xattr", "no extended attributes of users"),
    flag("acl", "POSIX access lists"),
    flag("noacl", "no POSIX access lists"),
    row("data", Form::OneOf(&["journal", "ordered", "writeback"]), "what goes through the journal")
        .default("ordered"),
    one_of("barrier", &["none", "flush"], "flushes of the disk's cache").default("flush"),
    row("resize", Form::OneOf(&["0"]), "makes it larger, on a remount only"),
    row("commit", Form::Number(0, 4294967295), "seconds between commits").default("30"),
    one_of("errors", &["panic", "ro-remount"], "what an error on disk does"),
    flag("noquota", "no quotas"),
    flag("usrquota", "quotas for users"),
    flag("grpquota", "quotas for groups"),
    row("usrjquota", FILE, "file with user quotas"),
    row("grpjquota", FILE, "file with group quotas"),
    one_of("jqfmt", &["vfsold", "vfsv0"], "format of quotas"),
    row("block-allocator", ALLOCATOR, "where new data goes"),
];
