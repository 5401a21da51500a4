use super::{Form, Opt, Spec, flag, number, octal, one_of, row, strict};

/// FAT with long names.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 11);

const YES: &[&str] = &["0", "1", "yes", "no", "true", "false"];

const OPTIONS: &[Opt] = &[
    row("uid", Form::Id, "owner of all files").until(6, 11),
    row("uid", Form::Uid, "owner of all files").since(6, 11),
    row("gid", Form::Id, "group of all files").until(6, 11),
    row("gid", Form::Uid, "group of all files").since(6, 11),
    octal("umask", "permissions taken from files and folders"),
    octal("fmask", "permissions taken from files"),
    octal("dmask", "permissions taken from folders"),
    octal("allow_utime", "who may change times"),
    one_of("check", &["r", "s", "n", "relaxed", "strict", "normal"], "how strict names are"),
    one_of("codepage", super::CODEPAGES, "code page of short names"),
    one_of("iocharset", super::CHARSETS, "character set of long names"),
    row("utf8", Form::FlagOrOneOf(YES), "long names in UTF-8"),
    row("uni_xlate", Form::FlagOrOneOf(YES), "unknown characters as escapes"),
    one_of("shortname", &["lower", "win95", "winnt", "mixed"], "how short names are shown"),
    row("nonumtail", Form::FlagOrOneOf(YES), "short names without ~1"),
    one_of("errors", &["continue", "panic", "remount-ro"], "what an error on disk does"),
    flag("discard", "tells the disk at once what is free"),
    flag("flush", "writes out early: for sticks"),
    flag("rodir", "read-only mark of folders counts"),
    row("nfs", Form::FlagOrOneOf(&["stale_rw", "nostale_ro"]), "for export over NFS"),
    flag("quiet", "failed chown and chmod are not reported"),
    flag("showexec", "only .EXE, .COM, .BAT are executable"),
    flag("debug", "prints debugging facts"),
    flag("nocase", "names keep their case"),
    flag("sys_immutable", "system files cannot be changed"),
    one_of("tz", &["UTC"], "times on disk are UTC"),
    number("time_offset", -1440, 1440, "minutes between disk times and UTC"),
    flag("usefree", "trusts the free count on disk"),
    flag("dos1xfloppy", "floppies of the first DOS"),
    one_of("conv", super::CONVERSIONS, "leave it out").idle(),
    row("fat", Form::Decimal(0, i32::MAX as i64), "leave it out").idle(),
    row("blocksize", Form::Decimal(0, i32::MAX as i64), "leave it out").idle(),
    row("cvf_format", Form::Text, "leave it out").idle(),
    row("cvf_options", Form::Text, "leave it out").idle(),
    flag("posix", "leave it out").idle(),
];
