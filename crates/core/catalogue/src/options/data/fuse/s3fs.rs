use super::super::{Form, Opt, Reader, Spec, flag, row, strict};
use super::library::{CONNECTION, LIBRARY, NOT_TAKEN, PATHS, ROOT, SECOND, joined};

/// A bucket of an object store, by s3fs.
pub const SPEC: Spec = strict(&OPTIONS)
    .by(Reader::Helper)
    .handed_flags(&["ro", "rw", "noauto"])
    .without(NOT_TAKEN)
    .source("s3fs(1) and its own help; recorded answers of s3fs 1.90 and 1.95");

static OPTIONS: [Opt; 48 + OWN.len()] = joined(&[&LIBRARY, &ROOT, &CONNECTION, &PATHS, &SECOND, OWN]);

const LEVELS: &[&str] =
    &["silent", "crit", "critical", "err", "error", "warn", "warning", "wan", "inf", "info", "dbg", "debug"];

/// Capitals do not count.
fn is_one_of(words: &[&str], value: &str) -> bool {
    words.iter().any(|word| word.eq_ignore_ascii_case(value))
}

/// A number; 0 where it is none.
fn scanned(value: &str) -> i64 {
    value.parse().unwrap_or(0)
}

fn is_dirty(value: &str) -> bool {
    value == "-1" || value.parse::<i64>().is_ok_and(|n| n >= 50)
}

fn is_bucket(value: &str) -> bool {
    let digits = value.trim_end_matches(|c: char| c.is_ascii_alphabetic());
    let unit = &value[digits.len()..];
    matches!(unit, "GB" | "TB" | "PB" | "GiB" | "TiB" | "PiB") && digits.parse::<u32>().is_ok_and(|n| n > 0)
}

const fn newer(row: Opt) -> Opt {
    row.reader_since(1, 91)
}

const PARALLEL: Form = Form::Decimal(1, 1 << 20);

/// It reads as far as it understands.
fn is_rrs(value: &str) -> bool {
    // What is no number counts as 0.
    matches!(scanned(value), 0 | 1)
}

fn is_sse(value: &str) -> bool {
    matches!(value, "1" | "c" | "k")
        || ["custom", "kmsid", "c:", "k:", "/"].iter().any(|word| value.starts_with(word))
}

const URL: Form = Form::Shaped(
    |v| v.starts_with("http://") || v.starts_with("https://"),
    "an address with http:// or https://",
);

