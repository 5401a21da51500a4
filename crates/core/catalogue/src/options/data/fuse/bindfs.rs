use super::super::{Form, Opt, Reader, Spec, flag, row, strict};
use super::library::{CONNECTION, LIBRARY, NOT_TAKEN, PATHS, SECOND, joined};

/// A directory shown with other owners and permissions, by bindfs.
pub const SPEC: Spec = strict(&OPTIONS)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw"])
    .without(NOT_TAKEN)
    .source("bindfs(1) and its own help; recorded answers of bindfs 1.14.7 with libfuse 2.9");

static OPTIONS: [Opt; 47 + OWN.len()] = joined(&[&LIBRARY, &CONNECTION, &PATHS, &SECOND, OWN]);

const ACCOUNT: Form = Form::Shaped(
    |v| {
        !v.starts_with(|c: char| c.is_ascii_digit()) && !v.contains(':')
            || v.bytes().all(|b| b.is_ascii_digit())
    },
    "the name or number of a user or group",
);
const OFFSET: Form = Form::Shaped(|v| v.is_empty() || v.parse::<i64>().is_ok(), "a whole number");
const PERMS: Form = Form::Shaped(is_perms, "permissions as for chmod: 0644 or u=rwX");
const RATE: Form = Form::Shaped(
    |v| {
        let digits = v.trim_end_matches(['k', 'M', 'G', 'T']);
        v.len() <= digits.len() + 1 && is_amount(digits)
    },
    "bytes, or with k, M, G or T",
);

/// A number above zero, also in hexadecimal.
fn is_amount(value: &str) -> bool {
    let hexadecimal = value.strip_prefix("0x").map(|rest| u64::from_str_radix(rest, 16).is_ok_and(|n| n > 0));
    hexadecimal.unwrap_or_else(|| value.parse::<f64>().is_ok_and(|n| n > 0.0))
}

/// Parts with colons between, each in octal or in signs.
fn is_perms(value: &str) -> bool {
    // Read by scanf, which also finds none.
    let octal = |v: &str| {
        let digits = v.len() - v.trim_start_matches(|c: char| matches!(c, '0'..='7')).len();
        let mode = u32::from_str_radix(&v[..digits], 8).unwrap_or(0);
        v.starts_with(|c: char| c.is_ascii_digit()) && mode <= 0o777 && digits < 11
    };
    let signs = |v: &str| {
        (v.contains(['+', '-', '=']) || !v.contains(|c: char| !"ugoa".contains(c)))
            && v.starts_with(|c: char| "ugoadf+-=".contains(c))
            && !v.contains(|c: char| !"ugoadfrwxXDstp+-=".contains(c))
    };
    value.split([':', ',']).all(|part| part.is_empty() || octal(part) || signs(part))
}

const OWN: &[Opt] = &[
    row("force-user", ACCOUNT, "owner of all files"),
    row("force-group", ACCOUNT, "group of all files"),
    row("mirror", Form::Any, "users who see themselves as owners, with colons between"),
    row("mirror-only", Form::Any, "the same, and nobody else has access"),
    row(
        "map",
        Form::Shaped(|v| v.is_empty() || v.contains('/'), "pairs: user1/user2"),
        "who owns whose files: user1/user2",
    ),
    row("map-passwd", Form::Text, "the same by a file of users"),
    row("map-group", Form::Text, "the same by a file of groups"),
    row("uid-offset", OFFSET, "what is added to each owner"),
    row("gid-offset", OFFSET, "what is added to each group"),
    row("perms", PERMS, "permissions, as for chmod, with colons between"),
    flag("create-as-user", "new files belong to who makes them").default("on, for root"),
    flag("create-as-mounter", "new files belong to who mounts it"),
    row("create-for-user", ACCOUNT, "owner of new files"),
    row("create-for-group", ACCOUNT, "group of new files"),
    row("create-with-perms", PERMS, "permissions of new files"),
    flag("chown-normal", "chown changes the files").default("on"),
    flag("chown-ignore", "chown does nothing"),
    flag("chown-deny", "chown fails"),
    flag("chgrp-normal", "chgrp changes the files").default("on"),
    flag("chgrp-ignore", "chgrp does nothing"),
    flag("chgrp-deny", "chgrp fails"),
    flag("chmod-normal", "chmod changes the files").default("on"),
    flag("chmod-ignore", "chmod does nothing"),
    flag("chmod-deny", "chmod fails"),
    row("chmod-filter", PERMS, "changes what chmod asks for"),
    flag("chmod-allow-x", "chmod may always make files executable"),
    flag("xattr-none", "no extended attributes"),
    flag("xattr-ro", "extended attributes can be read"),
    flag("xattr-rw", "extended attributes can be changed").default("on"),
    flag("delete-deny", "nothing can be removed"),
    flag("rename-deny", "nothing can be renamed"),
    row("read-rate", RATE, "bytes read in a second at most"),
    row("write-rate", RATE, "bytes written in a second at most"),
    flag("no-allow-other", "others than who mounts it may not use it"),
    flag("realistic-permissions", "shows what can really be done"),
    flag("ctime-from-mtime", "times of change are those of contents"),
    flag("enable-lock-forwarding", "locks count below as well").needs(&["multithreaded"]),
    flag("disable-lock-forwarding", "they do not"),
    flag("enable-ioctl", "hands calls to devices on"),
    flag("hide-hard-links", "files have one name each"),
    flag("resolve-symlinks", "links are shown as what they point to"),
    row(
        "resolved-symlink-deletion",
        Form::OneOf(&["deny", "symlink-only", "symlink-first", "target-first"]),
        "what removing one of them removes",
    ),
    flag("block-devices-as-files", "devices are shown as files"),
    flag("multithreaded", "several requests at once")
        .caution("its manual page warns: owners may be mixed up"),
    row(
        "forward-odirect",
        Form::Shaped(|v| v.parse::<i64>().is_ok_and(|n| n != 0), "a number"),
        "hands reads and writes past the cache on",
    ),
];
