use super::{Form, List, Opt, Spec, row, since, strict, until};
use bradawl_facts::Version;

/// Btrfs.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(6, 8).whole(whole);

/// Ways to read a damaged file system, and the first kernel with each.
const RESCUES: [(&str, Version); 11] = [
    ("usebackuproot", Version(5, 9)),
    ("nologreplay", Version(5, 9)),
    ("ignorebadroots", Version(5, 11)),
    ("ibadroots", Version(5, 11)),
    ("ignoredatacsums", Version(5, 11)),
    ("idatacsums", Version(5, 11)),
    ("all", Version(5, 11)),
    ("ignoremetacsums", Version(6, 11)),
    ("imetacsums", Version(6, 11)),
    ("ignoresuperflags", Version(6, 11)),
    ("isuperflags", Version(6, 11)),
];
const COMPRESSION: Form = Form::FlagOrShaped(
    |v| ["zlib", "lzo", "zstd", "no"].iter().any(|word| v.starts_with(word)),
    "one of zlib, lzo, zstd, with a level behind a colon, or no",
);
const DEVICE: Form = Form::Shaped(|v| v.starts_with("/dev/") && v != "/dev/null", "the path of a device");

/// Older kernels look at the first letters only; newer ones at all, and at the
/// level.
fn compression(list: &List<'_>) -> Option<(usize, String)> {
    let level = |text: &str| text.parse::<i32>().is_ok();
    let exact = list.kernel >= Version(6, 17);
    let strict_level = list.kernel >= Version(6, 15);
    let sound = |value: &str| match value.split_once(':') {
        _ if value.starts_with("no") => !exact || matches!(value, "no" | "none"),
        Some((name, n)) => {
            (!exact || matches!(name, "zlib" | "lzo" | "zstd"))
                && (!strict_level || name.starts_with("lzo") || level(n))
        }
        None => !exact || matches!(value, "zlib" | "lzo" | "zstd"),
    };
    let name =
        ["compress", "compress-force"].into_iter().find(|n| list.value(n).is_some_and(|v| !sound(v)))?;
    list.refuse(name, "this kernel accepts zlib, lzo and zstd by their whole names, with a number as level")
}

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    rescue(list).or_else(|| compression(list)).or_else(|| subvolumes(list)).or_else(|| {
        // mkfs.btrfs makes the newer cache of free space since 5.15.
        let last = list.options.iter().rfind(|o| matches!(o.name.as_str(), "space_cache" | "nospace_cache"));
        let older = last.is_some_and(|o| o.name == "nospace_cache" || o.value.as_deref() != Some("v2"));
        if older && list.feature("free-space-tree", true) == Some(true) && !list.has("clear_cache") {
            let name = if list.has("space_cache") { "space_cache" } else { "nospace_cache" };
            return list.refuse(name, "the file system has the newer cache, v2, which cannot be left out");
        }
        None
    })
}

/// The number of the top of a file system, which has no name.
const TOP: [&str; 2] = ["0", "5"];

/// A name and a number that cannot be of one subvolume (recorded).
fn subvolumes(list: &List<'_>) -> Option<(usize, String)> {
    let (name, number) = (list.value("subvol")?.trim_matches('/'), list.value("subvolid")?);
    let agree = name.is_empty() == TOP.contains(&number);
    if agree {
        None
    } else {
        list.refuse("subvolid", "it is the number of another subvolume than subvol names")
    }
}

fn rescue(list: &List<'_>) -> Option<(usize, String)> {
    let words = list.value("rescue")?;
    let known = |word: &str| RESCUES.iter().any(|(name, since)| *name == word && list.kernel >= *since);
    if let Some(word) = words.split(':').find(|word| !known(word)) {
        return list.refuse("rescue", &format!("this kernel knows no way {word:?}"));
    }
    match words != "usebackuproot" && !list.read_only() {
        true => list.refuse("rescue", "it needs ro beside it"),
        false => None,
    }
}