const OWN: &[Opt] = &[
    row("passwd_file", Form::Any, "the file with the key")
        .default("/etc/passwd-s3fs")
        .caution("owner root, mode 0600: else the mount fails"),
    row("url", URL, "where the store is").default("https://s3.amazonaws.com"),
    row("host", Form::Any, "the same, as it was called"),
    row("servicepath", Form::Any, "the path before the bucket").default("/"),
    row("endpoint", Form::Any, "the region").default("us-east-1"),
    flag("use_path_request_style", "the bucket is part of the path, as own stores want it"),
    row("bucket", Form::Any, "the bucket"),
    row(
        "default_acl",
        Form::OneOf(&[
            "private",
            "public-read",
            "public-read-write",
            "aws-exec-read",
            "authenticated-read",
            "bucket-owner-read",
            "bucket-owner-full-control",
            "log-delivery-write",
        ]),
        "who may read new objects",
    )
    .default("private"),
    row("retries", Form::Decimal(1, 2_147_483_647), "how often a request is tried").default("5"),
    row("tmpdir", Form::Any, "where parts are kept for a while").default("/tmp"),
    row("use_cache", Form::Any, "where files are kept").caution("it grows without end: see ensure_diskfree"),
    flag("check_cache_dir_exist", "that directory has to be there"),
    flag("del_cache", "it is emptied at start and end"),
    row("storage_class", Form::Any, "class of new objects").default("standard"),
    row("use_rrs", Form::FlagOrShaped(is_rrs, "0 or 1"), "stored less safely"),
    row("use_sse", Form::FlagOrShaped(is_sse, "1, custom, kmsid or a file with keys"), "the store encrypts"),
    row("load_sse_c", Form::Any, "keys for reading"),
    row("public_bucket", Form::Any, "without a key"),
    row("ahbe_conf", Form::Any, "further headers by name"),
    row("profile", Form::Any, "which key of the file").default("default"),
    row("connect_timeout", Form::Any, "seconds until connecting is given up").default("300"),
    row("readwrite_timeout", Form::Any, "seconds until a request is given up").default("120"),
    row("list_object_max_keys", Form::Decimal(1000, i32::MAX as i64), "names in an answer").default("1000"),
    row("max_stat_cache_size", Form::Any, "how many attributes are remembered").default("100000"),
    row("stat_cache_expire", Form::Any, "seconds for which").default("900"),
    row("stat_cache_interval_expire", Form::Any, "the same from the last use"),
    flag("enable_noobj_cache", "absent names are remembered"),
    newer(flag("disable_noobj_cache", "absent names are not remembered")),
    flag("no_check_certificate", "believes every server").caution("anybody on the way can read and change"),
    row(
        "ssl_verify_hostname",
        Form::Shaped(|v| matches!(scanned(v), 0 | 1), "0 or 1"),
        "whether the server's name counts",
    )
    .default("2, which cannot be written"),
    newer(row("ssl_client_cert", Form::Text, "a certificate of its own")),
    flag("nodnscache", "names are looked up each time"),
    flag("nosscache", "connections start anew"),
    row("multireq_max", Form::Any, "requests at once for listing").default("20"),
    row("parallel_count", PARALLEL, "requests at once for one file").default("5"),
    row("multipart_size", Form::Decimal(5, 5120), "MB of a part").default("10"),
    row("multipart_copy_size", Form::Decimal(5, i64::MAX >> 20), "MB of a part that is copied")
        .default("512"),
    row("multipart_threshold", Form::Decimal(5, i64::MAX >> 20), "MB from which there are parts")
        .default("25"),
    row("singlepart_copy_limit", Form::Any, "MB up to which it is copied whole").default("512"),
    row("max_dirty_data", Form::Shaped(is_dirty, "50 or more, or -1: never"), "MB after which it writes")
        .default("5120"),
    newer(row("bucket_size", Form::Shaped(is_bucket, "a size with GB, TB or GiB: 10TB"), "the size shown")),
    row("ensure_diskfree", Form::Any, "MB that stay free beside the cache").default("0"),
    newer(row(
        "free_space_ratio",
        Form::Shaped(|v| (0..=100).contains(&scanned(v)), "a number from 0 to 100"),
        "the same in percent",
    ))
    .default("10"),
    newer(row("fake_diskfree", Form::Any, "free space as it is claimed")),
    flag("sigv2", "the older signature"),
    flag("sigv4", "the newer signature"),
    row("mp_umask", Form::Any, "permissions removed from the mount point").default("0000"),
    flag("nomultipart", "nothing in parts"),
    newer(flag("streamupload", "sends as it is written")),
    newer(
        row(
            "max_thread_count",
            Form::Shaped(|v| (1..=2_147_483_647).contains(&scanned(v)), "a number from 1"),
            "threads at most",
        )
        .default("5"),
    ),
    flag("enable_content_md5", "each request with a checksum"),
    newer(flag("enable_unsigned_payload", "contents are not signed")),
    flag("ecs", "keys of the container"),
    row("iam_role", Form::FlagOrAny, "keys of the machine's role"),
    flag("imdsv1only", "asks for them the older way"),
    flag("ibm_iam_auth", "keys of another maker"),
    row("ibm_iam_endpoint", URL, "where they come from"),
    newer(row("credlib", Form::Any, "a library that brings keys")),
    newer(row("credlib_opts", Form::Any, "what it is told").needs(&["credlib"])),
    row("use_xattr", Form::FlagOrShaped(|v| matches!(v, "0" | "1"), "0 or 1"), "extended attributes"),
    flag("noxmlns", "answers without name spaces"),
    flag("nomixupload", "nothing is copied within parts"),
    flag("nocopyapi", "for stores that cannot copy"),
    flag("norenameapi", "for stores that cannot rename"),
    flag("listobjectsv2", "the newer way of listing"),
    flag("noua", "does not say who asks"),
    row("cipher_suites", Form::Any, "how it is encrypted on the way"),
    row("instance_name", Form::Any, "a name in its log"),
    flag("complement_stat", "permissions where there are none"),
    flag("notsup_compat_dir", "directories of other programs are not seen"),
    newer(flag("compat_dir", "directories of other programs are seen")),
    flag("use_wtf8", "names in any encoding"),
    flag("use_session_token", "a key that ends"),
    flag("requester_pays", "who asks pays"),
    row("mime", Form::Any, "the file of types").default("/etc/mime.types"),
    newer(row("proxy", Form::Text, "the proxy")),
    newer(row("proxy_cred_file", Form::Any, "its password")),
    newer(row(
        "ipresolve",
        Form::Shaped(|v| is_one_of(&["whatever", "IPv4", "IPv6"], v), "whatever, IPv4 or IPv6"),
        "which addresses",
    )),
    row("logfile", Form::Text, "where it writes what it does"),
    row(
        "dbglevel",
        Form::Shaped(|v| is_one_of(LEVELS, v), "silent, crit, err, warn, info or dbg"),
        "how much it says",
    )
    .default("crit"),
    row(
        "curldbg",
        Form::FlagOrShaped(|v| is_one_of(&["normal", "body"], v), "normal or body"),
        "says what goes over the wire",
    ),
    flag("no_time_stamp_msg", "without times"),
    row("set_check_cache_sigusr1", Form::FlagOrAny, "looks through the cache on a signal"),
    newer(flag("update_parent_dir_stat", "times of directories follow")),
    row("parallel_upload", PARALLEL, "the same as parallel_count, as it was called"),
    row("fd_page_size", Form::Any, "without effect"),
];
