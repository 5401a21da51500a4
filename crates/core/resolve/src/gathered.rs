//! What is asked again and again of all devices, gathered once. Devices are
//! kept by their place in the record.

use super::disagree::unread_partitions;
use super::source::Tag;
use bradawl_facts::map::{Map, Set};
use bradawl_facts::record::{ContentKind, Device, DeviceKind, Record};

/// More devices that answer to one name are not told apart.
pub const MAX_ANSWERING: usize = 64;

/// Devices by what they are parts of.
#[derive(Default)]
pub struct Gathered {
    /// Members of arrays, groups and pools by the UUID of the whole.
    members: Map<String, Vec<usize>>,
    /// How many devices have each content and UUID.
    alike: Map<(ContentKind, String), u64>,
    /// UUIDs of physical volumes.
    pub physical_volumes: Set<String>,
    /// Logical volumes by their names with every hyphen and slash alike, with
    /// the name below /dev.
    volumes: Map<String, Vec<(usize, String)>>,
    /// Partitions that the kernel has not read, by each name: the disk, and
    /// the place in its table.
    unread: Map<(Tag, String), (usize, usize)>,
    /// Swap areas on devices that outlive a reboot.
    pub swap_areas: Vec<usize>,
}

impl Gathered {
    /// Gathers them, in one pass over the devices.
    pub fn of(record: &Record) -> Self {
        let mut all = Gathered::default();
        record.devices().iter().enumerate().for_each(|(n, device)| all.add(n, device));
        for place @ (disk, at) in unread_partitions(record) {
            let entry = &record.devices()[disk].content.iter().flat_map(|c| &c.partitions).nth(at);
            let Some(entry) = entry else { continue };
            for (tag, name) in [(Tag::PartUuid, &entry.uuid), (Tag::PartLabel, &entry.label)] {
                if let Some(name) = name {
                    all.unread.entry((tag, name.clone())).or_insert(place);
                }
            }
        }
        all
    }

    fn add(&mut self, n: usize, device: &Device) {
        if let Some(name) = mapper_name(device) {
            self.volumes.entry(squashed(name)).or_default().push((n, name.to_owned()));
        }
        if device.holds_swap() && device.kind != DeviceKind::Zram {
            self.swap_areas.push(n);
        }
        let Some(content) = &device.content else { return };
        let Some(uuid) = &content.uuid else { return };
        *self.alike.entry((content.kind, uuid.clone())).or_default() += 1;
        if content.kind == ContentKind::LvmPv {
            self.physical_volumes.insert(uuid.clone());
        }
        if content.kind.is_nameless() && content.kind.is_member() {
            self.members.entry(uuid.clone()).or_default().push(n);
        }
    }

    /// The members of the array, group or pool of this UUID.
    pub fn members(&self, uuid: &str) -> impl Iterator<Item = usize> {
        self.members.get(uuid).into_iter().flatten().copied().take(MAX_ANSWERING)
    }

    /// How many devices have this content and UUID.
    pub fn alike(&self, kind: ContentKind, uuid: &str) -> u64 {
        self.alike.get(&(kind, uuid.to_owned())).copied().unwrap_or(0)
    }

    /// The partition of this name that is in a disk's table and that the
    /// kernel does not know yet: the disk, and the place in its table.
    pub fn unread(&self, tag: Tag, name: &str) -> Option<(usize, usize)> {
        self.unread.get(&(tag, name.to_owned())).copied()
    }

    /// The logical volumes that a name below /dev may mean, with the names
    /// that they have there: a hyphen inside a name is doubled in /dev/mapper
    /// and nowhere else.
    pub fn volumes(&self, name: &str) -> impl Iterator<Item = &(usize, String)> {
        self.volumes.get(&squashed(name)).into_iter().flatten().take(MAX_ANSWERING)
    }
}

fn squashed(path: &str) -> String {
    path.trim_start_matches("mapper/").replace("--", "-").replace('/', "-")
}

fn mapper_name(device: &Device) -> Option<&str> {
    let links = device.links.iter().flatten().map(String::as_str);
    std::iter::once(device.path.as_str())
        .chain(links)
        .find(|p| p.starts_with("/dev/mapper/"))?
        .strip_prefix("/dev/")
}
