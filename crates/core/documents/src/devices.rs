use crate::shapes::{IdentityShape, UseShape};
use bradawl_boot::{Need, Request};
use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, Record};
use bradawl_facts::text::list;
use bradawl_resolve::{
    DeviceUse, Identity, Use, Uses, identities, same_devices, stale_links, unread_partitions,
};
use serde::Serialize;
use serde_with::serde_as;
use std::collections::HashMap;

/// `bradawl.devices/1`: what every device is, holds, and is used for.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct DevicesReport {
    /// Always `bradawl.devices/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The devices; of an image the image itself comes first.
    pub devices: Vec<DeviceOverview>,
    /// Volumes of groups that are not active and arrays that do not run, read
    /// through their members: none of them is a device now.
    pub dormant: Vec<DeviceOverview>,
    /// Paths that an earlier record had and this one has not.
    pub gone: Vec<String>,
    /// Entries whose device is not there.
    pub lost: Vec<LostEntry>,
}

/// An entry whose device is not there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LostEntry {
    /// Line in the table.
    pub line: usize,
    /// Its source.
    pub source: String,
    /// Its target.
    pub target: String,
}

/// One device.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct DeviceOverview {
    /// The kernel's path, or the image's.
    pub path: String,
    /// What sort of device it is.
    pub kind: DeviceKind,
    /// Size in bytes.
    pub size: Option<u64>,
    /// Vendor and model.
    pub model: Option<String>,
    /// The drive's serial number.
    pub serial: Option<String>,
    /// How the drive is attached.
    pub transport: Option<bradawl_facts::record::Transport>,
    /// Whether it can be taken out.
    pub removable: Option<bool>,
    /// What it holds; null when it could not be read.
    pub content: Option<Content>,
    /// Facts of a partition.
    pub partition: Option<bradawl_facts::record::PartitionFacts>,
    /// All its names.
    #[serde_as(as = "Vec<IdentityShape>")]
    pub identities: Vec<Identity>,
    /// What it is made of.
    pub parents: Vec<String>,
    /// What is made of it.
    pub children: Vec<String>,
    /// What it is used for.
    #[serde(rename = "use")]
    #[serde_as(as = "UseShape")]
    pub used: Use,
    /// Where it is mounted.
    pub mounted_on: Vec<String>,
    /// The entries that name it.
    pub entries: Vec<EntryPlace>,
    /// Why nothing can be put on it; absent when something can.
    pub unusable: Option<String>,
    /// What the kernel or the device manager sees otherwise.
    pub disagreements: Vec<String>,
    /// How it differs from an earlier record, if one was given.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub change: Option<DeviceChange>,
    /// Its path in an earlier record, where that was another.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub was: Option<String>,
}

/// An entry that names a device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct EntryPlace {
    /// Line in the table.
    pub line: usize,
    /// Its target.
    pub target: String,
}

/// A difference from an earlier record.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum DeviceChange {
    /// Was not there.
    New,
    /// Had another size.
    Resized,
    /// Held something else, or the same re-created.
    Reformatted,
}

