use super::{COMMON, Digits, Form, List, Opt, Spec, number_value, row, since, strict, until};
use bradawl_facts::Version;
use bradawl_facts::size::number_read;

/// First kernel to which the options are given one by one.
const ONE_BY_ONE: Version = Version(5, 17);

/// ext4; its driver mounts ext3 and ext2 too.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 17).whole(whole);
/// ext3: ext4 without what came with it.
pub const EXT3: Spec = strict(OPTIONS).one_by_one(5, 17).whole(whole_of_ext3);
/// ext2: the same without a journal.
pub const EXT2: Spec = strict(OPTIONS).one_by_one(5, 17).whole(whole_of_ext2);

/// What the driver takes for ext4 alone (`MOPT_EXT4_ONLY`).
const EXT4_ONLY: [&str; 10] = [
    "dax",
    "delalloc",
    "nodelalloc",
    "journal_checksum",
    "nojournal_checksum",
    "journal_async_commit",
    "dioread_lock",
    "dioread_nolock",
    "nodioread_nolock",
    "fc_debug_force",
];
/// What it does not take for ext2 (`MOPT_NO_EXT2`).
const NOT_EXT2: [&str; 8] =
    ["norecovery", "noload", "commit", "data", "data_err", "journal_dev", "journal_path", "journal_ioprio"];

const POWER_OF_TWO: Form = Form::Shaped(
    |v| number_value(v).is_some_and(|n| n == 0 || (n > 0 && n <= 1 << 30 && n & (n - 1) == 0)),
    "0 or a power of two",
);
/// The same in a list, where numbers have no sign.
const OLD_POWER_OF_TWO: Form =
    Form::Shaped(|v| !v.starts_with('+') && POWER_OF_TWO.objection(Some(v)).is_none(), "0 or a power of two");
const EXTRA: Form = Form::Shaped(
    |v| number_value(v).is_some_and(|n| (4..=128).contains(&n) && n % 4 == 0),
    "a multiple of 4 up to 128",
);

fn whole_of_ext3(list: &List<'_>) -> Option<(usize, String)> {
    let newer = EXT4_ONLY.iter().find(|name| list.has(name));
    newer.and_then(|name| list.refuse(name, "it is for ext4 alone")).or_else(|| whole(list))
}

fn whole_of_ext2(list: &List<'_>) -> Option<(usize, String)> {
    let newer = NOT_EXT2.iter().find(|name| list.has(name));
    newer.and_then(|name| list.refuse(name, "ext2 has no journal")).or_else(|| whole_of_ext3(list))
}

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    without_journal(list).or_else(|| quotas(list)).or_else(|| of_device(list)).or_else(|| {
        let ordered = !matches!(list.value("data"), Some("journal" | "writeback"));
        match list.has("journal_async_commit") && ordered {
            true => list.refuse("journal_async_commit", "it needs data=journal or data=writeback"),
            false => None,
        }
    })
}

/// Options of the journal where there is none.
fn without_journal(list: &List<'_>) -> Option<(usize, String)> {
    let none = list.feature("has_journal", true) == Some(false);
    let unloaded = list.has("noload") || list.has("norecovery");
    let why = if none { "the file system has no journal" } else { "the journal is not loaded" };
    if (none || unloaded) && list.has("data") {
        return list.refuse("data", why);
    }
    // Five seconds, and 0 for them, are no wish of one's own (recorded).
    let usual = |name: &str| name == "commit" && list.value(name).is_some_and(|v| matches!(v, "0" | "5"));
    let asks = ["journal_checksum", "journal_async_commit", "commit"];
    let asked = asks.iter().find(|name| list.has(name) && !usual(name));
    if let (true, Some(name)) = (none || unloaded, asked) {
        return list.refuse(name, why);
    }
    if (none || unloaded) && list.is("data_err", "abort") && list.kernel >= Version(5, 17) {
        return list.refuse("data_err", why);
    }
    None
}

