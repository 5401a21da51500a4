use super::{Form, Opt, Reader, Spec, flag, number, octal, row, strict};

/// What every program behind fuse takes; each has words of its own besides.
pub const SPEC: Spec =
    strict(OPTIONS).open().by(Reader::Helper).source("mount.fuse3(8) and the kernel's fs/fuse; not recorded");

const OPTIONS: &[Opt] = &[
    flag("allow_other", "others than who mounts it may use it")
        .caution("users other than root need user_allow_other in /etc/fuse.conf"),
    flag("allow_root", "root may use it as well").conflicts(&["allow_other"]),
    flag("default_permissions", "the kernel checks permissions"),
    flag("auto_unmount", "is unmounted when the program ends"),
    number("max_read", 0, u32::MAX as i64, "bytes of a read"),
    number("max_write", 0, u32::MAX as i64, "bytes of a write"),
    number("max_readahead", 0, u32::MAX as i64, "bytes read ahead"),
    number("max_background", 0, u32::MAX as i64, "requests on their way at once"),
    number("congestion_threshold", 0, u32::MAX as i64, "requests from which the kernel holds back"),
    number("blksize", 512, u32::MAX as i64, "block size of the device"),
    row("fsname", Form::Text, "the name shown as its source"),
    row("subtype", Form::Text, "the name shown behind fuse"),
    row("uid", Form::DecimalUid, "owner of all files"),
    row("gid", Form::DecimalUid, "group of all files"),
    octal("umask", "permissions removed from all"),
    row("setuid", Form::Text, "the user the program runs as"),
    flag("drop_privileges", "the program runs with fewer rights"),
    flag("kernel_cache", "what was read is kept from one opening to the next"),
    flag("auto_cache", "the same while size and time stay"),
    flag("direct_io", "nothing is remembered"),
    flag("nonempty", "mounts over a directory that holds files").caution("fusermount of fuse 3 rejects it"),
    row("entry_timeout", Form::Text, "seconds that names are remembered").default("1"),
    row("negative_timeout", Form::Text, "seconds that absent names are remembered").default("0"),
    row("attr_timeout", Form::Text, "seconds that attributes are remembered").default("1"),
    flag("hard_remove", "open files are removed at once"),
    flag("debug", "prints debugging facts"),
];
