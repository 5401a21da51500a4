use super::{Form, Opt, Spec, flag, number, octal, one_of, row, strict};

/// exFAT.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 7);

const OPTIONS: &[Opt] = &[
    row("uid", Form::AnyUid, "owner of all files").until(6, 11).default("who mounts it: root at boot"),
    row("uid", Form::Uid, "owner of all files").since(6, 11).default("who mounts it: root at boot"),
    row("gid", Form::AnyUid, "group of all files").until(6, 11).default("who mounts it: root at boot"),
    row("gid", Form::Uid, "group of all files").since(6, 11).default("who mounts it: root at boot"),
    octal("umask", "permissions removed from files and directories").default("022 at boot"),
    octal("dmask", "permissions removed from directories").default("umask"),
    octal("fmask", "permissions removed from files").default("umask"),
    octal("allow_utime", "who may change times").default("022 less dmask"),
    one_of("iocharset", super::CHARSETS, "character set of names").default("utf8"),
    one_of("errors", &["continue", "panic", "remount-ro"], "what an error on disk does")
        .default("remount-ro"),
    flag("discard", "tells the disk at once what is free"),
    flag("keep_last_dots", "names may end with dots").since(5, 18),
    flag("sys_tz", "times on disk are in the system's time zone").since(5, 17),
    number("time_offset", -1440, 1440, "minutes between disk times and UTC"),
    flag("zero_size_dir", "new directories take up no room").since(6, 8),
    flag("utf8", "leave it out").idle(),
    flag("debug", "leave it out").idle(),
    number("namecase", 0, u32::MAX as i64, "leave it out").idle(),
    number("codepage", 0, u32::MAX as i64, "leave it out").idle(),
];
