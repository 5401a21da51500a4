use super::{Form, List, Opt, Spec, UNSIGNED, decimal, flag, number, one_of, row, strict};
use bradawl_facts::Version;

/// F2FS, the file system for flash.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 18).whole(whole);

const CHECKPOINT: Form = Form::Shaped(
    |value| match value.strip_prefix("disable:").map(|limit| (limit, limit.strip_suffix('%'))) {
        None => matches!(value, "enable" | "disable"),
        Some((_, Some(share))) => decimal(share).is_some_and(|n| n <= 100),
        Some((count, None)) => decimal(count).is_some(),
    },
    "enable, disable, or disable with a number or a share",
);

const OPTIONS: &[Opt] = &[
    one_of("background_gc", &["on", "off", "sync"], "cleaning in idle times").default("on"),
    flag("gc_merge", "cleaning in one thread").since(5, 13),
    flag("nogc_merge", "cleaning where it is needed").since(5, 13),
    flag("disable_roll_forward", "no recovery of synced data")
        .caution("what was synced last is lost after a crash"),
    flag("discard", "tells the disk what is free"),
    flag("nodiscard", "does not tell"),
    flag("heap", "former placement of data").idle_since(6, 10),
    flag("no_heap", "former placement of data").idle_since(6, 10),
    flag("user_xattr", "extended attributes of users"),
    flag("nouser_xattr", "no extended attributes of users"),
    flag("acl", "POSIX access lists"),
    flag("noacl", "no POSIX access lists"),
    one_of("active_logs", &["2", "4", "6"], "logs written at the same time").default("6"),
    flag("disable_ext_identify", "does not treat some file names as cold data"),
    flag("inline_xattr", "attributes inside inodes"),
    flag("noinline_xattr", "attributes outside inodes"),
    flag("inline_data", "small files inside inodes"),
    flag("noinline_data", "small files outside inodes"),
    flag("inline_dentry", "small directories inside inodes"),
    flag("noinline_dentry", "small directories outside inodes"),
    flag("flush_merge", "gathers cache flushes"),
    flag("noflush_merge", "does not gather cache flushes"),
    flag("nobarrier", "no flushes: a power cut may destroy data")
        .caution("only where the disk's cache survives a power cut"),
    flag("barrier", "flushes; the default").since(6, 2),
    flag("fastboot", "quick mounting at the price of checkpoints"),
    flag("extent_cache", "remembers where extents lie"),
    flag("noextent_cache", "does not remember where extents lie"),
    flag("age_extent_cache", "remembers how old extents are").since(6, 2),
    flag("data_flush", "writes data before checkpoints"),
    number("reserve_root", 0, i32::MAX as i64, "blocks kept for root"),
    row("resuid", Form::Id, "who may use the reserve"),
    row("resgid", Form::Id, "which group may use the reserve"),
    row("mode", Form::OneOf(&["adaptive", "lfs"]), "how blocks are chosen").until(5, 16).default("adaptive"),
    row(
        "mode",
        Form::OneOf(&["adaptive", "lfs", "fragment:segment", "fragment:block"]),
        "how blocks are chosen",
    )
    .since(5, 16),
    row("fault_injection", UNSIGNED, "for tests").idle(),
    row("fault_type", UNSIGNED, "for tests").idle(),
    flag("lazytime", "times are written late"),
    flag("nolazytime", "times are written at once"),
    flag("quota", "quotas for users"),
    flag("noquota", "no quotas"),
    flag("usrquota", "quotas for users"),
    flag("grpquota", "quotas for groups"),
    flag("prjquota", "quotas for projects"),
    row("usrjquota", Form::Any, "file with user quotas"),
    row("grpjquota", Form::Any, "file with group quotas"),
    row("prjjquota", Form::Any, "file with project quotas"),
    one_of("jqfmt", &["vfsold", "vfsv0", "vfsv1"], "format of quotas"),
    one_of("alloc_mode", &["reuse", "default"], "where new data goes").default("default"),
    one_of("fsync_mode", &["posix", "strict", "nobarrier"], "what fsync promises").default("posix"),
    flag("inlinecrypt", "encryption by the disk controller").idle(),
    row("checkpoint", CHECKPOINT, "whether checkpoints are made").default("enable"),
    flag("checkpoint_merge", "checkpoints in one thread").since(5, 12),
    flag("nocheckpoint_merge", "checkpoints where they are needed").since(5, 12),
    one_of("whint_mode", &["off", "user-based", "fs-based"], "leave it out").until(5, 19),
    row("compress_algorithm", Form::Text, "algorithm of compression").default("lz4"),
    row("compress_log_size", UNSIGNED, "size of compressed clusters").default("2"),
    row("compress_extension", Form::Text, "which files are compressed"),
    row("nocompress_extension", Form::Text, "which files are not").since(5, 15),
    flag("compress_chksum", "checksums of compressed clusters").since(5, 11),
    one_of("compress_mode", &["fs", "user"], "who decides on compression").since(5, 10).until(6, 12),
    row("compress_mode", Form::Text, "who decides on compression").since(6, 12),
    flag("compress_cache", "remembers compressed blocks").since(5, 14),
    flag("atgc", "cleaning by age").since(5, 10),
    one_of("discard_unit", &["block", "segment", "section"], "how much is told at once").since(5, 15),
    one_of("memory", &["normal", "low"], "how much memory is used").since(6, 0),
    one_of("errors", &["remount-ro", "continue", "panic"], "what an error on disk does")
        .since(6, 5)
        .default("continue"),
];

