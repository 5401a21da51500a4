use super::{Form, List, Opt, Spec, UNSIGNED, flag, number, octal, one_of, row, strict};

/// UDF, on discs and sticks.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 9).whole(whole);

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    let other = list.typical && list.value("session").is_some_and(|v| !matches!(v, "0" | "00"));
    match other {
        true => list.refuse("session", "the disc has one session, whose number is 0"),
        false => None,
    }
}

const OPTIONS: &[Opt] = &[
    row("uid", Form::IntOr(&["forget", "ignore"]), "owner of all files").until(5, 16),
    row("uid", Form::IdOr(&["forget", "ignore"]), "owner of all files").since(5, 16).until(6, 9),
    row("uid", Form::Decimal(0, i32::MAX as i64), "owner of all files").since(6, 9),
    row("gid", Form::IntOr(&["forget", "ignore"]), "group of all files").until(5, 16),
    row("gid", Form::IdOr(&["forget", "ignore"]), "group of all files").since(5, 16).until(6, 9),
    row("gid", Form::Decimal(0, i32::MAX as i64), "group of all files").since(6, 9),
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
    number("session", 0, i32::MAX as i64, "session of the disc").until(6, 9),
    number("session", 0, u32::MAX as i64, "session of the disc").since(6, 9),
    number("lastblock", 0, i32::MAX as i64, "last block of the disc").until(6, 9),
    number("lastblock", 0, u32::MAX as i64, "last block of the disc").since(6, 9),
    number("anchor", 0, i32::MAX as i64, "where the anchor is").until(6, 9),
    number("anchor", 0, u32::MAX as i64, "where the anchor is").since(6, 9),
    row("partition", UNSIGNED, "leave it out").until(6, 9).idle(),
    number("partition", 0, u32::MAX as i64, "leave it out").since(6, 9).idle(),
    row("volume", UNSIGNED, "leave it out").until(6, 9).idle(),
    number("volume", 0, u32::MAX as i64, "leave it out").since(6, 9).idle(),
    row("fileset", UNSIGNED, "leave it out").until(6, 9).idle(),
    number("fileset", 0, u32::MAX as i64, "leave it out").since(6, 9).idle(),
    row("rootdir", UNSIGNED, "leave it out").until(6, 9).idle(),
    number("rootdir", 0, u32::MAX as i64, "leave it out").since(6, 9).idle(),
];
