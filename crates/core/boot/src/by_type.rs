//! What the boot mounts and swaps on by the types of partitions, where the table has
//! no entry for it (systemd-gpt-auto-generator(8); recorded: boots-gpt.jsonl).

use super::request::Request;
use bradawl_catalogue::partition_types::taken_as;
use bradawl_facts::record::{CommandLine, ContentKind, Device, Record};
use bradawl_resolve::{Index, Resolution, Source};

/// A partition that is taken by its type.
#[derive(Debug, Clone, Copy)]
pub struct ByType<'a> {
    /// The partition.
    pub device: &'a Device,
    /// Where it is mounted; `None`: it is swapped on.
    pub target: Option<&'static str>,
}

/// The partitions of root's own disk that the boot takes by their types. A directory
/// that is not empty is left alone.
pub fn by_type<'a>(record: &Record, index: &'a Index<'a>, requests: &[Request<'_>]) -> Vec<ByType<'a>> {
    let swaps = requests.iter().any(|r| r.entry.is_swap());
    let free = |taken: &ByType<'_>| match taken.target {
        None => !swaps,
        Some(target) => {
            let mounted = record.mounts.iter().flatten().any(|m| m.target == target);
            let full = index.path(target).is_some_and(|p| p.entries.is_some_and(|n| n > 0));
            !requests.iter().any(|r| r.target.as_deref() == Some(target)) && (mounted || !full)
        }
    };
    of_type(record, index, requests).into_iter().filter(free).collect()
}

/// Entries with `noauto` that are mounted all the same: for their directory there is
/// a partition of its type (recorded; which device the entry names does not matter).
pub(super) fn mounted_unasked<'a>(
    record: &Record,
    index: &'a Index<'a>,
    requests: &[Request<'_>],
) -> Vec<usize> {
    if !requests.iter().any(|r| r.noauto) {
        return Vec::new();
    }
    let taken = of_type(record, index, requests);
    let asked = |r: &Request<'_>| {
        r.noauto && taken.iter().any(|t| t.target.is_some() && t.target == r.target.as_deref())
    };
    requests.iter().enumerate().filter(|(_, r)| asked(r)).map(|(n, _)| n).collect()
}

/// The partitions of root's own disk with such a type, whatever the table says.
fn of_type<'a>(record: &Record, index: &'a Index<'a>, requests: &[Request<'_>]) -> Vec<ByType<'a>> {
    let off = CommandLine::of(record).denies("systemd.gpt_auto") || record.host.container == Some(true);
    if off || !record.host.boots_with().is_systemd() {
        return Vec::new();
    }
    let Some(disk) = disk_of_root(record, index, requests) else { return Vec::new() };
    let partitions = disk.children.iter().filter_map(|path| index.device(path));
    let taken = partitions.filter_map(|device| {
        let facts = device.partition.as_ref().filter(|facts| !facts.no_auto)?;
        let target = taken_as(facts.type_id.as_deref()?)?;
        // An empty partition is no swap and no file system.
        let kind = device.content.as_ref()?.kind;
        let fits = if target.is_none() { ContentKind::Swap } else { ContentKind::Filesystem };
        (kind == fits).then_some(ByType { device, target })
    });
    taken.collect()
}

/// The disk with a GPT on which root lies, in a container of its own at most.
fn disk_of_root<'a>(record: &Record, index: &'a Index<'a>, requests: &[Request<'_>]) -> Option<&'a Device> {
    let mounted = record.mounts.iter().flatten().find(|m| m.target == "/").map(|m| m.source.as_str());
    let named = requests.iter().find(|r| r.is_root()).map(|r| r.entry.source.as_str());
    let device =
        [mounted, CommandLine::of(record).last("root"), named].into_iter().flatten().find_map(|name| {
            match index.resolve(&Source::parse(name)) {
                Resolution::Found(devices) => devices.first().copied(),
                _ => None,
            }
        })?;
    let above = |device: &'a Device| match device.parents.as_slice() {
        [one] => index.device(one),
        _ => None,
    };
    let partition = if device.partition.is_some() { device } else { above(device)? };
    let disk = above(partition).filter(|_| partition.partition.is_some())?;
    let table = disk.content.as_ref().filter(|c| c.kind == ContentKind::PartitionTable)?;
    (table.fstype.as_deref() == Some("gpt")).then_some(disk)
}
