use super::{Form, List, Opt, Spec, number_value, row, since, size_value, strict, until};
use bradawl_facts::Version;

/// XFS.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 6).whole(whole);

const ALLOCATION: Form = Form::Shaped(
    |v| size_value(v).is_some_and(|n| (4096..=1 << 30).contains(&n) && n & (n - 1) == 0),
    "a power of two from 4k to 1g",
);
const LOG_SIZE: Form = Form::Shaped(
    |v| {
        size_value(v)
            .is_some_and(|n| n == 0 || n == -1 || ((16 << 10..=256 << 10).contains(&n) && n & (n - 1) == 0))
    },
    "0, 16k, 32k, 64k, 128k or 256k",
);
const LOG_BUFFERS: Form = Form::Shaped(
    // The largest number is the one that leaves the choice to the kernel.
    |v| number_value(v).is_some_and(|n| matches!(n, 0 | 2..=8 | 4_294_967_295)),
    "0, or a number from 2 to 8",
);

/// The format before version 5.
fn is_v4(list: &List<'_>) -> bool {
    list.content.and_then(|c| c.version.as_deref()).is_some_and(|v| v.starts_with('4'))
}

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    let stripe = |name| list.value(name).filter(|v| *v != "0");
    match (stripe("sunit"), stripe("swidth")) {
        (Some(_), None) => return list.refuse("sunit", "it needs swidth beside it"),
        (None, Some(_)) => return list.refuse("swidth", "it needs sunit beside it"),
        (Some(_), Some(_)) if list.has("noalign") => {
            return list.refuse("noalign", "it does not go with sunit and swidth");
        }
        _ => {}
    }
    if list.typical && list.has("logdev") {
        return list.refuse("logdev", "the file system has its log inside");
    }
    if list.typical && list.has("max_open_zones") && !list.is("max_open_zones", "0") {
        return list.refuse("max_open_zones", "the file system has no zones");
    }
    let both = ["gquota", "grpquota"].iter().any(|q| list.has(q))
        && ["pquota", "prjquota"].iter().any(|q| list.has(q));
    if both && is_v4(list) {
        let why = "the older format has no room for group and project quotas together";
        return list.refuse("pquota", why).or_else(|| list.refuse("prjquota", why));
    }
    if !is_v4(list) && list.has("noattr2") && list.kernel < Version(6, 18) {
        return list.refuse("noattr2", "today's format knows one place of attributes only");
    }
    let dax = list.has("dax") && matches!(list.value("dax"), None | Some("always"));
    if list.typical && dax && !is_v4(list) && list.kernel < Version(5, 17) {
        return list.refuse("dax", "the device is no persistent memory");
    }
    if list.typical && stripe("sunit").is_some() {
        return list.refuse("sunit", "the file system was made without stripes");
    }
    None
}

const OPTIONS: &[Opt] = &[
    row("allocsize", ALLOCATION, "how much is reserved ahead for growing files"),
    row("attr2", Form::Flag, "place of attributes in inodes; always so today").idle(),
    row("noattr2", Form::Flag, "older place of attributes").idle_since(6, 18),
    until(4, 19, row("barrier", Form::Flag, "always on; leave it out")),
    until(4, 19, row("nobarrier", Form::Flag, "flushes can no longer be switched off; leave it out")),
    row("dax", Form::FlagOrOneOf(&["always", "inode", "never"]), "direct access to persistent memory"),
    row("discard", Form::Flag, "tells the disk at once what is free")
        .caution("a weekly trim does the same, and deletes do not wait for it"),
    row("nodiscard", Form::Flag, "does not tell; the default"),
    row("filestreams", Form::Flag, "keeps files of a directory together"),
    row("gqnoenforce", Form::Flag, "group quotas counted, not enforced").implies(&["gquota"]),
    row("gquota", Form::Flag, "quotas for groups"),
    row("grpquota", Form::Flag, "quotas for groups"),
    row("uqnoenforce", Form::Flag, "user quotas counted, not enforced").implies(&["uquota"]),
    row("uquota", Form::Flag, "quotas for users"),
    row("usrquota", Form::Flag, "quotas for users"),
    row("quota", Form::Flag, "quotas for users"),
    row("qnoenforce", Form::Flag, "user quotas counted, not enforced").implies(&["uquota"]),
    row("pqnoenforce", Form::Flag, "project quotas counted, not enforced").implies(&["pquota"]),
    row("pquota", Form::Flag, "quotas for projects"),
    row("prjquota", Form::Flag, "quotas for projects"),
    row("noquota", Form::Flag, "no quotas").excludes(&["uquota", "gquota", "pquota"]),
    row("grpid", Form::Flag, "new files take the directory's group"),
    row("bsdgroups", Form::Flag, "new files take the directory's group"),
    row("nogrpid", Form::Flag, "new files take the process's group"),
    row("sysvgroups", Form::Flag, "new files take the process's group"),
    row("ikeep", Form::Flag, "keeps emptied inode clusters"),
    row("noikeep", Form::Flag, "frees emptied inode clusters"),
    row("inode32", Form::Flag, "inode numbers within 32 bits").excludes(&["inode64"]),
    row("inode64", Form::Flag, "inode numbers of any size; the default").default("on").excludes(&["inode32"]),
    row("largeio", Form::Flag, "tells programs to write in large pieces"),
    row("nolargeio", Form::Flag, "does not"),
    since(6, 15, row("lifetime", Form::Flag, "uses lifetime hints on zoned disks")),
    row("logbsize", LOG_SIZE, "size of log buffers").default("32k"),
    row("logbufs", LOG_BUFFERS, "number of log buffers").default("8"),
    row("logdev", Form::Any, "device of an external log"),
    row(
        "rtdev",
        Form::Shaped(|v| v.starts_with("/dev/") && v != "/dev/null", "the path of a device"),
        "device of the real-time section",
    ),
    since(
        6,
        17,
        row("max_atomic_write", Form::Size, "largest atomic write")
            .caution("the mount fails on disks that cannot write so much at once"),
    ),
    since(6, 15, row("max_open_zones", Form::Number(0, 4294967295), "open zones at once")),
    row("noalign", Form::Flag, "ignores stripes"),
    row("norecovery", Form::Flag, "does not replay the log; needs ro")
        .needs(&["ro"])
        .caution("what the log holds is missing: for reading a disk that must not change"),
    row("nouuid", Form::Flag, "mounts beside another with the same UUID")
        .caution("for snapshots and clones; never for the table's usual entry"),
    row("sunit", Form::Number(0, 2147483647), "stripe unit in 512-byte blocks")
        .caution("in pairs with swidth; counted in 512-byte blocks, not in file system blocks"),
    row("swidth", Form::Number(0, 2147483647), "stripe width in 512-byte blocks")
        .caution("in pairs with sunit; counted in 512-byte blocks, not in file system blocks"),
    row("swalloc", Form::Flag, "places files by stripe width"),
    row("wsync", Form::Flag, "directory changes wait for the log")
        .caution("slow: meant for servers that hand over to each other"),
    until(4, 0, row("delaylog", Form::Flag, "always so today; leave it out")),
    until(4, 0, row("nodelaylog", Form::Flag, "no longer possible; leave it out")),
    until(4, 0, row("ihashsize", Form::Number(0, i64::MAX), "without effect for long; leave it out")),
    until(4, 0, row("irixsgid", Form::Flag, "leave it out")),
    until(4, 0, row("osyncisdsync", Form::Flag, "leave it out")),
    until(4, 0, row("osyncisosync", Form::Flag, "leave it out")),
];
