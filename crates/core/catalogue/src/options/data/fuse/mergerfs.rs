use super::super::{Form, Opt, Reader, Spec, flag, row, strict};
use super::library::{NOT_TAKEN, SCANNED};

/// Directories shown as one, by mergerfs: it has the library's second version in
/// itself.
pub const SPEC: Spec = strict(OPTIONS)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .without(NOT_TAKEN)
    .source("mergerfs(1) and its own help; recorded answers of mergerfs 2.33.5 and 2.40.2");

/// Version 2.40 looks at values that those before take for anything.
const fn looked_at(row: Opt) -> Opt {
    row.judged_since(2, 40)
}

const fn newer(row: Opt) -> Opt {
    row.reader_since(2, 40)
}

/// Version 2.40 passes over a value that those before refuse.
const fn or_any(name: &'static str, meaning: &'static str) -> Opt {
    row(name, Form::Flag, meaning).judged_until(2, 40)
}

const YES_NO: &[&str] = &["true", "false", "1", "0", "on", "off", "yes", "no"];

const fn yes_no(name: &'static str, meaning: &'static str) -> Opt {
    looked_at(row(name, Form::OneOf(YES_NO), meaning))
}

const fn policy(name: &'static str, meaning: &'static str) -> Opt {
    looked_at(row(name, Form::OneOf(POLICIES), meaning))
}

const fn seconds(name: &'static str, meaning: &'static str) -> Opt {
    looked_at(row(name, SECONDS, meaning))
}

const SECONDS: Form = Form::FlagOrShaped(is_count, "seconds");
const SIZE: Form = Form::FlagOrShaped(is_count, "a size");
const FLAG_OR_BOOL: Form = Form::FlagOrShaped(|v| v.is_empty() || YES_NO.contains(&v), "true or false");

/// Digits, a sign before them, a unit behind.
fn is_count(value: &str) -> bool {
    let digits = value.strip_prefix(['+', '-']).unwrap_or(value);
    let digits = digits.strip_suffix(['k', 'K', 'm', 'M', 'g', 'G', 't', 'T']).unwrap_or(digits);
    digits.bytes().all(|b| b.is_ascii_digit())
}

/// How directories are read: the word, and threads behind a colon.
fn is_reading(value: &str) -> bool {
    matches!(value.split(':').next(), Some("seq" | "cosr" | "cor"))
}

const POLICIES: &[&str] = &[
    "all", "epall", "epff", "eplfs", "eplus", "epmfs", "eppfrd", "eprand", "erofs", "ff", "lfs", "lup",
    "lus", "mfs", "msplfs", "msplus", "mspmfs", "msppfrd", "newest", "pfrd", "rand",
];

