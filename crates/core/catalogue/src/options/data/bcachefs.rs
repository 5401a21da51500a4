use super::{Form, Opt, Spec, UNRECORDED, number, one_of, row, strict};

/// bcachefs: in the kernel from 6.7 until before 6.18.
pub const SPEC: Spec = strict(OPTIONS).source(UNRECORDED);

const SWITCH: Form = Form::FlagOrOneOf(&["0", "1"]);
const CHECKSUMS: &[&str] = &["none", "crc32c", "crc64", "xxhash"];
const COMPRESSION: Form = Form::Shaped(
    |v| matches!(v.split(':').next().unwrap_or(v), "none" | "lz4" | "gzip" | "zstd"),
    "none, lz4, gzip or zstd, with a level behind a colon",
);

const fn switch(name: &'static str, meaning: &'static str) -> Opt {
    row(name, SWITCH, meaning)
}

const OPTIONS: &[Opt] = &[
    row("compression", COMPRESSION, "compresses new data").default("none"),
    row("background_compression", COMPRESSION, "compresses data later").default("none"),
    one_of("data_checksum", CHECKSUMS, "checksums of data").default("crc32c"),
    one_of("metadata_checksum", CHECKSUMS, "checksums of metadata").default("crc32c"),
    one_of("str_hash", &["crc32c", "crc64", "siphash"], "hashes of names").default("siphash"),
    number("data_replicas", 1, 4, "copies of data").default("1"),
    number("metadata_replicas", 1, 4, "copies of metadata").default("1"),
    number("data_replicas_required", 1, 4, "copies of data without which writing fails").default("1"),
    number("metadata_replicas_required", 1, 4, "copies of metadata without which writing fails").default("1"),
    row("foreground_target", Form::Text, "devices that take what is written"),
    row("background_target", Form::Text, "devices to which data moves later"),
    row("promote_target", Form::Text, "devices to which data moves when read"),
    row("metadata_target", Form::Text, "devices for metadata"),
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
    number("journal_flush_delay", 1, u32::MAX as i64, "milliseconds between flushes").default("1000"),
    number("journal_reclaim_delay", 0, u32::MAX as i64, "milliseconds until the journal is reused")
        .default("100"),
    one_of("version_upgrade", &["compatible", "incompatible", "none"], "renews the format while mounting")
        .default("compatible"),
    switch("verbose", "prints more"),
];
