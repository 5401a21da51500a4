use super::super::{Form, NotTaken, Opt, Reader, Spec, nowhere, row, since_new, strict};
use super::go::{self, DURATION, NUMBER};
use super::library::joined;

/// A store that rclone reaches, by `mount.rclone`: each store has words of its own
/// besides.
pub const SPEC: Spec = strict(OPTIONS)
    .open()
    .folds()
    .without(&NOT_TAKEN)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .source("rclone(1), rclone mount; recorded answers of rclone 1.60.1");

const NOT_TAKEN: [NotTaken; go::NOT_TAKEN.len() + 2] =
    joined(&[go::NOT_TAKEN, &[nowhere("users"), since_new("nouser")]]);

const BOOL: Form =
    Form::FlagOrShaped(|v| v.is_empty() || go::BOOL.objection(Some(v)).is_none(), "true or false");
/// A whole number in any base.
const ANY_BASE: Form = Form::Shaped(
    |v| {
        let digits = v.strip_prefix(['+', '-']).unwrap_or(v);
        let hex = digits.strip_prefix("0x").or(digits.strip_prefix("0X"));
        hex.map_or(digits.parse::<u64>().is_ok(), |h| u64::from_str_radix(h, 16).is_ok())
    },
    "a whole number",
);
const ID: Form = Form::Shaped(|v| v.parse::<u32>().is_ok(), "the number of a user or group");
const SIZE: Form = Form::Shaped(is_size, "a size: 10M, or off");
const BITS: Form = Form::Shaped(octal, "permissions in octal");

fn octal(value: &str) -> bool {
    i64::from_str_radix(value, 8).is_ok()
}

fn is_size(value: &str) -> bool {
    let value = value.strip_prefix('+').unwrap_or(value);
    let digits = value.trim_start_matches(|c: char| c.is_ascii_digit() || c == '.');
    let unit = digits.to_ascii_lowercase();
    value.eq_ignore_ascii_case("off")
        || digits.len() < value.len()
            && matches!(
                unit.trim_end_matches("ib").trim_end_matches('i'),
                "" | "b" | "k" | "m" | "g" | "t" | "p" | "e"
            )
}

const fn switch(name: &'static str, meaning: &'static str) -> Opt {
    row(name, BOOL, meaning)
}

const OPTIONS: &[Opt] = &[
    row("config", Form::Any, "the file with the stores")
        .caution("at boot there is no home directory: name it"),
    row("cache-dir", Form::Any, "where files are kept")
        .caution("at boot there is no home directory: name it"),
    row("args2env", Form::FlagOrAny, "hands its words on in the environment"),
    switch("allow-other", "others than who mounts it may use it"),
    switch("allow-root", "root may use it as well"),
    switch("allow-non-empty", "mounts over a directory that holds files"),
    switch("default-permissions", "the kernel checks permissions"),
    switch("read-only", "nothing can be written"),
    switch("async-read", "reads are not in order").default("true"),
    switch("write-back-cache", "writes are gathered"),
    switch("no-modtime", "times are not read"),
    switch("no-checksum", "sums are not compared"),
    switch("no-seek", "files are read from front to end"),
    switch("no-check-certificate", "believes every server").caution("anybody on the way can read and change"),
    switch("vfs-fast-fingerprint", "fewer facts tell whether a file changed"),
    switch("use-mmap", "memory is given back sooner"),
    switch("log-systemd", "writes to the journal"),
    row(
        "vfs-cache-mode",
        Form::OneOf(&["off", "minimal", "writes", "full"]),
        "what is kept before it is sent",
    )
    .default("off")
    .caution("with off most programs cannot write files in place: use writes or full"),
    row("log-file", Form::Any, "where it writes what it does"),
    row("log-level", Form::OneOf(&["DEBUG", "INFO", "NOTICE", "ERROR"]), "how much it says")
        .default("NOTICE"),
    row("umask", ANY_BASE, "permissions removed from all"),
    row("uid", ID, "owner of all files"),
    row("gid", ID, "group of all files"),
    row("dir-perms", BITS, "permissions of directories").default("0777"),
    row("file-perms", BITS, "permissions of files").default("0666"),
    row("dir-cache-time", DURATION, "how long directories are remembered").default("5m"),
    row("attr-timeout", DURATION, "how long the kernel remembers attributes").default("1s"),
    row("poll-interval", DURATION, "how often it looks for changes").default("1m"),
    row("vfs-cache-max-age", DURATION, "how long files are kept").default("1h"),
    row("vfs-cache-max-size", SIZE, "how much is kept").default("off"),
    row("vfs-write-back", DURATION, "how long it waits until it sends").default("5s"),
    row("vfs-read-ahead", SIZE, "how much more is read"),
    row("vfs-read-chunk-size", SIZE, "how much is asked for at once").default("128M"),
    row("buffer-size", SIZE, "memory of each file").default("16M"),
    row(
        "bwlimit",
        Form::Shaped(|v| v.contains([':', ',', ' ']) || is_size(v), "a size, or a table of times"),
        "bytes in a second at most",
    ),
    row("contimeout", DURATION, "until connecting is given up").default("1m"),
    row("timeout", DURATION, "until a silent server is given up").default("5m"),
    row("tpslimit", Form::Shaped(|v| v.parse::<f64>().is_ok(), "a number"), "requests in a second at most"),
    row("retries", NUMBER, "how often it is tried").default("3"),
];