/// What a file system made for compression takes; others pass it over.
fn compression(list: &List<'_>) -> Option<(usize, String)> {
    if list.feature("compression", false) != Some(true) {
        return None;
    }
    let level = |text: &str, max| decimal(text).is_some_and(|n| n <= max);
    let levels = list.kernel >= Version(5, 11);
    let known = |name: &str| match name.split_once(':') {
        None => matches!(name, "lzo" | "lz4" | "zstd" | "lzo-rle"),
        Some(("lz4", n)) => levels && level(n, if list.kernel < Version(6, 1) { 12 } else { 16 }),
        Some(("zstd", n)) => levels && level(n, 22),
        Some(_) => false,
    };
    if list.value("compress_algorithm").is_some_and(|v| !known(v)) {
        return list
            .refuse("compress_algorithm", "needs lzo, lzo-rle, lz4 or zstd, the last two with a level");
    }
    let size = list.value("compress_log_size").and_then(decimal);
    if size.is_some_and(|n| !(2..=8).contains(&n)) {
        return list.refuse("compress_log_size", "needs a number from 2 to 8");
    }
    if list.value("compress_mode").is_some_and(|v| !matches!(v, "fs" | "user")) {
        return list.refuse("compress_mode", "needs fs or user");
    }
    match list.value("compress_extension").is_some_and(|v| v.len() >= 8) {
        true => list.refuse("compress_extension", "needs fewer than eight characters"),
        false => None,
    }
}

/// Quotas: in files by name, or inside the file system.
fn quotas(list: &List<'_>) -> Option<(usize, String)> {
    if list.has("prjquota") && list.feature("project_quota", false) == Some(false) {
        return list.refuse("prjquota", "the file system was made without the feature project_quota");
    }
    let files = ["usrjquota", "grpjquota", "prjjquota"];
    let file = files.into_iter().find(|n| list.value(n).is_some_and(|v| !v.is_empty()))?;
    let outside = list.feature("quota", false) == Some(false);
    match outside && (list.typical || !list.has("jqfmt")) {
        true => list.refuse(file, "the file has to exist, and jqfmt has to stand beside it"),
        false => None,
    }
}

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    if let Some(refused) = compression(list).or_else(|| quotas(list)) {
        return Some(refused);
    }
    if list.has("checkpoint")
        && list.value("checkpoint").is_some_and(|v| v.starts_with("disable"))
        && list.read_only()
    {
        return list.refuse("checkpoint", "checkpoints cannot be switched off on a read-only mount");
    }
    if list.has("atgc") && list.is("mode", "lfs") && list.kernel >= Version(5, 16) {
        return list.refuse("atgc", "it does not go with mode=lfs");
    }
    if list.has("flush_merge") && list.read_only() && list.kernel >= Version(6, 2) {
        return list.refuse("flush_merge", "nothing is flushed on a read-only mount");
    }
    None
}
