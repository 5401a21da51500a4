use super::{Form, Opt, Spec, flag, octal_value, one_of, row, strict};

/// JFS.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 13).reads_twice();

const OPTIONS: &[Opt] = &[
    row("uid", Form::Uid, "owner of all files"),
    row("gid", Form::Uid, "group of all files"),
    row(
        "umask",
        Form::Shaped(|v| octal_value(v).is_some_and(|n| n <= 0o777), "permission bits in octal, up to 777"),
        "permissions removed from all",
    ),
    row(
        "iocharset",
        Form::Shaped(
            |v| v == "none" || super::CHARSETS.contains(&v),
            "a character set of the kernel, or none",
        ),
        "character set of names",
    ),
    row("resize", Form::OneOf(&["0"]), "makes it larger, on a remount only"),
    flag("integrity", "writes the journal; the default"),
    flag("nointegrity", "writes no journal: for restoring only").caution("only for restoring from a backup"),
    one_of("errors", &["continue", "panic", "remount-ro"], "what an error on disk does")
        .default("remount-ro"),
    flag("quota", "quotas for users"),
    flag("noquota", "no quotas"),
    flag("usrquota", "quotas for users"),
    flag("grpquota", "quotas for groups"),
    row("discard", Form::FlagOrNumber(0, u32::MAX as i64), "tells the disk at once what is free"),
    flag("nodiscard", "does not tell"),
];
