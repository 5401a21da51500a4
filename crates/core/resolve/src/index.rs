use super::doubt::Doubt;
use super::gathered::{Gathered, MAX_ANSWERING};
use super::identity::{Identity, identities};
use super::link::decode_link;
use super::looks::Looks;
use super::purpose::Purpose;
use super::source::{Source, Tag};
use bradawl_facts::map::{Map, map_of};
use bradawl_facts::path::tidy;
use bradawl_facts::record::{ContentKind, Device, LocalUnit, Origin, PartitionEntry, PathFacts, Record};
use smallvec::SmallVec;
use std::borrow::Cow;
use std::sync::OnceLock;

/// All names of all devices of a record, ready to be asked.
pub struct Index<'a> {
    record: &'a Record,
    devices: &'a [Device],
    paths: Map<&'a str, usize>,
    /// For each tag, in the order of [`Tag::ALL`].
    tags: [Map<Cow<'a, str>, Answering>; 4],
    facts: Map<&'a str, &'a PathFacts>,
    devices_known: bool,
    links_complete: bool,
    partitions_known: bool,
    /// Devices that could not be read and may have any name.
    doubt: Doubt<'a>,
    looks: OnceLock<Looks>,
    gathered: OnceLock<Gathered>,
    units: OnceLock<Map<String, usize>>,
}

/// The devices that answer to a name, by their places: mostly one.
type Answering = SmallVec<[usize; 2]>;

/// What a source turned out to name.
#[derive(Debug, Clone)]
pub enum Resolution<'a> {
    /// These devices answer to it; more than one may.
    Found(Vec<&'a Device>),
    /// No device does; these names look alike.
    Absent,
    /// The facts do not suffice to tell; the reason.
    Unknown(String),
    /// It names no device: a directory, a word, something on the network.
    NotADevice,
}

/// A name that exists and looks like the one asked for.
#[derive(Debug, Clone)]
pub struct Near<'a> {
    /// The name as it would stand in a table.
    pub name: String,
    /// Edits apart; 0 when only upper and lower case or the tag differ.
    pub distance: usize,
    /// The device that answers to it.
    pub device: &'a Device,
}

impl<'a> Index<'a> {
    /// Gathers the names.
    pub fn new(record: &'a Record) -> Self {
        let devices = record.devices();
        let names = devices.iter().map(|d| 1 + d.links.as_ref().map_or(0, Vec::len)).sum();
        let mut paths = map_of(names);
        let mut tags: [Map<Cow<'a, str>, Answering>; 4] = std::array::from_fn(|_| map_of(devices.len()));
        for (i, device) in devices.iter().enumerate() {
            paths.insert(device.path.as_str(), i);
            for link in device.links.iter().flatten() {
                paths.insert(link.as_str(), i);
            }
            for (tag, value) in tags_of(device) {
                let answering = tags[tag as usize].entry(value).or_default();
                // A device may have a name twice: from its bytes and as a link.
                if answering.last() != Some(&i) {
                    answering.push(i);
                }
            }
        }
        let links = record.links_complete == Some(true);
        let unread =
            |d: &&Device| d.is_leaf() && d.content.as_ref().is_none_or(|c| c.kind == ContentKind::Unknown);
        let doubtful = devices.iter().filter(|_| !links).filter(unread);
        let named = |d: &Device| d.partition.as_ref().is_none_or(|p| p.uuid.is_some());
        Index {
            devices,
            paths,
            facts: record.paths.iter().map(|f| (f.path.as_str(), f)).collect(),
            tags,
            devices_known: record.devices.is_some(),
            links_complete: links,
            doubt: Doubt::of(record, doubtful),
            looks: OnceLock::new(),
            gathered: OnceLock::new(),
            units: OnceLock::new(),
            record,
            partitions_known: record.devices.is_some() && (links || devices.iter().all(named)),
        }
    }

    /// What the source names.
    pub fn resolve(&self, source: &Source) -> Resolution<'a> {
        self.resolve_for(source, Purpose::Any)
    }

    /// What the source names when it is asked for to this purpose.
    pub fn resolve_for(&self, source: &Source, purpose: Purpose<'_>) -> Resolution<'a> {
        match source {
            Source::Tag(tag, value) => self.tag(*tag, value, purpose),
            Source::Device(path) => match self.paths.get(path.as_str()) {
                Some(&i) => Resolution::Found(vec![&self.devices[i]]),
                None if self.is_named_by_kernel(path) => Resolution::Unknown(
                    "images do not tell which names the kernel gives to their disks".to_owned(),
                ),
                None if self.devices_known => Resolution::Absent,
                None => Resolution::Unknown("the host's devices are not known".to_owned()),
            },
            _ => Resolution::NotADevice,
        }
    }

    /// Whether a path is a kernel's name for a disk, or one that tells how it is
    /// attached, which images alone do not have.
    fn is_named_by_kernel(&self, path: &str) -> bool {
        const NAMES: [&str; 9] =
            ["sd", "vd", "hd", "xvd", "nvme", "mmcblk", "disk/by-id/", "disk/by-path/", "disk/by-diskseq/"];
        let name = path.strip_prefix("/dev/").unwrap_or_default();
        self.record.host.origin == Some(Origin::Image) && NAMES.iter().any(|n| name.starts_with(n))
    }

    /// All names of a device.
    pub fn identities(&self, device: &Device) -> Vec<Identity> {
        identities(device, self.links_complete)
    }

    /// What is known of a path that a table names.
    pub fn path(&self, path: &str) -> Option<&'a PathFacts> {
        self.facts.get(path).or_else(|| self.facts.get(tidy(path).as_ref())).copied()
    }

