use super::{Form, Opt, Spec, flag, number, octal, one_of, row, strict};

/// UDF, on discs and sticks.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 9);

const OPTIONS: &[Opt] = &[
    row("uid", Form::IntOr(&["forget", "ignore"]), "owner of all files").until(5, 16),
    row("uid", Form::IdOr(&["forget", "ignore"]), "owner of all files").since(5, 16).until(6, 9),
    row("uid", Form::Id, "owner of all files").since(6, 9),
    row("gid", Form::IntOr(&["forget", "ignore"]), "group of all files").until(5, 16),
    row("gid", Form::IdOr(&["forget", "ignore"]), "group of all files").since(5, 16).until(6, 9),
    row("gid", Form::Id, "group of all files").since(6, 9),
    octal("umask", "permissions removed from all").until(6, 9).default("0"),
    number("umask", 0, u32::MAX as i64, "permissions removed from all, as a plain number")
        .since(6, 9)
        .default("0"),
    octal("mode", "permissions of files").until(6, 9),
    number("mode", 0, u32::MAX as i64, "permissions of files, as a plain number").since(6, 9),
    octal("dmode", "permissions of directories").until(6, 9),
    number("dmode", 0, u32::MAX as i64, "permissions of directories, as a plain number").since(6, 9),
    one_of("bs", &["512", "1024", "2048", "4096"], "block size"),
    one_of("iocharset", super::CHARSETS, "character set of names").default("utf8"),
    flag("unhide", "shows hidden files"),
    flag("undelete", "shows deleted files"),
    flag("adinicb", "small files inside inodes"),
    flag("noadinicb", "small files outside inodes"),
    flag("shortad", "short addresses"),
    flag("longad", "long addresses"),
    flag("nostrict", "passes over wrong version numbers"),
    flag("novrs", "does not look for the volume's mark"),
    flag("utf8", "names in UTF-8"),
    number("session", 0, i32::MAX as i64, "session of the disc"),
    number("lastblock", 0, i32::MAX as i64, "last block of the disc"),
    number("anchor", 0, i32::MAX as i64, "where the anchor is"),
    number("partition", 0, i32::MAX as i64, "leave it out").idle(),
    number("volume", 0, i32::MAX as i64, "leave it out").idle(),
    number("fileset", 0, i32::MAX as i64, "leave it out").idle(),
    number("rootdir", 0, i32::MAX as i64, "leave it out").idle(),
];
