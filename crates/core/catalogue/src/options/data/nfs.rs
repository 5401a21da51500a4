use super::{Form, Opt, Reader, Spec, flag, number, one_of, row, strict};

/// NFS, by mount.nfs.
pub const SPEC: Spec = strict(OPTIONS).by(Reader::Helper).source("nfs(5); not recorded");

const OPTIONS: &[Opt] = &[
    flag("hard", "asks again without end; the default").default("on").excludes(&["soft", "softerr"]),
    flag("soft", "gives up after a while: writes may be lost")
        .excludes(&["hard"])
        .caution("a server that is slow for a while loses writes"),
    flag("softerr", "gives up with another error").excludes(&["hard", "soft"]),
    flag("softreval", "serves what it remembers when the server is silent"),
    flag("nosoftreval", "does not"),
    flag("intr", "leave it out").idle(),
    flag("nointr", "leave it out").idle(),
    number("timeo", 1, i32::MAX as i64, "tenths of a second before it asks again").default("600 over TCP"),
    number("retrans", 0, i32::MAX as i64, "how often it asks again").default("2 over TCP"),
    number("rsize", 1, i32::MAX as i64, "bytes of a read").default("what both can, up to 1 MiB"),
    number("wsize", 1, i32::MAX as i64, "bytes of a write").default("what both can, up to 1 MiB"),
    flag("ac", "attributes are remembered; the default"),
    flag("noac", "attributes are asked for each time, and writes wait").implies(&["sync", "actimeo=0"]),
    number("acregmin", 0, i32::MAX as i64, "seconds that attributes of files are remembered at least")
        .default("3"),
    number("acregmax", 0, i32::MAX as i64, "seconds that attributes of files are remembered at most")
        .default("60"),
    number("acdirmin", 0, i32::MAX as i64, "the same for directories, at least").default("30"),
    number("acdirmax", 0, i32::MAX as i64, "the same for directories, at most").default("60"),
    number("actimeo", 0, i32::MAX as i64, "all four at once")
        .implies(&["acregmin", "acregmax", "acdirmin", "acdirmax"]),
    flag("bg", "keeps trying in the background")
        .caution("the init system mounts in its own background: nofail or an automount does it better"),
    flag("fg", "tries while somebody waits; the default"),
    number("nconnect", 1, 16, "connections to the server").default("1"),
    number("max_connect", 1, 16, "connections to other addresses of the server"),
    row("rdirplus", Form::FlagOrOneOf(&["none", "force"]), "attributes come with the names"),
    flag("nordirplus", "they do not"),
    number("retry", 0, i32::MAX as i64, "minutes that mounting is tried")
        .default("2 in the foreground, 10000 in the background"),
    row("sec", Form::Text, "how it proves who it is: sys, krb5, krb5i, krb5p")
        .default("what the server offers first"),
    flag("sharecache", "mounts of one server share what they remember").default("on"),
    flag("nosharecache", "they do not"),
    flag("resvport", "comes from a privileged port; the default").default("on"),
    flag("noresvport", "comes from any port"),
    one_of("lookupcache", &["all", "none", "pos", "positive"], "which names are remembered").default("all"),
    row("fsc", Form::FlagOrAny, "remembers data on a local disk"),
    flag("nofsc", "does not"),
    one_of("xprtsec", &["none", "tls", "mtls"], "encrypts the connection").since(6, 5),
    flag("sloppy", "passes over options it does not know"),
    row("proto", Form::Text, "udp, tcp, rdma, with 6 for IPv6").default("tcp"),
    flag("tcp", "over TCP"),
    flag("udp", "over UDP").caution("data may be damaged unnoticed on fast networks"),
    flag("rdma", "over RDMA"),
    number("port", 0, 65_535, "port of the server").default("2049"),
    flag("v3", "version 3 of the protocol"),
    flag("v4", "version 4 of the protocol"),
    flag("v4.0", "version 4.0 of the protocol"),
    flag("v4.1", "version 4.1 of the protocol"),
    flag("v4.2", "version 4.2 of the protocol"),
    one_of("vers", VERSIONS, "version of the protocol").default("the highest both know"),
    one_of("nfsvers", VERSIONS, "version of the protocol").default("the highest both know"),
    number("minorversion", 0, 2, "minor version of the protocol"),
    number("mountport", 0, 65_535, "port of the server's mount program"),
    row("mountproto", Form::Text, "how that is reached"),
    row("mounthost", Form::Text, "another host for that"),
    row("mountaddr", Form::Text, "its address"),
    number("mountvers", 1, 3, "its version"),
    number("namlen", 1, 255, "longest name"),
    flag("lock", "locks through the server; the default").default("on"),
    flag("nolock", "locks hold on this host alone").caution("locks of other hosts are not seen"),
    one_of("local_lock", &["all", "flock", "posix", "none"], "which locks hold on this host alone")
        .default("none"),
    flag("cto", "what is closed can be seen by who opens; the default").default("on"),
    flag("nocto", "not so strictly"),
    flag("acl", "POSIX access lists"),
    flag("noacl", "no POSIX access lists"),
    row("clientaddr", Form::Text, "address for what the server calls back"),
    row("addr", Form::Text, "address of the server"),
    flag("migration", "follows the server when it moves"),
    flag("nomigration", "does not"),
    flag("trunkdiscovery", "finds other addresses of the server"),
    flag("notrunkdiscovery", "does not"),
    one_of("write", &["lazy", "eager", "wait"], "when writes go out").since(5, 14),
    flag("posix", "leave it out"),
    flag("noposix", "leave it out"),
];

const VERSIONS: &[&str] = &["2", "3", "4", "4.0", "4.1", "4.2"];