    /// The same for a path that is tidy already.
    pub fn tidy_path(&self, path: &str) -> Option<&'a PathFacts> {
        self.facts.get(path).copied()
    }

    /// The device of this path or link.
    pub fn device(&self, path: &str) -> Option<&'a Device> {
        self.paths.get(path).map(|&i| &self.devices[i])
    }

    fn tag(&self, tag: Tag, value: &str, purpose: Purpose<'_>) -> Resolution<'a> {
        if let Some(found) = self.tags[tag as usize].get(value) {
            let answering = found.iter().take(MAX_ANSWERING).map(|&i| &self.devices[i]);
            return Resolution::Found(answering.collect());
        }
        let known = match tag {
            Tag::Uuid | Tag::Label => self.devices_known && !self.doubt.may_serve(purpose),
            Tag::PartUuid | Tag::PartLabel => self.partitions_known,
        };
        if known {
            Resolution::Absent
        } else if !self.devices_known {
            Resolution::Unknown("the host's devices are not known".to_owned())
        } else {
            Resolution::Unknown("not every device could be read".to_owned())
        }
    }

    /// The members of an array, group or pool whose UUID a source gives, though
    /// it is no name of theirs.
    pub fn members(&self, source: &Source) -> Vec<&'a Device> {
        let Source::Tag(Tag::Uuid, value) = source else { return Vec::new() };
        self.gathered().members(value).map(|n| &self.devices[n]).collect()
    }

    /// Swap areas on devices that outlive a reboot.
    pub fn swap_areas(&self) -> impl Iterator<Item = &'a Device> {
        self.gathered().swap_areas.iter().map(|n| &self.devices[*n])
    }

    /// The logical volumes that a name below /dev may mean, with the names
    /// that they have there.
    pub(super) fn volumes(&self, name: &str) -> Vec<(&'a Device, &str)> {
        self.gathered().volumes(name).map(|(n, own)| (&self.devices[*n], own.as_str())).collect()
    }

    /// What is asked of all devices, gathered when it is first asked.
    pub fn gathered(&self) -> &Gathered {
        self.gathered.get_or_init(|| Gathered::of(self.record))
    }

    /// What unit files and drop-ins written by hand say of the unit of this name, with those
    /// that hold for many.
    pub fn unit(&self, name: &str) -> Option<Cow<'a, LocalUnit>> {
        let units = self.record.units.as_deref().filter(|units| !units.is_empty())?;
        let named = || units.iter().enumerate().rev().map(|(n, unit)| (unit.name.clone(), n)).collect();
        let named = self.units.get_or_init(named);
        let of = |name: &str| named.get(name).map(|n| &units[*n]);
        let general = LocalUnit::general_names(name);
        let general: Vec<&LocalUnit> =
            general.iter().filter_map(|name| of(name)).filter(|u| u.drop_ins && !u.says_nothing()).collect();
        LocalUnit::merged(name, &general, of(name))
    }

    /// The partition that a source names, where a disk's table has it and the
    /// kernel does not know it yet; with its disk.
    pub fn unread_partition(&self, source: &Source) -> Option<(&'a Device, &'a PartitionEntry)> {
        let Source::Tag(tag @ (Tag::PartUuid | Tag::PartLabel), value) = source else { return None };
        let (disk, at) = self.gathered().unread(*tag, value)?;
        let disk = &self.devices[disk];
        Some((disk, disk.content.as_ref()?.partitions.get(at)?))
    }

    /// Names that may have been meant, nearest first.
    pub(super) fn near(&self, tag: Tag, value: &str) -> Vec<Near<'a>> {
        let looks = self.looks.get_or_init(|| {
            let all = Tag::ALL.into_iter();
            Looks::of(all.flat_map(|t| self.tags[t as usize].keys().map(move |v| (t, v.as_ref()))))
        });
        let mut near: Vec<(usize, Tag, &str, usize)> = Vec::new();
        for (distance, other_tag, other) in looks.near(tag, value) {
            let Some((other, answering)) = self.tags[other_tag as usize].get_key_value(other) else {
                continue;
            };
            let answering = answering.iter().take(MAX_ANSWERING);
            near.extend(answering.map(|&i| (distance, other_tag, other.as_ref(), i)));
        }
        near.sort();
        near.truncate(5);
        near.into_iter()
            .map(|(distance, tag, value, i)| Near {
                name: format!("{tag}={value}"),
                distance,
                device: &self.devices[i],
            })
            .collect()
    }

    /// Whether so many names were looked for that some were not compared with
    /// all others.
    pub fn gave_up_looking(&self) -> bool {
        self.looks.get().is_some_and(Looks::gave_up)
    }
}

