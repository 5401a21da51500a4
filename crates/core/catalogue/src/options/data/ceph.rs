use super::{Form, Opt, Reader, Spec, flag, is_address, number, number_value, one_of, row, strict};

/// Ceph, by mount.ceph and the kernel.
pub const SPEC: Spec = strict(OPTIONS)
    .one_by_one(5, 5)
    .by(Reader::Helper)
    .source("mount.ceph(8); recorded answers of the readers of kernels 5.10, 6.1 and 6.12");

/// The kernel counts in thousandths.
const MOST_SECONDS: i64 = i32::MAX as i64 / 1000;

fn is_page_or_more(value: &str) -> bool {
    number_value(value).is_some_and(|n| n == 0 || (4096..=i64::from(u32::MAX)).contains(&n))
}

/// An address, with or without a port.
fn is_place(value: &str) -> bool {
    is_address(value) || value.parse::<std::net::SocketAddr>().is_ok()
}

fn are_addresses(value: &str) -> bool {
    value.split('/').all(is_place)
}

fn is_uuid(value: &str) -> bool {
    let digits = value.chars().filter(char::is_ascii_hexdigit).count();
    digits == 32 && value.chars().all(|c| c.is_ascii_hexdigit() || c == '-')
}

fn is_location(value: &str) -> bool {
    value
        .split('|')
        .all(|pair| pair.split_once(':').is_some_and(|(of, name)| !of.is_empty() && !name.is_empty()))
}

const OPTIONS: &[Opt] = &[
    flag("pagecache", "what was read is remembered").default("on").since(6, 0),
    flag("nopagecache", "it is not").since(6, 0),
    row("name", Form::Text, "who logs in there").default("guest"),
    row("secret", Form::Text, "with which key").caution("the table can be read by everybody: use secretfile"),
    row("secretfile", Form::Text, "the file with the key").caution("owner root, mode 0600"),
    row("key", Form::Text, "name of the key in the kernel's keyring"),
    row("conf", Form::Text, "the file with the cluster's settings").default("/etc/ceph/ceph.conf"),
    row("fs", Form::Text, "which file system of the cluster"),
    row("mds_namespace", Form::Text, "which file system; write fs"),
    row(
        "mon_addr",
        Form::Shaped(are_addresses, "addresses with / between them"),
        "addresses of the monitors, with / between them",
    )
    .since(5, 17),
    row("fsid", Form::Shaped(is_uuid, "a UUID"), "the cluster's own name"),
    row("ip", Form::Shaped(is_place, "an address"), "address of this host"),
    row("snapdirname", Form::Text, "name of the directory with snapshots").default(".snap"),
    number("mount_timeout", 0, MOST_SECONDS, "seconds until mounting is given up").default("60"),
    number("rsize", 4096, 64 << 20, "bytes of a read").default("64 MiB"),
    number("wsize", 4096, 64 << 20, "bytes of a write").default("64 MiB"),
    number("rasize", 0, u32::MAX as i64, "bytes read ahead").default("8 MiB"),
    number("caps_max", 0, i32::MAX as i64, "most rights held at once"),
    number("caps_wanted_delay_min", 1, u32::MAX as i64, "seconds that rights are kept at least").default("5"),
    number("caps_wanted_delay_max", 1, u32::MAX as i64, "seconds that rights are kept at most").default("60"),
    number("readdir_max_entries", 1, u32::MAX as i64, "names in an answer").default("1024"),
    row(
        "readdir_max_bytes",
        Form::Shaped(is_page_or_more, "0, or 4096 and more"),
        "bytes of an answer with names",
    )
    .default("524288"),
    number("write_congestion_kb", 1024, u32::MAX as i64, "KiB of writes on their way"),
    number("osdkeepalive", 1, MOST_SECONDS, "seconds between signs of life").default("5"),
    number("osd_idle_ttl", 1, MOST_SECONDS, "seconds until idle connections are closed").default("60"),
    number("osd_request_timeout", 0, MOST_SECONDS, "seconds until requests are given up").default("0: never"),
    one_of("recover_session", &["no", "clean"], "whether it connects again after being shut out")
        .default("no"),
    one_of(
        "ms_mode",
        &["legacy", "crc", "secure", "prefer-crc", "prefer-secure"],
        "how it talks to the cluster",
    )
    .since(5, 11),
    one_of("read_from_replica", &["no", "balance", "localize"], "which copies are read").since(5, 8),
    row(
        "crush_location",
        Form::Shaped(is_location, "pairs with a colon, as rack:north"),
        "where this host stands",
    )
    .since(5, 8),
    flag("rbytes", "directories have the size of what is below them"),
    flag("norbytes", "they do not"),
    flag("dirstat", "directories can be read as figures"),
    flag("nodirstat", "they cannot"),
    flag("nocrc", "no checksums of data on the way"),
    flag("crc", "checksums of data on the way"),
    flag("dcache", "names are remembered"),
    flag("nodcache", "they are not"),
    flag("asyncreaddir", "remembered names answer for the directory"),
    flag("noasyncreaddir", "they do not"),
    flag("ino32", "inode numbers within 32 bits"),
    flag("noino32", "inode numbers of any size"),
    row("fsc", Form::FlagOrShaped(|v| !v.is_empty(), "a name, or nothing"), "remembers data on a local disk"),
    flag("nofsc", "does not"),
    flag("acl", "POSIX access lists"),
    flag("noacl", "no POSIX access lists"),
    flag("quotadf", "free space as quotas have it"),
    flag("noquotadf", "free space of the whole cluster"),
    flag("copyfrom", "the cluster copies by itself"),
    flag("nocopyfrom", "it does not"),
    flag("poolperm", "looks whether it may use a pool"),
    flag("nopoolperm", "does not look"),
    flag("require_active_mds", "fails when no metadata server is up"),
    flag("norequire_active_mds", "waits for one"),
    flag("wsync", "new and removed files wait for the server"),
    flag("nowsync", "they do not wait").since(5, 7),
    flag("share", "mounts of one cluster share a connection"),
    flag("noshare", "they do not"),
    flag("tcp_nodelay", "sends at once"),
    flag("notcp_nodelay", "gathers before it sends"),
    flag("abort_on_full", "writes fail when the cluster is full"),
    flag("cephx_require_signatures", "rejects messages without a signature"),
    flag("nocephx_require_signatures", "accepts messages without a signature"),
    flag("cephx_sign_messages", "signs messages"),
    flag("nocephx_sign_messages", "does not"),
    flag("rxbounce", "copies what comes in before it is checked").since(6, 0),
    flag("sparseread", "asks for holes").since(6, 6),
    flag("nosparseread", "does not").since(6, 6),
];
