use super::{Form, List, Opt, Spec, one_of, row, strict};

/// bcachefs: in the kernel from 6.7 until before 6.18. Its reader passes over what it
/// does not know.
pub const SPEC: Spec = strict(OPTIONS)
    .strict_since(99, 0)
    .whole(taken_back)
    .source("the parser in the kernel's source; recorded answers of the reader of kernel 6.12");

/// What has a value cannot be taken back.
fn taken_back(list: &List<'_>) -> Option<(usize, String)> {
    let valued = |name: &str| {
        OPTIONS.iter().any(|row| row.name == name && !matches!(row.form, Form::FlagOrOneOf(_) | Form::Any))
    };
    let at = list.options.iter().position(|o| {
        o.name
            .strip_prefix("no")
            .is_some_and(|name| (valued(name) || name == "fix_errors") && name != "journal_reclaim_delay")
    })?;
    Some((at, "what has a value cannot be taken back".to_owned()))
}

const SWITCH: Form = Form::FlagOrOneOf(&["0", "1", "+1"]);
const CHECKSUMS: &[&str] = &["none", "crc32c", "crc64", "xxhash"];
const COMPRESSION: Form = Form::Shaped(
    |v| matches!(v.split(':').next().unwrap_or(v), "none" | "lz4" | "gzip" | "zstd"),
    "none, lz4, gzip or zstd, with a level behind a colon",
);

/// Plain numbers, in whose reader a plus sign may stand before.
fn plain(value: &str, min: u64, max: u64) -> bool {
    value.parse::<u64>().is_ok_and(|n| (min..=max).contains(&n))
}

const COPIES: Form = Form::Shaped(|v| plain(v, 1, 3), "1, 2 or 3");
const DELAY: Form = Form::Shaped(|v| plain(v, 1, u32::MAX as u64 - 1), "a number");
const LATER: Form = Form::Shaped(|v| plain(v, 0, u32::MAX as u64 - 1), "a number");

const fn switch(name: &'static str, meaning: &'static str) -> Opt {
    row(name, SWITCH, meaning)
}

const OPTIONS: &[Opt] = &[
    row("compression", COMPRESSION, "compresses new data").default("none"),
    row("background_compression", COMPRESSION, "compresses data later").default("none"),
    one_of("data_checksum", CHECKSUMS, "checksums of data").default("crc32c"),
    one_of("metadata_checksum", CHECKSUMS, "checksums of metadata").default("crc32c"),
    one_of("str_hash", &["crc32c", "crc64", "siphash"], "hashes of names").default("siphash"),
    row("data_replicas", COPIES, "copies of data").default("1"),
    row("metadata_replicas", COPIES, "copies of metadata").default("1"),
    row("data_replicas_required", COPIES, "copies of data without which writing fails").default("1"),
    row("metadata_replicas_required", COPIES, "copies of metadata without which writing fails").default("1"),
    row("foreground_target", Form::Any, "devices that take what is written"),
    row("background_target", Form::Any, "devices to which data moves later"),
    row("promote_target", Form::Any, "devices to which data moves when read"),
    row("metadata_target", Form::Any, "devices for metadata"),
    one_of("errors", &["continue", "ro", "fix_safe", "panic"], "what an error on disk does")
        .default("fix_safe"),
    switch("degraded", "mounts although a device is absent")
        .caution("new data has fewer copies; for one boot, not for the table"),
    switch("very_degraded", "mounts although data is absent").implies(&["degraded"]),
    switch("fsck", "checks it while mounting"),
    row("fix_errors", Form::FlagOrOneOf(&["exit", "yes", "no", "ask"]), "repairs what the check finds"),
    switch("norecovery", "does not replay the journal").excludes(&["rw"]),
    switch("nochanges", "writes nothing at all"),
    switch("discard", "tells the disk at once what is free").default("on where the disk can"),
    switch("acl", "POSIX access lists").default("on"),
    switch("usrquota", "quotas for users"),
    switch("grpquota", "quotas for groups"),
    switch("prjquota", "quotas for projects"),
    switch("nocow", "writes in place: no checksums, no compression"),
    switch("erasure_code", "parity in place of copies").caution("not finished"),
    switch("inodes_32bit", "inode numbers within 32 bits"),
    switch("journal_flush_disabled", "fsync does not wait").caution("a power cut loses what was synced"),
    row("journal_flush_delay", DELAY, "milliseconds between flushes").default("1000"),
    row("journal_reclaim_delay", LATER, "milliseconds until the journal is reused").default("100"),
    one_of("version_upgrade", &["compatible", "incompatible", "none"], "renews the format while mounting")
        .default("compatible"),
    switch("verbose", "prints more"),
];
