use super::{Form, Opt, Spec, flag, number, one_of, row, strict};

/// ISO 9660, on discs and in images.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 11);

const OPTIONS: &[Opt] = &[
    row("uid", Form::Id, "owner of all files").until(5, 16).default("0"),
    row("uid", Form::IdOr(&[]), "owner of all files").since(5, 16).default("0"),
    row("gid", Form::Id, "group of all files").until(5, 16).default("0"),
    row("gid", Form::IdOr(&[]), "group of all files").since(5, 16).default("0"),
    number("mode", 0, i32::MAX as i64, "permissions of files, as a plain number").until(6, 11),
    number("mode", 0, u32::MAX as i64, "permissions of files, as a plain number").since(6, 11),
    number("dmode", 0, i32::MAX as i64, "permissions of directories, as a plain number").until(6, 11),
    number("dmode", 0, u32::MAX as i64, "permissions of directories, as a plain number").since(6, 11),
    flag("norock", "without Rock Ridge names").caution("owners and permissions are not seen"),
    flag("nojoliet", "without Joliet names"),
    flag("unhide", "shows hidden files"),
    flag("hide", "does not show hidden files"),
    flag("showassoc", "shows associated files"),
    flag("cruft", "passes over high bytes of lengths"),
    flag("utf8", "names in UTF-8"),
    flag("nocompress", "does not unpack compressed files"),
    flag("overriderockperm", "mode and dmode count for Rock Ridge too"),
    one_of("iocharset", super::CHARSETS, "character set of names"),
    one_of("map", &["o", "n", "a", "off", "normal", "acorn"], "how names are changed").default("normal"),
    one_of("check", &["r", "s", "relaxed", "strict"], "how strict names are"),
    row("conv", Form::OneOf(&["a", "b", "m", "t", "auto", "binary", "mtext", "text"]), "leave it out")
        .until(6, 11),
    row("conv", Form::Text, "leave it out").since(6, 11),
    one_of("block", &["512", "1024", "2048"], "block size").default("2048"),
    number("session", 0, 99, "session of the disc"),
    number("sbsector", 0, u32::MAX as i64, "where the volume begins"),
];
