use super::{Form, Opt, Spec, UNSIGNED, flag, number, octal, one_of, row, strict};

/// FAT with long names.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 11);

const YES: &[&str] = &["0", "1", "yes", "no", "true", "false"];

const OPTIONS: &[Opt] = &[
    row("uid", Form::Id, "owner of all files").until(6, 11).default("who mounts it: root at boot"),
    row("uid", Form::Uid, "owner of all files").since(6, 11).default("who mounts it: root at boot"),
    row("gid", Form::Id, "group of all files").until(6, 11).default("who mounts it: root at boot"),
    row("gid", Form::Uid, "group of all files").since(6, 11).default("who mounts it: root at boot"),
    octal("umask", "permissions removed from files and directories").default("022 at boot"),
    octal("fmask", "permissions removed from files").default("umask"),
    octal("dmask", "permissions removed from directories").default("umask"),
    octal("allow_utime", "who may change times").default("022 less dmask"),
    one_of("check", &["r", "s", "n", "relaxed", "strict", "normal"], "how strict names are")
        .default("normal"),
    one_of("codepage", super::CODEPAGES, "code page of short names").default("437"),
    one_of("iocharset", super::CHARSETS, "character set of long names")
        .default("iso8859-1, or as the kernel was built"),
    row("utf8", Form::FlagOrOneOf(YES), "long names in UTF-8").excludes(&["iocharset=utf8"]),
    row("uni_xlate", Form::FlagOrOneOf(YES), "unknown characters as escapes"),
    one_of("shortname", &["lower", "win95", "winnt", "mixed"], "how short names are shown").default("mixed"),
    row("nonumtail", Form::FlagOrOneOf(YES), "short names without ~1"),
    one_of("errors", &["continue", "panic", "remount-ro"], "what an error on disk does")
        .default("remount-ro"),
    flag("discard", "tells the disk at once what is free")
        .caution("a weekly trim does the same, and deletes do not wait for it"),
    flag("flush", "writes out early: for sticks")
        .caution("slower copies; made for sticks that are pulled out"),
    flag("rodir", "read-only mark of directories counts"),
    row("nfs", Form::FlagOrOneOf(&["stale_rw", "nostale_ro"]), "for export over NFS").default("off"),
    flag("quiet", "failed chown and chmod are not reported")
        .caution("programs believe their chown and chmod took place"),
    flag("showexec", "only .EXE, .COM, .BAT are executable"),
    flag("debug", "prints debugging facts"),
    flag("nocase", "names keep their case"),
    flag("sys_immutable", "system files cannot be changed"),
    one_of("tz", &["UTC"], "times on disk are UTC").excludes(&["time_offset"]),
    number("time_offset", -1440, 1440, "minutes between disk times and UTC")
        .default("the system's time zone")
        .excludes(&["tz"]),
    flag("usefree", "trusts the free count on disk"),
    flag("dos1xfloppy", "floppies of the first DOS"),
    one_of("conv", super::CONVERSIONS, "leave it out").idle(),
    row("fat", UNSIGNED, "leave it out").until(6, 11).idle(),
    number("fat", 0, u32::MAX as i64, "leave it out").since(6, 11).idle(),
    row("blocksize", UNSIGNED, "leave it out").until(6, 11).idle(),
    number("blocksize", 0, u32::MAX as i64, "leave it out").since(6, 11).idle(),
    row("cvf_format", Form::Text, "leave it out").idle(),
    row("cvf_options", Form::Text, "leave it out").idle(),
    flag("posix", "leave it out").idle(),
];
