use super::{ADDRESS, Form, Opt, Reader, Spec, flag, number, one_of, row, strict};
use bradawl_facts::table::OptionItem;

/// NFS, by mount.nfs.
pub const SPEC: Spec = strict(OPTIONS)
    .by(Reader::Helper)
    .one_by_one(5, 6)
    .reads_strictly()
    .source("nfs(5); recorded answers of kernels 6.1 and 6.12 with mount.nfs 2.6.2 and 2.8.3");

/// The same by the name that asks for version 4.
pub const SPEC4: Spec = SPEC.whole(|list| {
    let older = |o: &OptionItem| {
        matches!(o.name.as_str(), "vers" | "nfsvers") && matches!(o.value.as_deref(), Some("2" | "3"))
    };
    let at = list.options.iter().position(older)?;
    Some((at, "nfs4 is version 4 of the protocol: write the type nfs".to_owned()))
});

/// Numbers of the kernel's parser.
const NUMBER: Form = Form::Number(0, u32::MAX as i64);
/// The program reads the port and version of the old mount service as far as it
/// understands them, and where the protocol has none not at all.
const UNREAD: Form = Form::FlagOrAny;
const PROTOCOLS: &[&str] = &["tcp", "tcp6", "udp", "udp6", "rdma", "rdma6"];
const SECURITY: &[&str] =
    &["sys", "none", "null", "krb5", "krb5i", "krb5p", "lkey", "lkeyi", "lkeyp", "spkm", "spkmi", "spkmp"];

/// One kind of security, or several with colons between them.
fn is_security(value: &str) -> bool {
    value.split(':').all(|one| SECURITY.contains(&one))
}

fn is_mount_version(value: &str) -> bool {
    value.starts_with(['1', '2', '3']) && !value[1..].starts_with(|c: char| c.is_ascii_digit())
}