const OPTIONS: &[Opt] = &[
    row("acl", Form::Flag, "POSIX access lists; the default").default("on"),
    row("noacl", Form::Flag, "no POSIX access lists"),
    row("autodefrag", Form::Flag, "rewrites scattered small writes")
        .caution("breaks the sharing of snapshots, and costs writes"),
    row("noautodefrag", Form::Flag, "does not; the default"),
    row("barrier", Form::Flag, "flush the disk's cache at commits; the default").default("on"),
    row("nobarrier", Form::Flag, "no flushes: a power cut may destroy data")
        .caution("only where the disk's cache survives a power cut"),
    row("clear_cache", Form::Flag, "builds the free-space cache anew"),
    until(6, 8, row("commit", Form::Number(0, 2147483647), "seconds between commits"))
        .default("30")
        .caution("above 300 the kernel warns: so much may be lost"),
    since(6, 8, row("commit", Form::Number(0, 4294967295), "seconds between commits"))
        .default("30")
        .caution("above 300 the kernel warns: so much may be lost"),
    row("compress", COMPRESSION, "compresses new data: zlib, lzo, zstd, with a level behind a colon")
        .default("no; zlib when no value stands there")
        .excludes(&["nodatacow", "nodatasum"])
        .caution("holds for every subvolume: what is mounted first decides"),
    row("compress-force", COMPRESSION, "compresses even what gains little")
        .implies(&["compress"])
        .excludes(&["nodatacow", "nodatasum"]),
    row("datacow", Form::Flag, "copies on write; the default"),
    row("nodatacow", Form::Flag, "writes in place: no checksums, no compression")
        .implies(&["nodatasum"])
        .excludes(&["compress"])
        .caution("no checksums: damage goes unnoticed; holds for every subvolume"),
    row("datasum", Form::Flag, "checksums of data; the default"),
    row("nodatasum", Form::Flag, "no checksums of data")
        .excludes(&["compress"])
        .caution("damage goes unnoticed"),
    row("degraded", Form::Flag, "mounts although a device is absent")
        .caution("new data is then not mirrored; for one boot, not for the table"),
    row("device", DEVICE, "a device of the file system"),
    row("discard", Form::FlagOrOneOf(&["sync", "async"]), "tells the disk what is free")
        .default("async since kernel 6.2 where the disk can; else off"),
    row("nodiscard", Form::Flag, "does not tell"),
    row("enospc_debug", Form::Flag, "messages about space"),
    row("noenospc_debug", Form::Flag, "no messages about space"),
    row("fatal_errors", Form::OneOf(&["bug", "panic"]), "what an error on disk does"),
    row("flushoncommit", Form::Flag, "commits write out all data"),
    row("noflushoncommit", Form::Flag, "they do not; the default"),
    until(6, 8, row("inode_cache", Form::Flag, "recycled inode numbers; leave it out").idle_since(5, 11)),
    until(6, 8, row("noinode_cache", Form::Flag, "leave it out").idle_since(5, 11)),
    row("max_inline", Form::Text, "largest file kept in metadata").default("2048"),
    until(6, 8, row("metadata_ratio", Form::Number(0, 2147483647), "share of metadata"))
        .default("0: as needed"),
    since(6, 8, row("metadata_ratio", Form::Number(0, 4294967295), "share of metadata"))
        .default("0: as needed"),
    row("norecovery", Form::Flag, "does not replay the log").needs(&["ro"]),
    until(6, 18, row("nologreplay", Form::Flag, "does not replay the log; write rescue=nologreplay"))
        .needs(&["ro"]),
    until(6, 8, row("recovery", Form::Flag, "tries older roots; write rescue=usebackuproot")),
    row("usebackuproot", Form::Flag, "tries older roots"),
    row("rescan_uuid_tree", Form::Flag, "builds the UUID tree anew"),
    row("rescue", Form::Any, "ways to read a damaged file system"),
    row("skip_balance", Form::Flag, "does not continue a balance"),
    row("space_cache", Form::FlagOrOneOf(&["v1", "v2"]), "free-space cache, v1 or v2")
        .default("v2 as mkfs makes it since 5.15"),
    row("nospace_cache", Form::Flag, "no free-space cache"),
    row("ssd", Form::Flag, "places data as SSDs like it").default("on where the disk does not rotate"),
    row("nossd", Form::Flag, "does not").implies(&["nossd_spread"]),
    row("ssd_spread", Form::Flag, "the same, more so").implies(&["ssd"]),
    row("nossd_spread", Form::Flag, "does not"),
    until(6, 8, row("subvol", Form::Any, "the subvolume to mount, by path"))
        .excludes(&["another subvolume in subvolid"]),
    since(6, 8, row("subvol", Form::Text, "the subvolume to mount, by path"))
        .excludes(&["another subvolume in subvolid"]),
    row("subvolid", Form::Any, "the subvolume to mount, by number")
        .excludes(&["another subvolume in subvol"]),
    until(5, 11, row("subvolrootid", Form::Any, "leave it out")),
    until(6, 8, row("thread_pool", Form::Number(1, 2147483647), "worker threads"))
        .default("processors + 2, at most 8"),
    since(6, 8, row("thread_pool", Form::Number(1, 4294967295), "worker threads"))
        .default("processors + 2, at most 8"),
    row("treelog", Form::Flag, "log for fsync; the default").default("on"),
    row("notreelog", Form::Flag, "no log for fsync"),
    row("user_subvol_rm_allowed", Form::Flag, "users may delete their subvolumes")
        .caution("users may then delete what they can write to, snapshots too"),
];