impl DevicesReport {
    /// The overview of a record's devices, with the entries of a table.
    pub fn new(record: &Record, requests: &[Request<'_>], since: Option<&Record>) -> Self {
        let mut entries: HashMap<&str, Vec<EntryPlace>> = HashMap::new();
        for request in requests {
            let Need::Present(devices) = &request.need else { continue };
            for device in devices {
                let place = EntryPlace { line: request.line(), target: request.entry.target.clone() };
                entries.entry(device.path.as_str()).or_default().push(place);
            }
        }
        let uses = Uses::of(record);
        let old = since.map(Record::devices).unwrap_or_default();
        let pairs = same_devices(old, record.devices());
        let then: HashMap<&str, &Device> = record
            .devices()
            .iter()
            .zip(&pairs)
            .filter_map(|(device, was)| Some((device.path.as_str(), old.get((*was)?)?)))
            .collect();
        let mut unread: HashMap<&str, Vec<String>> = HashMap::new();
        for (disk, at) in unread_partitions(record) {
            let disk = &record.devices()[disk];
            let number = disk.content.as_ref().map(|c| c.partitions[at].number.to_string());
            unread.entry(disk.path.as_str()).or_default().extend(number);
        }
        let overview = |device: &Device| {
            let DeviceUse { used, mounted_on, unusable } = uses.device(device);
            DeviceOverview {
                path: device.path.clone(),
                kind: device.kind,
                size: device.size,
                model: device.model.clone(),
                serial: device.serial.clone(),
                transport: device.transport,
                removable: device.removable,
                content: device.content.clone(),
                partition: device.partition.clone(),
                identities: identities(device, record.links_complete == Some(true)),
                parents: device.parents.clone(),
                children: device.children.clone(),
                used,
                entries: entries.get(device.path.as_str()).cloned().unwrap_or_default(),
                unusable,
                mounted_on,
                disagreements: disagreements(device, unread.get(device.path.as_str())),
                change: since.and_then(|_| change(device, then.get(device.path.as_str()).copied())),
                was: then.get(device.path.as_str()).map(|d| d.path.clone()).filter(|p| *p != device.path),
            }
        };
        let gone =
            old.iter().enumerate().filter(|(n, _)| !pairs.contains(&Some(*n))).map(|(_, d)| d.path.clone());
        DevicesReport {
            schema: "bradawl.devices/1",
            host: record.host.name.clone(),
            devices: record.devices().iter().map(overview).collect(),
            dormant: record.dormant.iter().map(|device| asleep(overview(device))).collect(),
            gone: gone.collect(),
            lost: requests.iter().filter_map(lost).collect(),
        }
    }
}

/// What is not active can be put to no use as it is.
fn asleep(device: DeviceOverview) -> DeviceOverview {
    let unusable = Some(format!("not active, on {}", list(&device.parents)));
    DeviceOverview { used: Use::Unknown, unusable, change: None, ..device }
}

/// What the kernel or the device manager sees otherwise, in words.
fn disagreements(device: &Device, unread: Option<&Vec<String>>) -> Vec<String> {
    let again =
        unread.map(|n| format!("the kernel has not read partition {} anew", bradawl_facts::text::some(n)));
    let stale = stale_links(device).into_iter().map(|link| format!("the link {link} is out of date"));
    again.into_iter().chain(stale).collect()
}

fn lost(request: &Request<'_>) -> Option<LostEntry> {
    let Need::Missing(_) = &request.need else { return None };
    let entry = &request.entry;
    Some(LostEntry { line: entry.line, source: entry.source.clone(), target: entry.target.clone() })
}

impl DeviceOverview {
    /// Whether it is free, and there is nothing on it that could be lost.
    pub fn is_empty(&self) -> bool {
        let bare = |kind| matches!(kind, ContentKind::Empty | ContentKind::PartitionTable);
        self.used == Use::Free && self.content.as_ref().is_some_and(|c| bare(c.kind))
    }
}

fn change(device: &Device, earlier: Option<&Device>) -> Option<DeviceChange> {
    let Some(earlier) = earlier else { return Some(DeviceChange::New) };
    let identity = |d: &Device| d.content.as_ref().map(|c| (c.kind, c.fstype.clone(), c.uuid.clone()));
    match (identity(device), identity(earlier)) {
        _ if device.size != earlier.size => Some(DeviceChange::Resized),
        (Some(now), Some(then)) if now != then => Some(DeviceChange::Reformatted),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{ActiveSwap, Mount, PartitionFacts};

    fn device(path: &str, kind: ContentKind, fstype: &str) -> Device {
        let content = Content::new(kind, Some(fstype).filter(|t| !t.is_empty()));
        Device { content: Some(content), size: Some(1 << 30), ..Device::new(path, DeviceKind::Disk) }
    }

    fn record() -> Record {
        let mut record = Record::new("archive");
        let mut extended = device("/dev/sda4", ContentKind::PartitionTable, "dos extended");
        extended.partition =
            Some(PartitionFacts { type_id: Some("0x0f".into()), ..PartitionFacts::default() });
        record.devices = Some(vec![
            device("/dev/sda1", ContentKind::Filesystem, "ext4"),
            device("/dev/sda2", ContentKind::Swap, "swap"),
            device("/dev/sda3", ContentKind::LvmPv, "LVM2 PV"),
            extended,
            device("/dev/sdb", ContentKind::Empty, ""),
        ]);
        let target = Mount {
            source: "/dev/sda1".into(),
            target: "/".into(),
            fstype: "ext4".into(),
            options: "rw".into(),
            root: None,
            device: None,
            free: None,
            answers: None,
        };
        record.mounts = Some(vec![target]);
        record.swaps = Some(vec![ActiveSwap { path: "/dev/sda2".into(), size: 1, used: 0, priority: -2 }]);
        record
    }

    #[test]
    fn says_what_each_is_used_for() {
        let report = DevicesReport::new(&record(), &[], None);
        let used: Vec<Use> = report.devices.iter().map(|d| d.used).collect();
        assert_eq!(used, [Use::Mounted, Use::Swap, Use::Member, Use::Container, Use::Free]);
        let free: Vec<bool> = report.devices.iter().map(|d| d.unusable.is_none()).collect();
        assert_eq!(free, [false, false, false, false, true]);
    }

    #[test]
    fn says_what_changed_since() {
        let now = record();
        let mut then = record();
        let devices = then.devices.as_mut().unwrap();
        devices[0].content.as_mut().unwrap().uuid = Some("old".into());
        devices[1].size = Some(1);
        devices[4].path = "/dev/sdz".into();
        let report = DevicesReport::new(&now, &[], Some(&then));
        let changes: Vec<_> = report.devices.iter().map(|d| d.change).collect();
        assert_eq!(
            changes,
            [
                Some(DeviceChange::Reformatted),
                Some(DeviceChange::Resized),
                None,
                None,
                Some(DeviceChange::New)
            ]
        );
        assert_eq!(report.gone, ["/dev/sdz"]);
    }
}