const OPTIONS: &[Opt] = &[
    flag("hard", "asks again without end; the default").default("on").excludes(&["soft", "softerr"]),
    flag("soft", "gives up after a while: writes may be lost")
        .excludes(&["hard"])
        .caution("a server that is slow for a while loses writes"),
    flag("softerr", "gives up with another error").excludes(&["hard", "soft"]),
    flag("softreval", "serves what it remembers when the server is silent"),
    flag("intr", "leave it out").idle(),
    flag("nointr", "leave it out").idle(),
    number("timeo", 1, i32::MAX as i64, "tenths of a second before it asks again").default("600 over TCP"),
    number("retrans", 0, i32::MAX as i64, "how often it asks again").default("2 over TCP"),
    number("rsize", 1, u32::MAX as i64, "bytes of a read").default("what both can, up to 1 MiB"),
    number("wsize", 1, u32::MAX as i64, "bytes of a write").default("what both can, up to 1 MiB"),
    flag("ac", "attributes are remembered; the default"),
    flag("noac", "attributes are asked for each time, and writes wait").implies(&["sync", "actimeo=0"]),
    row("acregmin", NUMBER, "seconds that attributes of files are remembered at least").default("3"),
    row("acregmax", NUMBER, "seconds that attributes of files are remembered at most").default("60"),
    row("acdirmin", NUMBER, "the same for directories, at least").default("30"),
    row("acdirmax", NUMBER, "the same for directories, at most").default("60"),
    row("actimeo", NUMBER, "all four at once").implies(&["acregmin", "acregmax", "acdirmin", "acdirmax"]),
    flag("bg", "keeps trying in the background")
        .caution("the init system mounts in its own background: nofail or an automount does it better"),
    flag("fg", "tries while somebody waits; the default"),
    number("nconnect", 1, 16, "connections to the server").default("1"),
    number("max_connect", 1, 16, "connections to other addresses of the server"),
    row("rdirplus", Form::FlagOrOneOf(&["none", "force"]), "attributes come with the names").since(6, 16),
    flag("rdirplus", "attributes come with the names").until(6, 16),
    flag("nordirplus", "they do not"),
    row("bsize", Form::Any, "leave it out").idle(),
    row("retry", Form::Any, "minutes that mounting is tried")
        .default("2 in the foreground, 10000 in the background"),
    row(
        "sec",
        Form::Shaped(is_security, "one of sys, krb5, krb5i, krb5p, none"),
        "how it proves who it is: sys, krb5, krb5i, krb5p",
    )
    .default("what the server offers first"),
    flag("sharecache", "mounts of one server share what they remember").default("on"),
    flag("nosharecache", "they do not"),
    flag("resvport", "comes from a privileged port; the default").default("on"),
    flag("noresvport", "comes from any port"),
    one_of("lookupcache", &["all", "none", "pos", "positive"], "which names are remembered").default("all"),
    row("fsc", Form::FlagOrShaped(|v| !v.is_empty(), "a name"), "remembers data on a local disk"),
    flag("nofsc", "does not"),
    one_of("xprtsec", &["none", "tls", "mtls"], "encrypts the connection").since(6, 5),
    row("sloppy", Form::FlagOrAny, "passes over options it does not know"),
    row("proto", Form::FlagOrOneOf(PROTOCOLS), "udp, tcp, rdma, with 6 for IPv6").default("tcp"),
    row("tcp", Form::FlagOrAny, "over TCP"),
    flag("udp", "over UDP: few kernels are built for it")
        .until(5, 6)
        .caution("data may be damaged unnoticed on fast networks"),
    flag("rdma", "over RDMA"),
    row("port", Form::FlagOrNumber(0, 65_535), "port of the server").default("2049"),
    row("v2", Form::FlagOrAny, "version 2 of the protocol, which few kernels still have"),
    row("v3", Form::FlagOrAny, "version 3 of the protocol"),
    row("v4", Form::FlagOrAny, "version 4 of the protocol"),
    flag("v4.0", "version 4.0 of the protocol"),
    flag("v4.1", "version 4.1 of the protocol"),
    flag("v4.2", "version 4.2 of the protocol"),
    one_of("vers", VERSIONS, "version of the protocol").default("the highest both know"),
    one_of("nfsvers", VERSIONS, "version of the protocol").default("the highest both know"),
    number("minorversion", 0, 2, "minor version of the protocol"),
    row("mountport", UNREAD, "port of the server's mount program"),
    row("mountproto", Form::FlagOrOneOf(PROTOCOLS), "how that is reached"),
    row("mounthost", Form::Any, "another host for that"),
    row("mountaddr", ADDRESS, "its address"),
    row("mountvers", Form::FlagOrShaped(is_mount_version, "a version from 1 to 3"), "its version"),
    row("namlen", Form::FlagOrAny, "longest name").since(6, 12),
    row("namlen", NUMBER, "longest name").until(6, 12),
    flag("alignwrite", "writes whole pages").since(6, 11).default("on"),
    flag("noalignwrite", "writes what was changed").since(6, 11),
    flag("lock", "locks through the server; the default").default("on"),
    flag("nolock", "locks hold on this host alone").caution("locks of other hosts are not seen"),
    one_of("local_lock", &["all", "flock", "posix", "none"], "which locks hold on this host alone")
        .default("none"),
    flag("cto", "what is closed can be seen by who opens; the default").default("on"),
    flag("nocto", "not so strictly"),
    flag("acl", "POSIX access lists"),
    flag("noacl", "no POSIX access lists"),
    row("clientaddr", Form::Text, "address for what the server calls back"),
    row("addr", Form::FlagOrAny, "address of the server"),
    flag("migration", "follows the server when it moves"),
    flag("nomigration", "does not"),
    flag("trunkdiscovery", "finds other addresses of the server"),
    flag("notrunkdiscovery", "does not"),
    one_of("write", &["lazy", "eager", "wait"], "when writes go out").since(5, 14),
    flag("posix", "leave it out"),
    flag("noposix", "leave it out"),
];

const VERSIONS: &[&str] = &["2", "3", "4", "4.0", "4.1", "4.2"];