fn quotas(list: &List<'_>) -> Option<(usize, String)> {
    if list.has("prjquota") && list.feature("project", false) == Some(false) {
        return list.refuse("prjquota", "the file system was made without the feature project");
    }
    let inside = list.feature("quota", false) != Some(false);
    for name in ["usrjquota", "grpjquota"] {
        let Some(at) = list.at(name) else { continue };
        match list.value(name) {
            None => return Some((at, "it needs the name of a file, or nothing behind the =".to_owned())),
            Some(file) if file.contains('/') => {
                return Some((at, "the file lies in the root directory, and is named alone".to_owned()));
            }
            Some(file) if !file.is_empty() && !inside && !list.has("jqfmt") => {
                return Some((at, "it needs jqfmt beside it".to_owned()));
            }
            Some(file) => {
                let other = |o: &&bradawl_facts::table::OptionItem| {
                    o.name == name && o.value.as_deref() != Some(file)
                };
                if !file.is_empty() && list.options.iter().any(|o| other(&o)) {
                    return Some((at, "another file is named before".to_owned()));
                }
            }
        }
    }
    None
}

/// What only some devices have.
fn of_device(list: &List<'_>) -> Option<(usize, String)> {
    if list.has("test_dummy_encryption") && list.feature("encrypt", false) == Some(false) {
        return list.refuse("test_dummy_encryption", "the file system was made without the feature encrypt");
    }
    if !list.typical {
        return None;
    }
    let dax = list.has("dax") && matches!(list.value("dax"), None | Some("always"));
    if dax {
        return list.refuse("dax", "the device is no persistent memory");
    }
    let inside = list.feature("has_journal", true) == Some(true);
    let none = |v: &str| {
        number_read(v, if list.kernel < ONE_BY_ONE { Digits::Wrapping } else { Digits::Strict }) == Some(0)
    };
    if inside && list.value("journal_dev").is_some_and(|v| !none(v)) {
        return list.refuse("journal_dev", "the file system has its journal inside");
    }
    if list.has("journal_path") {
        return list.refuse("journal_path", "no journal lies there");
    }
    if reads_sb(list) && !matches!(list.value("sb").and_then(number_value), Some(1 | 8193)) {
        return list.refuse("sb", "there is no copy of the superblock there; it is counted in 1 KiB blocks");
    }
    None
}

/// Whether `sb=` counts: where the options come as a list it does as the first of
/// them only, and is passed over elsewhere.
fn reads_sb(list: &List<'_>) -> bool {
    let flag = |o: &bradawl_facts::table::OptionItem| COMMON.iter().any(|row| row.name == o.name);
    let Some(at) = list.options.iter().position(|o| o.name == "sb") else { return false };
    list.kernel >= ONE_BY_ONE || list.options[..at].iter().all(flag)
}

