//! What a device is used for: whether anything can be put on it.

use ahash::{AHashMap as HashMap, AHashSet as HashSet};
use bradawl_facts::record::{Content, ContentKind, Device, Origin, Record};
use bradawl_facts::text::list;

/// What a device is used for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Use {
    /// Nothing: empty, or content that nobody uses.
    Free,
    /// Mounted.
    Mounted,
    /// Swapped on.
    Swap,
    /// Part of an array, a volume group or a pool.
    Member,
    /// Divided into partitions.
    Table,
    /// The shell of something else: encrypted, extended.
    Container,
    /// Not known.
    Unknown,
}

/// What all devices of a host are used for: mounts and swap gathered once.
pub struct Uses<'r> {
    record: &'r Record,
    mounted: HashMap<&'r str, Vec<&'r str>>,
    swapped: HashSet<&'r str>,
}

/// What one device is used for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DeviceUse {
    /// What for.
    pub used: Use,
    /// Where it is mounted.
    pub mounted_on: Vec<String>,
    /// Why nothing can be put on it; absent when something can.
    pub unusable: Option<String>,
}

impl DeviceUse {
    /// Whether it is known that nothing uses it and something can be put on it.
    pub fn is_free(&self) -> bool {
        self.used == Use::Free && self.unusable.is_none()
    }
}

impl<'r> Uses<'r> {
    /// The uses of a host's devices.
    pub fn of(record: &'r Record) -> Self {
        let mut mounted: HashMap<&str, Vec<&str>> = HashMap::default();
        for mount in record.mounts.iter().flatten() {
            for key in [Some(mount.source.as_str()), mount.device.as_deref()].into_iter().flatten() {
                mounted.entry(key).or_default().push(&mount.target);
            }
        }
        let swapped = record.swaps.iter().flatten().map(|s| s.path.as_str()).collect();
        Uses { record, mounted, swapped }
    }

    /// What a device is used for.
    pub fn device(&self, device: &Device) -> DeviceUse {
        let mounted_on: Vec<String> = self.targets(device).into_iter().map(str::to_owned).collect();
        let used = self.used(device, &mounted_on);
        let unusable = match self.left_before(device) {
            true => Some("a member that left the array before: what it holds is old".to_owned()),
            false => unusable(device, used, &mounted_on),
        };
        DeviceUse { used, unusable, mounted_on }
    }

    /// Whether it is a member of an array that went on without it.
    fn left_before(&self, device: &Device) -> bool {
        let place = |d: &Device| {
            let content = d.content.as_ref().filter(|c| c.kind == ContentKind::RaidMember)?;
            Some((content.uuid.clone()?, content.array.as_ref()?.events))
        };
        let Some((array, events)) = place(device) else { return false };
        let of_array = self.record.devices().iter().filter_map(place).filter(|(uuid, _)| *uuid == array);
        of_array.map(|(_, events)| events).max().is_some_and(|last| last > events + 1)
    }

    /// Where the device is mounted: by its path, its links, or its numbers.
    pub(super) fn targets(&self, device: &Device) -> Vec<&'r str> {
        let numbers = device.major.zip(device.minor).map(|(major, minor)| format!("{major}:{minor}"));
        let links = device.links.iter().flatten().map(String::as_str);
        let keys = std::iter::once(device.path.as_str()).chain(links).chain(numbers.as_deref());
        let mut targets: Vec<&str> = keys.filter_map(|k| self.mounted.get(k)).flatten().copied().collect();
        targets.sort();
        targets.dedup();
        targets
    }

    /// Whether it is swapped on.
    pub(super) fn is_swapped(&self, device: &Device) -> bool {
        self.swapped.contains(device.path.as_str())
    }

    fn used(&self, device: &Device, mounted_on: &[String]) -> Use {
        let record = self.record;
        let swapped = self.is_swapped(device);
        let kind = device.content.as_ref().map(|c| c.kind);
        match kind {
            _ if !mounted_on.is_empty() => Use::Mounted,
            _ if swapped => Use::Swap,
            _ if is_extended(device) => Use::Container,
            Some(ContentKind::PartitionTable) if !is_bare_table(device) => Use::Table,
            Some(
                ContentKind::RaidMember
                | ContentKind::LvmPv
                | ContentKind::CacheMember
                | ContentKind::PoolMember,
            ) => Use::Member,
            Some(ContentKind::Encrypted | ContentKind::Integrity | ContentKind::Verity) => Use::Container,
            _ if !device.children.is_empty() => Use::Container,
            Some(_) if record.mounts.is_some() && record.swaps.is_some() => Use::Free,
            // Nothing runs from an image: what no entry names is free there.
            Some(_) if record.host.origin == Some(Origin::Image) => Use::Free,
            _ => Use::Unknown,
        }
    }
}

/// Whether all it holds is a partition table without a partition.
fn is_bare_table(device: &Device) -> bool {
    let told = matches!(device.content.as_ref().and_then(|c| c.fstype.as_deref()), Some("gpt" | "dos"));
    let none = device.content.as_ref().is_some_and(|c| c.partitions.is_empty());
    told && none && device.children.is_empty() && device.partition.is_none()
}

/// Whether it is an extended partition: a shell for logical ones.
fn is_extended(device: &Device) -> bool {
    let type_id = device.partition.as_ref().and_then(|p| p.type_id.as_deref());
    matches!(type_id, Some("0x05" | "0x0f" | "0x85"))
}

/// Why nothing can be put on the device.
fn unusable(device: &Device, used: Use, mounted_on: &[String]) -> Option<String> {
    let words = device.content.as_ref().map_or("something unread", Content::words);
    match used {
        Use::Mounted => Some(format!("mounted on {}", list(mounted_on))),
        Use::Swap => Some("swapped on".to_owned()),
        Use::Member => Some(format!("a member: {words}")),
        Use::Table => Some("divided into partitions".to_owned()),
        Use::Container if is_extended(device) => {
            Some("an extended partition: only the logical ones in it can be used".to_owned())
        }
        Use::Container => Some(format!("holds {words}, from which other devices are made")),
        Use::Free if device.read_only == Some(true) => Some("read-only".to_owned()),
        Use::Free | Use::Unknown => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{ArrayPlace, DeviceKind};

    #[test]
    fn a_member_that_left_before_is_told() {
        let member = |path: &str, array: &str, events: u64| {
            let mut content = Content::new(ContentKind::RaidMember, Some("mdraid 1.2"));
            content.uuid = Some(array.to_owned());
            content.array = Some(ArrayPlace { role: Some(0), length: 0, chunk: 0, layout: 0, events });
            Device { content: Some(content), ..Device::new(path, DeviceKind::Disk) }
        };
        let mut record = Record::new("kelp");
        record.devices = Some(vec![
            member("/dev/sda", "a", 40),
            member("/dev/sdb", "a", 39),
            member("/dev/sdc", "a", 12),
            member("/dev/sdd", "b", 3),
        ]);
        let uses = Uses::of(&record);
        let left =
            |n: usize| uses.device(&record.devices()[n]).unusable.is_some_and(|why| why.contains("left"));
        assert_eq!([left(0), left(1), left(2), left(3)], [false, false, true, false]);
    }
}
