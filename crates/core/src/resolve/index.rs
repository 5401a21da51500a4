use super::source::{Source, Tag, decode_link};
use crate::record::{ContentKind, Device, Record};
use std::collections::HashMap;

/// How far a name may be off and still be taken for a slip.
const NEAR: usize = 2;

/// All names of all devices of a record, ready to be asked.
pub struct Index<'a> {
    devices: &'a [Device],
    paths: HashMap<&'a str, usize>,
    tags: HashMap<(Tag, String), Vec<usize>>,
    devices_known: bool,
    contents_known: bool,
    partitions_known: bool,
}

/// What a source turned out to name.
#[derive(Debug, Clone)]
pub enum Resolution<'a> {
    /// These devices answer to it; more than one may.
    Found(Vec<&'a Device>),
    /// No device does; these names look alike.
    Absent(Vec<Near<'a>>),
    /// The facts do not suffice to tell; the reason.
    Unknown(String),
    /// It names no device: a folder, a word, something on the network.
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
        let mut paths = HashMap::new();
        let mut tags: HashMap<(Tag, String), Vec<usize>> = HashMap::new();
        for (i, device) in devices.iter().enumerate() {
            paths.insert(device.path.as_str(), i);
            for link in device.links.iter().flatten() {
                paths.insert(link.as_str(), i);
            }
            for (tag, value) in tags_of(device) {
                let answering = tags.entry((tag, value)).or_default();
                if !answering.contains(&i) {
                    answering.push(i);
                }
            }
        }
        let links = record.links_complete == Some(true);
        let read =
            |d: &Device| !d.is_leaf() || d.content.as_ref().is_some_and(|c| c.kind != ContentKind::Unknown);
        let named = |d: &Device| d.partition.as_ref().is_none_or(|p| p.uuid.is_some());
        Index {
            devices,
            paths,
            tags,
            devices_known: record.devices.is_some(),
            contents_known: record.devices.is_some() && (links || devices.iter().all(read)),
            partitions_known: record.devices.is_some() && (links || devices.iter().all(named)),
        }
    }

    /// What the source names.
    pub fn resolve(&self, source: &Source) -> Resolution<'a> {
        match source {
            Source::Tag(tag, value) => self.tag(*tag, value),
            Source::Device(path) => match self.paths.get(path.as_str()) {
                Some(&i) => Resolution::Found(vec![&self.devices[i]]),
                None if self.devices_known => Resolution::Absent(Vec::new()),
                None => Resolution::Unknown("the host's devices are not known".to_owned()),
            },
            _ => Resolution::NotADevice,
        }
    }

    /// The device of this path or link.
    pub fn device(&self, path: &str) -> Option<&'a Device> {
        self.paths.get(path).map(|&i| &self.devices[i])
    }

    fn tag(&self, tag: Tag, value: &str) -> Resolution<'a> {
        if let Some(found) = self.tags.get(&(tag, value.to_owned())) {
            return Resolution::Found(found.iter().map(|&i| &self.devices[i]).collect());
        }
        let known = match tag {
            Tag::Uuid | Tag::Label => self.contents_known,
            Tag::PartUuid | Tag::PartLabel => self.partitions_known,
        };
        if known {
            Resolution::Absent(self.near(tag, value))
        } else if !self.devices_known {
            Resolution::Unknown("the host's devices are not known".to_owned())
        } else {
            Resolution::Unknown("not every device could be read".to_owned())
        }
    }

    /// Names that may have been meant, nearest first.
    fn near(&self, tag: Tag, value: &str) -> Vec<Near<'a>> {
        let folded = value.to_ascii_lowercase();
        // In a short name two edits leave nothing of it.
        let limit = NEAR.min(folded.chars().count().saturating_sub(1) / 2);
        let mut near: Vec<(usize, Tag, &str, usize)> = Vec::new();
        for ((other_tag, other), answering) in &self.tags {
            let distance = match *other_tag == tag {
                true => strsim::osa_distance(&folded, &other.to_ascii_lowercase()),
                false if folded == other.to_ascii_lowercase() => 0,
                false => continue,
            };
            if distance <= limit {
                near.extend(answering.iter().map(|&i| (distance, *other_tag, other.as_str(), i)));
            }
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
}

/// The tagged names of a device: from its bytes and from the names under
/// /dev/disk that exist.
fn tags_of(device: &Device) -> Vec<(Tag, String)> {
    let content = device.content.as_ref();
    let partition = device.partition.as_ref();
    let own = [
        (Tag::Uuid, content.and_then(|c| c.uuid.clone())),
        (Tag::Label, content.and_then(|c| c.label.clone())),
        (Tag::PartUuid, partition.and_then(|p| p.uuid.clone())),
        (Tag::PartLabel, partition.and_then(|p| p.label.clone())),
    ];
    let mut tags: Vec<_> = own.into_iter().filter_map(|(tag, value)| Some((tag, value?))).collect();
    for link in device.links.iter().flatten() {
        let Some((folder, value)) = link.strip_prefix("/dev/disk/").and_then(|l| l.split_once('/')) else {
            continue;
        };
        if let Some(tag) = Tag::ALL.into_iter().find(|t| t.folder() == folder) {
            tags.push((tag, decode_link(value)));
        }
    }
    tags
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{Content, DeviceKind};

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
            let Resolution::Absent(found) = ask(&record, name) else { panic!("{name}") };
            assert_eq!(found.first().map(|n| n.distance), near, "{name}");
        }
    }

    #[test]
    fn unread_devices_leave_it_open() {
        let mut record = record();
        record.devices.as_mut().unwrap()[1].content = None;
        assert!(matches!(ask(&record, "LABEL=nowhere"), Resolution::Unknown(_)));
        record.links_complete = Some(true);
        assert!(matches!(ask(&record, "LABEL=nowhere"), Resolution::Absent(_)));
        record.devices = None;
        assert!(matches!(ask(&record, "/dev/vdb"), Resolution::Unknown(_)));
    }
}