const OPTIONS: &[Opt] = &[
    row("acl", Form::Flag, "POSIX access lists; on by default").default("on"),
    until(6, 1, row("noacl", Form::Flag, "no POSIX access lists")),
    row("user_xattr", Form::Flag, "extended attributes of users; always on").default("on"),
    until(6, 1, row("nouser_xattr", Form::Flag, "user attributes can no longer be switched off")),
    until(
        5,
        17,
        row("barrier", Form::FlagOrNumber(0, 2147483647), "flush the disk's cache at commits; on by default"),
    )
    .default("on"),
    since(
        5,
        17,
        row("barrier", Form::FlagOrNumber(0, 4294967295), "flush the disk's cache at commits; on by default"),
    )
    .default("on"),
    row("nobarrier", Form::Flag, "no flushes: a power cut may destroy data")
        .caution("only where the disk's cache survives a power cut"),
    row("bsddf", Form::Flag, "free space as BSD counts it; the default"),
    row("minixdf", Form::Flag, "free space as Minix counts it"),
    row("block_validity", Form::Flag, "guard metadata blocks").default("on"),
    row("noblock_validity", Form::Flag, "do not guard metadata blocks"),
    row("commit", Form::Number(0, 8_589_934), "seconds between commits").default("5"),
    row("data", Form::OneOf(&["journal", "ordered", "writeback"]), "what goes through the journal")
        .default("ordered"),
    row("data_err", Form::OneOf(&["abort", "ignore"]), "what a write error in ordered data does")
        .default("ignore"),
    row("dax", Form::FlagOrOneOf(&["always", "inode", "never"]), "direct access to persistent memory")
        .caution("only on persistent memory, with blocks as large as a page"),
    row("debug", Form::Flag, "prints debugging facts"),
    row("debug_want_extra_isize", EXTRA, "space in inodes, for tests"),
    row("delalloc", Form::Flag, "blocks are chosen late; the default").conflicts(&["data=journal"]),
    row("nodelalloc", Form::Flag, "blocks are chosen at once"),
    row("dioread_lock", Form::Flag, "direct reads take a lock"),
    row("dioread_nolock", Form::Flag, "direct reads without a lock").excludes(&["data=journal"]),
    row("nodioread_nolock", Form::Flag, "direct reads take a lock"),
    row("discard", Form::Flag, "tells the disk at once what is free")
        .caution("a weekly trim does the same, and deletes do not wait for it"),
    row("nodiscard", Form::Flag, "does not tell; the default"),
    row("errors", Form::OneOf(&["continue", "panic", "remount-ro"]), "what an error on disk does")
        .default("what the superblock says; continue as mkfs makes it"),
    since(6, 13, row("fc_debug_max_replay", Form::Number(0, 4294967295), "fast commits, for tests")),
    row("grpid", Form::Flag, "new files take the directory's group"),
    row("bsdgroups", Form::Flag, "new files take the directory's group"),
    row("nogrpid", Form::Flag, "new files take the process's group"),
    row("sysvgroups", Form::Flag, "new files take the process's group"),
    row("grpjquota", Form::FlagOrAny, "file with group quotas, journalled").implies(&["grpquota"]),
    row("usrjquota", Form::FlagOrAny, "file with user quotas, journalled").implies(&["usrquota"]),
    row("jqfmt", Form::OneOf(&["vfsold", "vfsv0", "vfsv1"]), "format of journalled quotas"),
    row("grpquota", Form::Flag, "quotas for groups"),
    row("usrquota", Form::Flag, "quotas for users"),
    row("prjquota", Form::Flag, "quotas for projects"),
    row("quota", Form::Flag, "quotas for users").implies(&["usrquota"]),
    row("noquota", Form::Flag, "no quotas"),
    row("i_version", Form::Flag, "counts changes of each file").idle_since(5, 17),
    until(5, 17, row("init_itable", Form::FlagOrNumber(0, 2147483647), "pace of filling inode tables"))
        .default("10"),
    since(5, 17, row("init_itable", Form::FlagOrNumber(0, 4294967295), "pace of filling inode tables"))
        .default("10"),
    row("noinit_itable", Form::Flag, "inode tables stay unfilled"),
    row("inlinecrypt", Form::Flag, "encryption by the disk controller"),
    until(5, 17, row("inode_readahead_blks", OLD_POWER_OF_TWO, "inode blocks read ahead")).default("32"),
    since(5, 17, row("inode_readahead_blks", POWER_OF_TWO, "inode blocks read ahead")).default("32"),
    until(5, 17, row("journal", Form::Number(0, i64::MAX), "inode of the journal")).idle(),
    since(5, 17, row("journal", Form::Number(0, 4294967295), "inode of the journal")).idle(),
    row("journal_dev", Form::Number(0, i64::MAX), "device of an external journal, as a number"),
    row("journal_path", Form::Any, "path of an external journal"),
    row("journal_async_commit", Form::Flag, "commits without waiting").implies(&["journal_checksum"]),
    row("journal_checksum", Form::Flag, "checksums in the journal"),
    row("nojournal_checksum", Form::Flag, "no checksums in the journal"),
    row("journal_ioprio", Form::Number(0, 7), "priority of journal writes").default("3"),
    until(
        5,
        17,
        row("max_batch_time", Form::Number(0, 2147483647), "microseconds to gather writes, at most"),
    )
    .default("15000"),
    since(
        5,
        17,
        row("max_batch_time", Form::Number(0, 4294967295), "microseconds to gather writes, at most"),
    )
    .default("15000"),
    until(
        5,
        17,
        row("min_batch_time", Form::Number(0, 2147483647), "microseconds to gather writes, at least"),
    )
    .default("0"),
    since(
        5,
        17,
        row("min_batch_time", Form::Number(0, 4294967295), "microseconds to gather writes, at least"),
    )
    .default("0"),
    until(5, 17, row("max_dir_size_kb", Form::Number(0, 2147483647), "largest directory")),
    since(5, 17, row("max_dir_size_kb", Form::Number(0, 4294967295), "largest directory")),
    since(5, 12, row("mb_optimize_scan", Form::Number(0, 1), "way of searching free blocks")),
    row("mblk_io_submit", Form::Flag, "without effect").idle(),
    row("nomblk_io_submit", Form::Flag, "without effect").idle(),
    row("no_mbcache", Form::Flag, "no cache for attributes"),
    row("nombcache", Form::Flag, "no cache for attributes"),
    until(
        5,
        17,
        row("auto_da_alloc", Form::FlagOrNumber(0, 2147483647), "writes out files replaced by rename"),
    )
    .default("on"),
    since(
        5,
        17,
        row("auto_da_alloc", Form::FlagOrNumber(0, 4294967295), "writes out files replaced by rename"),
    )
    .default("on"),
    row("noauto_da_alloc", Form::Flag, "does not").caution("a crash may leave replaced files empty"),
    row("noload", Form::Flag, "does not load the journal")
        .implies(&["norecovery"])
        .caution("what the journal holds is missing: for reading a disk that must not change"),
    row("norecovery", Form::Flag, "does not replay the journal")
        .caution("what the journal holds is missing: for reading a disk that must not change"),
    row("nouid32", Form::Flag, "16-bit user numbers"),
    row("oldalloc", Form::Flag, "without effect").idle(),
    row("orlov", Form::Flag, "without effect").idle(),
    row("prefetch_block_bitmaps", Form::Flag, "reads block bitmaps ahead").idle_since(5, 12),
    since(5, 12, row("no_prefetch_block_bitmaps", Form::Flag, "does not read block bitmaps ahead")),
    until(5, 17, row("resuid", Form::Id, "user who may use reserved blocks, by number")).default("0"),
    since(5, 17, row("resuid", Form::Uid, "user who may use reserved blocks, by number")).default("0"),
    until(5, 17, row("resgid", Form::Id, "group that may use reserved blocks, by number")).default("0"),
    since(5, 17, row("resgid", Form::Uid, "group that may use reserved blocks, by number")).default("0"),
    row("sb", Form::Number(1, 2147483647), "place of the superblock to use"),
    until(5, 17, row("stripe", Form::Number(0, 2147483647), "blocks in a stripe of the array")),
    since(5, 17, row("stripe", Form::Number(0, 4294967295), "blocks in a stripe of the array")),
    row("test_dummy_encryption", Form::FlagOrOneOf(&["v1", "v2"]), "for tests"),
    row("warn_on_error", Form::Flag, "kernel warning on errors"),
    row("nowarn_on_error", Form::Flag, "no kernel warning on errors"),
    row("abort", Form::Flag, "stops the journal, for tests"),
    until(5, 17, row("check", Form::OneOf(&["none"]), "former check at mount; without effect")),
    since(5, 17, row("check", Form::Text, "former check at mount; without effect")),
    row("nocheck", Form::Flag, "no check at mount").idle(),
    row("reservation", Form::Flag, "of the former ext3; without effect").idle(),
    row("noreservation", Form::Flag, "of the former ext3; without effect").idle(),
    row("bh", Form::Flag, "without effect").idle(),
    row("nobh", Form::Flag, "without effect").idle(),
];
