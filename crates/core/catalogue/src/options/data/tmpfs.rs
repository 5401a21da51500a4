use super::{Form, List, Opt, Spec, row, since, strict};
use bradawl_facts::size::{kernel_number, of_kernel};
use bradawl_facts::table::OptionItem;

/// tmpfs.
pub const SPEC: Spec = strict(OPTIONS).one_by_one(5, 1).whole(whole);

/// A policy with flags and nodes: `bind=static:0`.
const POLICY: Form = Form::Shaped(
    |value| {
        let (policy, nodes) = value.split_once(':').map_or((value, None), |(p, n)| (p, Some(n)));
        let (policy, flags) = policy.split_once('=').map_or((policy, None), |(p, f)| (p, Some(f)));
        let digits = |n: &str| {
            n.split([',', '-']).all(|part| !part.is_empty() && part.bytes().all(|b| b.is_ascii_digit()))
        };
        let nodes_known = nodes.is_none_or(digits);
        let flags_known = flags.is_none_or(|f| matches!(f, "static" | "relative"));
        match policy {
            "default" | "local" => nodes.is_none() && flags.is_none(),
            "bind" => nodes.is_some() && nodes_known && flags_known,
            "prefer" | "interleave" => nodes_known && flags_known,
            _ => false,
        }
    },
    "a policy, such as bind:0 or interleave, with memory nodes that exist",
);

fn whole(list: &List<'_>) -> Option<(usize, String)> {
    let node = list.value("mpol").and_then(|v| v.split_once(':')).map(|(_, nodes)| nodes);
    if list.typical && node.is_some_and(|n| !matches!(n, "0" | "0-0")) {
        return list.refuse("mpol", "the host has no such memory node");
    }
    None
}

/// How far a tmpfs may grow.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Limit {
    /// So many bytes.
    Bytes(u64),
    /// As far as memory and swap reach.
    None,
}

/// How far a tmpfs with these options may grow on a host with this memory, in
/// bytes: half of it where nothing is said; `size=0` and `nr_blocks=0` are no
/// limit (mm/shmem.c; recorded: `option-pairs.tsv`).
pub fn limit(options: &[OptionItem], memory: u64) -> Limit {
    const PAGE: u64 = 4096;
    let given = options.iter().rev().find_map(|option| {
        let value = option.value.as_deref()?;
        let bytes = |text| of_kernel(text, "kmgtpe").and_then(|n| u64::try_from(n).ok());
        match (option.name.as_str(), value.strip_suffix('%')) {
            ("size", Some(share)) => Some((memory / 100).saturating_mul(bytes(share)?)),
            ("size", None) => bytes(value),
            ("nr_blocks", _) => bytes(value).map(|n| n.saturating_mul(PAGE)),
            _ => None,
        }
    });
    match given {
        Some(0) => Limit::None,
        Some(bytes) => Limit::Bytes(bytes),
        None => Limit::Bytes(memory / 2),
    }
}

/// A size that is no share.
const INODES: Form = Form::Shaped(|v| !v.ends_with('%') && Form::Size.objection(Some(v)).is_none(), "a size");

/// The kernel counts a kibibyte for each.
fn fits_inodes(value: &str) -> bool {
    let number = kernel_number(value);
    INODES.objection(Some(value)).is_none() && number.is_none_or(|n| n <= i64::MAX / 512)
}

const OPTIONS: &[Opt] = &[
    row("size", Form::Size, "largest size; half of memory by default").default("50%"),
    row("nr_blocks", INODES, "largest size in blocks"),
    row("nr_inodes", Form::Shaped(fits_inodes, "a number the kernel can count to"), "most files")
        .default("one for two pages of memory"),
    row("mode", Form::Octal, "permissions of its root directory").default("1777"),
    row("uid", Form::Uid, "owner of its root directory").default("0"),
    row("gid", Form::Uid, "group of its root directory").default("0"),
    row("huge", Form::OneOf(&["never", "always", "within_size", "advise"]), "huge pages").default("never"),
    row("mpol", POLICY, "placement in memory nodes").default("that of the process"),
    row("inode32", Form::Flag, "inode numbers within 32 bits"),
    row("inode64", Form::Flag, "inode numbers of any size"),
    since(6, 4, row("noswap", Form::Flag, "is never swapped out")),
    since(6, 6, row("quota", Form::Flag, "quotas")).implies(&["usrquota", "grpquota"]),
    since(6, 6, row("usrquota", Form::Flag, "quotas for users")),
    since(6, 6, row("grpquota", Form::Flag, "quotas for groups")),
    since(6, 6, row("usrquota_block_hardlimit", Form::Size, "limit for users")),
    since(6, 6, row("usrquota_inode_hardlimit", Form::Size, "limit for users")),
    since(6, 6, row("grpquota_block_hardlimit", Form::Size, "limit for groups")),
    since(6, 6, row("grpquota_inode_hardlimit", Form::Size, "limit for groups")),
    since(6, 13, row("casefold", Form::FlagOrAny, "directories may ignore case")),
    since(6, 13, row("strict_encoding", Form::Flag, "names must be valid")).needs(&["casefold"]),
];

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    #[test]
    fn limits() {
        for (list, expected) in [
            ("defaults", Limit::Bytes(500)),
            ("size=50%", Limit::Bytes(500)),
            ("size=2k", Limit::Bytes(2048)),
            ("size=0", Limit::None),
            ("size=1k,size=0", Limit::None),
            ("size=0,size=1k", Limit::Bytes(1024)),
            ("nr_blocks=2", Limit::Bytes(8192)),
            ("size=x", Limit::Bytes(500)),
        ] {
            let table = Table::parse(format!("tmpfs /t tmpfs {list}"));
            assert_eq!(limit(&table.entries()[0].options, 1000), expected, "{list}");
        }
    }
}
