use super::{Digits, Form, Opt, Reader, Spec, flag, one_of, row, strict};

/// NTFS by the program ntfs-3g: it passes over what it does not know.
pub const SPEC: Spec = strict(OPTIONS)
    .strict_since(99, 0)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .source("ntfs-3g(8); recorded answers of ntfs-3g 2022.10.3");

/// NTFS by whoever mounts it: ntfs-3g where it is installed, else the driver
/// of the kernel, of which there were two.
pub const ANY: Spec = SPEC.strict_since(0, 0).open();

/// It reads as far as it understands, and nothing is well.
const NUMBER: Form = Form::Shaped(|v| v.is_empty() || begins_with_number(v), "a number");
const BITS: Form =
    Form::Shaped(|v| v.is_empty() || begins_with(v, |c| matches!(c, '0'..='7')), "permissions in octal");
/// Only another program of its makers takes it.
const NOWHERE: Form = Form::Shaped(|_| false, "to be left out: only lowntfs-3g and older programs take it");

fn begins_with_number(value: &str) -> bool {
    begins_with(value, |c| c.is_ascii_digit())
}

fn unsigned(value: &str) -> bool {
    bradawl_facts::size::number_read(value.strip_prefix('+').unwrap_or(value), Digits::Wrapping)
        .is_some_and(|n| (0..=i64::from(u32::MAX)).contains(&n))
}

fn begins_with(value: &str, digit: fn(char) -> bool) -> bool {
    value.strip_prefix(['+', '-']).unwrap_or(value).starts_with(digit)
}

const OPTIONS: &[Opt] = &[
    row("uid", NUMBER, "owner of all files").default("0, and everybody may do everything"),
    row("gid", NUMBER, "group of all files").default("0, and everybody may do everything"),
    row("umask", BITS, "permissions removed from files and directories"),
    row("fmask", BITS, "permissions removed from files").default("umask"),
    row("dmask", BITS, "permissions removed from directories").default("umask"),
    flag("permissions", "owners and permissions as on the disk, with a file that maps users"),
    flag("acl", "the same with POSIX access lists").implies(&["permissions"]),
    row("usermapping", Form::Any, "the file that maps users").default(".NTFS-3G/UserMapping"),
    flag("inherit", "new files take permissions from their directory"),
    row("locale", Form::Any, "character set of names").default("that of the environment"),
    flag("windows_names", "only names that Windows accepts"),
    row("allow_other", Form::FlagOrAny, "others than who mounts it may use it").default("on, for root"),
    row("max_read", Form::FlagOrShaped(unsigned, "a number"), "bytes of a read"),
    flag("silent", "failed chown and chmod are not reported").default("on"),
    flag("no_def_opts", "without allow_other and silent"),
    one_of("streams_interface", &["none", "windows", "xattr", "openxattr"], "how further streams are seen")
        .default("xattr"),
    flag("user_xattr", "streams as extended attributes"),
    flag("efs_raw", "encrypted files as they lie on the disk"),
    flag("show_sys_files", "shows its own files"),
    flag("hide_hid_files", "does not show hidden files"),
    flag("hide_dot_files", "files that begin with a dot are hidden"),
    row("ignore_case", NOWHERE, "names without case"),
    row("nonfconv", NOWHERE, "names as they are"),
    row("fsname", NOWHERE, "the program sets it"),
    row("move", NOWHERE, "moves what is mounted"),
    row("blksize", Form::Text, "block size of the device"),
    row("xattrmapping", Form::Text, "a file that names attributes"),
    flag("atime", "access times are kept"),
    flag("noatime", "access times are not kept"),
    flag("relatime", "access times are kept now and then"),
    flag("remount", "changes what is mounted"),
    flag("fake_rw", "says that it can be written to"),
    flag("addsecurids", "gives files identities of security"),
    flag("staticgrps", "groups are read once"),
    flag("remove_hiberfile", "throws a sleeping Windows away")
        .caution("what Windows had open is lost; shut it down fully in place of it"),
    flag("recover", "repairs what Windows left unfinished").default("on"),
    flag("norecover", "does not").excludes(&["recover"]),
    flag("compression", "new files in compressed directories are compressed"),
    flag("nocompression", "they are not"),
    flag("big_writes", "writes in large pieces"),
    row(
        "delay_mtime",
        Form::FlagOrShaped(|v| v.is_empty() || begins_with_number(v), "a number"),
        "seconds until times are written",
    ),
    flag("posix_nlink", "counts links as POSIX has it"),
    row("special_files", Form::OneOf(&["interix", "wsl"]), "how special files are kept"),
    flag("debug", "prints debugging facts"),
    flag("no_detach", "the program stays in the foreground"),
];
