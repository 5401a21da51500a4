use super::{Form, Opt, Reader, Spec, flag, number, one_of, row, strict};

/// NTFS by the program ntfs-3g: it passes over what it does not know.
pub const SPEC: Spec = strict(OPTIONS)
    .strict_since(99, 0)
    .by(Reader::Helper)
    .source("ntfs-3g(8); its answers to forty lists, on kernel 6.18");

/// NTFS by whoever mounts it: ntfs-3g where it is installed, else the driver
/// of the kernel, of which there were two.
pub const ANY: Spec = SPEC.strict_since(0, 0).open();

const OPTIONS: &[Opt] = &[
    row("uid", Form::DecimalUid, "owner of all files").default("0, and everybody may do everything"),
    row("gid", Form::DecimalUid, "group of all files").default("0, and everybody may do everything"),
    row("umask", Form::Octal, "permissions removed from files and directories"),
    row("fmask", Form::Octal, "permissions removed from files").default("umask"),
    row("dmask", Form::Octal, "permissions removed from directories").default("umask"),
    flag("permissions", "owners and permissions as on the disk, with a file that maps users"),
    flag("acl", "the same with POSIX access lists").implies(&["permissions"]),
    row("usermapping", Form::Text, "the file that maps users").default(".NTFS-3G/UserMapping"),
    flag("inherit", "new files take permissions from their directory"),
    row("locale", Form::Text, "character set of names").default("that of the environment"),
    flag("windows_names", "only names that Windows accepts"),
    flag("allow_other", "others than who mounts it may use it").default("on, for root"),
    number("max_read", 0, u32::MAX as i64, "bytes of a read"),
    flag("silent", "failed chown and chmod are not reported").default("on"),
    flag("no_def_opts", "without allow_other and silent"),
    one_of("streams_interface", &["none", "windows", "xattr", "openxattr"], "how further streams are seen")
        .default("xattr"),
    flag("user_xattr", "streams as extended attributes"),
    flag("efs_raw", "encrypted files as they lie on the disk"),
    flag("show_sys_files", "shows its own files"),
    flag("hide_hid_files", "does not show hidden files"),
    flag("hide_dot_files", "files that begin with a dot are hidden"),
    flag("ignore_case", "names without case"),
    flag("remove_hiberfile", "throws a sleeping Windows away")
        .caution("what Windows had open is lost; shut it down fully in place of it"),
    flag("recover", "repairs what Windows left unfinished").default("on"),
    flag("norecover", "does not").excludes(&["recover"]),
    flag("compression", "new files in compressed directories are compressed"),
    flag("nocompression", "they are not"),
    flag("big_writes", "writes in large pieces"),
    row("delay_mtime", Form::FlagOrNumber(0, u32::MAX as i64), "seconds until times are written"),
    flag("posix_nlink", "counts links as POSIX has it"),
    row("special_files", Form::OneOf(&["interix", "wsl"]), "how special files are kept"),
    flag("debug", "prints debugging facts"),
    flag("no_detach", "the program stays in the foreground"),
];