/// The tagged names of a device: from its bytes and from the names under
/// /dev/disk that exist.
fn tags_of(device: &Device) -> SmallVec<[(Tag, Cow<'_, str>); 6]> {
    let content = device.content.as_ref().filter(|c| !c.kind.is_nameless());
    let partition = device.partition.as_ref();
    let own = [
        (Tag::Uuid, content.and_then(|c| c.uuid.as_deref())),
        (Tag::Label, content.and_then(|c| c.label.as_deref())),
        (Tag::PartUuid, partition.and_then(|p| p.uuid.as_deref())),
        (Tag::PartLabel, partition.and_then(|p| p.label.as_deref())),
    ];
    let mut tags: SmallVec<[(Tag, Cow<'_, str>); 6]> =
        own.into_iter().filter_map(|(tag, value)| Some((tag, Cow::Borrowed(value?)))).collect();
    for link in device.links.iter().flatten() {
        let Some((folder, value)) = link.strip_prefix("/dev/disk/").and_then(|l| l.split_once('/')) else {
            continue;
        };
        if let Some(tag) = Tag::ALL.into_iter().find(|t| t.folder() == folder) {
            let name =
                if value.contains('\\') { Cow::Owned(decode_link(value)) } else { Cow::Borrowed(value) };
            // Mostly the same as from its bytes.
            if !tags.iter().any(|(known, own)| *known == tag && *own == name) {
                tags.push((tag, name));
            }
        }
    }
    tags
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::suggest;
    use bradawl_facts::record::{Content, DeviceKind, Mount};

    fn record() -> Record {
        let mut record = Record::new("sounding");
        let mut gauge = Device::new("/dev/vdb", DeviceKind::Disk);
        let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
        content.uuid = Some("5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b".into());
        content.label = Some("grain".into());
        gauge.content = Some(content);
        let mut empty = Device::new("/dev/vdc", DeviceKind::Disk);
        empty.content = Some(Content::new(ContentKind::Empty, None));
        record.devices = Some(vec![gauge, empty]);
        record
    }

    fn ask<'a>(record: &'a Record, name: &str) -> Resolution<'a> {
        Index::new(record).resolve(&Source::parse(name))
    }

    #[test]
    fn finds_by_every_name() {
        let record = record();
        for name in [
            "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b",
            "LABEL=grain",
            "/dev/vdb",
            "/dev/disk/by-label/grain",
        ] {
            assert!(matches!(ask(&record, name), Resolution::Found(d) if d[0].path == "/dev/vdb"), "{name}");
        }
        assert!(matches!(ask(&record, "tmpfs"), Resolution::NotADevice));
    }

    #[test]
    fn suggests_neighbours_but_no_strangers() {
        let record = record();
        for (name, near) in [
            ("UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00c", Some(1)),
            ("UUID=5D0C1F0E-6A35-4B1C-9A55-0F6F1F1AB00B", Some(0)),
            ("PARTUUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b", Some(0)),
            ("LABEL=grian", Some(1)),
            ("LABEL=go", None),
            ("UUID=0badc0de-6a35-4b1c-9a55-0f6f1f1a0bad", None),
            ("/dev/vdz", None),
        ] {
            assert!(matches!(ask(&record, name), Resolution::Absent), "{name}");
            let found = suggest(&Index::new(&record), name);
            assert_eq!(found.first().map(|n| n.distance), near, "{name}");
        }
    }

    #[test]
    fn unread_devices_leave_it_open() {
        let mut record = record();
        record.devices.as_mut().unwrap()[1].content = None;
        assert!(matches!(ask(&record, "LABEL=nowhere"), Resolution::Unknown(_)));
        record.links_complete = Some(true);
        assert!(matches!(ask(&record, "LABEL=nowhere"), Resolution::Absent));
        record.links_complete = None;
        record.devices = None;
        assert!(matches!(ask(&record, "/dev/vdb"), Resolution::Unknown(_)));
    }

    #[test]
    fn an_unread_device_in_use_elsewhere_leaves_no_doubt() {
        let mut record = record();
        record.devices.as_mut().unwrap()[1].content = None;
        let mount = |source: &str, target: &str| Mount {
            source: source.into(),
            target: target.into(),
            fstype: "ext4".into(),
            options: String::new(),
            root: None,
            device: None,
            free: None,
            answers: None,
        };
        record.mounts = Some(vec![mount("/dev/vdc", "/")]);
        let index = Index::new(&record);
        let source = Source::parse("LABEL=nowhere");
        let open = |purpose| matches!(index.resolve_for(&source, purpose), Resolution::Unknown(_));
        assert!(open(Purpose::Any) && open(Purpose::Mount("/")));
        assert!(!open(Purpose::Mount("/srv/gauges")) && !open(Purpose::Swap));
    }
}