const OPTIONS: &[Opt] = &[
    row("branches", Form::Text, "the directories, with colons between"),
    row("config", Form::Text, "a file with further options"),
    flag("allow_other", "others than who mounts it may use it")
        .default("on for root, since version 2.40 of its program"),
    flag("auto_unmount", "is unmounted when the program ends"),
    flag("default_permissions", "the kernel checks permissions").default("on"),
    row("fsname", Form::FlagOrAny, "the name shown as its source"),
    row("subtype", Form::Any, "the name shown behind fuse"),
    policy("category.action", "where files are changed and removed").default("epall"),
    policy("category.create", "where new files go")
        .default("epmfs, since 2.41 pfrd")
        .caution("epmfs keeps to directories that exist: a full disk stays full; mfs takes the emptiest"),
    policy("category.search", "where files are looked for").default("ff"),
    policy("func.access", "the same for one call"),
    policy("func.chmod", "the same for one call"),
    policy("func.chown", "the same for one call"),
    policy("func.create", "the same for one call"),
    policy("func.getattr", "the same for one call"),
    policy("func.getxattr", "the same for one call"),
    policy("func.link", "the same for one call"),
    policy("func.listxattr", "the same for one call"),
    policy("func.mkdir", "the same for one call"),
    policy("func.mknod", "the same for one call"),
    policy("func.open", "the same for one call"),
    policy("func.readlink", "the same for one call"),
    policy("func.removexattr", "the same for one call"),
    policy("func.rename", "the same for one call"),
    policy("func.rmdir", "the same for one call"),
    policy("func.setxattr", "the same for one call"),
    policy("func.symlink", "the same for one call"),
    policy("func.truncate", "the same for one call"),
    policy("func.unlink", "the same for one call"),
    policy("func.utimens", "the same for one call"),
    newer(row("func.readdir", Form::Shaped(is_reading, "seq, cosr or cor"), "how directories are read"))
        .default("seq"),
    seconds("cache.attr", "seconds that attributes are remembered").default("1"),
    seconds("cache.entry", "seconds that names are remembered").default("1"),
    seconds("cache.negative_entry", "seconds that absent names are remembered").default("0"),
    row("cache.open", Form::FlagOrAny, "seconds that policies for open are remembered").default("0"),
    row("cache.statfs", SECONDS, "seconds that free space is remembered").default("0").judged_since(2, 40),
    looked_at(row(
        "cache.files",
        Form::OneOf(&["libfuse", "off", "partial", "full", "auto-full", "per-process"]),
        "how contents are kept",
    ))
    .default("libfuse"),
    newer(row("cache.files.process-names", Form::FlagOrAny, "programs for which contents are kept")),
    yes_no("cache.readdir", "listings are kept").default("false"),
    yes_no("cache.symlinks", "links are kept").default("false"),
    yes_no("cache.writeback", "writes are gathered").default("false"),
    row("minfreespace", SIZE, "free space below which a directory takes no new files")
        .default("4G")
        .judged_since(2, 40),
    looked_at(row(
        "moveonenospc",
        Form::Shaped(
            |v| {
                matches!(v, "true" | "false" | "1" | "0" | "on" | "off" | "yes" | "no")
                    || POLICIES.contains(&v)
            },
            "true, false or a policy",
        ),
        "moves a file on when its disk is full",
    ))
    .default("true"),
    looked_at(row(
        "inodecalc",
        Form::OneOf(&[
            "passthrough",
            "path-hash",
            "path-hash32",
            "devino-hash",
            "devino-hash32",
            "hybrid-hash",
            "hybrid-hash32",
        ]),
        "how inode numbers are made",
    ))
    .default("hybrid-hash"),
    yes_no("dropcacheonclose", "what was read is forgotten on closing").default("false"),
    yes_no("symlinkify", "files that rest become links").default("false"),
    row("symlinkify_timeout", SECONDS, "seconds after which they do").judged_since(2, 40).default("3600"),
    yes_no("nullrw", "neither reads nor writes, for measuring").default("false"),
    yes_no("ignorepponrename", "renaming leaves the disk").default("false"),
    yes_no("link_cow", "links are copied as they are written").default("false"),
    looked_at(row(
        "link-exdev",
        Form::OneOf(&["passthrough", "rel-symlink", "abs-base-symlink", "abs-pool-symlink"]),
        "what becomes of links across disks",
    ))
    .default("passthrough"),
    looked_at(row(
        "rename-exdev",
        Form::OneOf(&["passthrough", "rel-symlink", "abs-symlink"]),
        "what becomes of renaming across disks",
    ))
    .default("passthrough"),
    looked_at(row("nfsopenhack", Form::OneOf(&["off", "git", "all"]), "for exports by NFS")).default("off"),
    yes_no("security_capability", "programs keep capabilities").default("true"),
    looked_at(row("xattr", Form::OneOf(&["passthrough", "noattr", "nosys"]), "extended attributes"))
        .default("passthrough"),
    looked_at(row("statfs", Form::OneOf(&["base", "full"]), "what counts as free space")).default("base"),
    looked_at(row("statfs_ignore", Form::OneOf(&["none", "ro", "nc"]), "what does not")).default("none"),
    yes_no("posix_acl", "POSIX access lists").default("false"),
    looked_at(row("async_read", FLAG_OR_BOOL, "reads are not in order")).default("true"),
    row("threads", SCANNED, "threads; since 2.40 read-thread-count").judged_since(2, 40),
    newer(row("read-thread-count", SCANNED, "threads that read requests").default("0: as many as cores")),
    newer(row("process-thread-count", SCANNED, "threads that work on them").default("-1: the same")),
    newer(row("process-thread-queue-depth", SCANNED, "requests waiting for each")),
    newer(row("pin-threads", Form::FlagOrAny, "which cores threads keep to")),
    newer(row("scheduling-priority", SCANNED, "their priority").default("-10")),
    looked_at(row("fuse_msg_size", SIZE, "pages of a request")).default("256"),
    newer(row("readahead", SIZE, "KiB read ahead")),
    newer(row("branches-mount-timeout", SECONDS, "seconds it waits for its directories")),
    row("branches-mount-timeout-fail", Form::OneOf(YES_NO), "fails when they do not come")
        .reader_since(2, 41),
    looked_at(row(
        "follow-symlinks",
        Form::OneOf(&["never", "directory", "regular", "all"]),
        "which links are followed",
    ))
    .default("never"),
    newer(row("lazy-umount-mountpoint", Form::OneOf(YES_NO), "unmounts what is there")),
    newer(row("export-support", Form::OneOf(YES_NO), "can be exported by NFS")),
    row("kernel-permissions-check", Form::OneOf(YES_NO), "the kernel checks permissions").reader_since(2, 41),
    yes_no("log.metrics", "writes down what it does"),
    row("srcmounts", Form::Text, "the directories, as it was called").judged_until(2, 40),
    looked_at(row("attr_timeout", SECONDS, "the same as cache.attr")),
    looked_at(row("entry_timeout", SECONDS, "the same as cache.entry")),
    looked_at(row("negative_entry", SECONDS, "the same as cache.negative_entry")),
    looked_at(row("readdirplus", Form::OneOf(YES_NO), "lists names with attributes")),
    looked_at(row("mount", Form::Text, "without effect")),
    flag("nogc", "without effect"),
    or_any("use_ino", "without effect"),
    row("hard_remove", Form::FlagOrAny, "without effect"),
    looked_at(row("auto_cache", FLAG_OR_BOOL, "see cache.files")),
    looked_at(row("kernel_cache", FLAG_OR_BOOL, "see cache.files")),
    looked_at(row("direct_io", FLAG_OR_BOOL, "see cache.files")),
    row("big_writes", Form::FlagOrAny, "without effect"),
    row("atomic_o_trunc", Form::FlagOrAny, "without effect"),
    or_any("nonempty", "mounts over a directory that holds files"),
    row("umask", super::library::SCANNED_BITS, "permissions removed from all"),
    row("uid", SCANNED, "owner of all files"),
    row("gid", SCANNED, "group of all files"),
    row("max_read", super::library::PLAIN, "bytes of a read"),
    row("max_readahead", SCANNED, "bytes read ahead"),
    row("max_background", SCANNED, "requests on their way at once"),
    row("congestion_threshold", SCANNED, "requests from which the kernel holds back"),
    flag("debug", "prints, and stays in the foreground").caution("the mount never ends"),
    flag("noforget", "what was seen is never forgotten"),
    row("remember", SCANNED, "seconds that it is remembered"),
    flag("no_remote_lock", "locks hold on this host only"),
    flag("no_remote_flock", "the same for flock"),
    flag("no_remote_posix_lock", "the same for locks by fcntl"),
    or_any("splice_write", "writes without copying"),
    or_any("no_splice_write", "copies as it writes"),
    or_any("splice_move", "moves pages as it does"),
    or_any("no_splice_move", "does not move pages"),
    or_any("splice_read", "reads without copying"),
    or_any("no_splice_read", "copies as it reads"),
];
