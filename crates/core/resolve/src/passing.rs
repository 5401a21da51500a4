//! Devices that are there now and are not made again by the boot: loop
//! devices, memory, mappings made by hand.

use super::index::Index;
use bradawl_facts::record::{Device, DeviceKind};
use bradawl_facts::text::visible;

/// Deeper stacks than this are not looked into.
const DEPTH: usize = 16;

/// Why a device ends with the running system.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Passing<'a> {
    /// A loop device, or something on one.
    Loop(&'a Device),
    /// Compressed memory, which some service makes anew.
    Zram(&'a Device),
    /// Memory as a disk.
    Memory(&'a Device),
    /// A mapping that no volume group, container or array stands behind.
    Mapping(&'a Device),
}

impl<'a> Passing<'a> {
    /// What a device of a running host is made of that ends with it; `None`: the
    /// boot finds it again, as far as is known.
    pub fn of(index: &'a Index<'a>, device: &'a Device) -> Option<Self> {
        within(index, device, 0)
    }

    /// What it is, in words that follow "it is on".
    pub fn words(&self) -> String {
        match self {
            Passing::Loop(device) => {
                let path = visible(&device.path);
                match &device.backing {
                    Some(backing) => {
                        format!(
                            "{path}, a loop device of {}, which the boot does not set up",
                            visible(&backing.file)
                        )
                    }
                    None => format!("{path}, a loop device, which the boot does not set up"),
                }
            }
            Passing::Zram(device) => {
                format!("{}, compressed memory, which begins empty", visible(&device.path))
            }
            Passing::Memory(device) => format!("{}, memory, which begins empty", visible(&device.path)),
            Passing::Mapping(device) => {
                format!("{}, a mapping made by hand, which the boot does not set up", visible(&device.path))
            }
        }
    }
}

fn within<'a>(index: &'a Index<'a>, device: &'a Device, depth: usize) -> Option<Passing<'a>> {
    match device.kind {
        DeviceKind::Loop => return Some(Passing::Loop(device)),
        DeviceKind::Zram => return Some(Passing::Zram(device)),
        DeviceKind::Ram => return Some(Passing::Memory(device)),
        DeviceKind::Mapper if is_by_hand(device) => return Some(Passing::Mapping(device)),
        _ if depth >= DEPTH => return None,
        _ => {}
    }
    let below = |path: &String| within(index, index.device(path)?, depth + 1);
    // With one part that lasts an array may still come.
    let parts: Vec<_> = device.parents.iter().map(below).collect();
    parts.into_iter().collect::<Option<Vec<_>>>()?.into_iter().next()
}

/// LVM, cryptsetup, multipath and their kin give their mappings an id; the
/// device manager makes a link of it. By hand there is only a name.
fn is_by_hand(device: &Device) -> bool {
    let links = device.links.as_deref().unwrap_or_default();
    let has = |part: &str| links.iter().any(|l| l.contains(part));
    has("/by-id/dm-name-") && !has("/by-id/dm-uuid-")
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Backing, Record};

    #[test]
    fn what_ends_with_the_running_system() {
        let mut record = Record::new("kelp");
        let on = |path: &str, kind, parents: &[&str], links: &[&str]| Device {
            parents: parents.iter().map(|p| (*p).to_owned()).collect(),
            links: Some(links.iter().map(|l| (*l).to_owned()).collect()),
            ..Device::new(path, kind)
        };
        let mut image = on("/dev/loop0", DeviceKind::Loop, &[], &[]);
        image.backing = Some(Backing { file: "/srv/a.img".into(), ..Backing::default() });
        record.devices = Some(vec![
            on("/dev/sda", DeviceKind::Disk, &[], &[]),
            image,
            on("/dev/loop0p1", DeviceKind::Partition, &["/dev/loop0"], &[]),
            on("/dev/md0", DeviceKind::Raid, &["/dev/sda", "/dev/loop0p1"], &[]),
            on("/dev/md1", DeviceKind::Raid, &["/dev/loop0", "/dev/loop0p1"], &[]),
            on("/dev/zram0", DeviceKind::Zram, &[], &[]),
            on("/dev/dm-0", DeviceKind::Mapper, &["/dev/sda"], &["/dev/disk/by-id/dm-name-old"]),
            on(
                "/dev/dm-1",
                DeviceKind::Mapper,
                &["/dev/sda"],
                &["/dev/disk/by-id/dm-name-a-b", "/dev/disk/by-id/dm-uuid-LVM-x"],
            ),
            on("/dev/dm-2", DeviceKind::Mapper, &["/dev/sda"], &[]),
        ]);
        let index = Index::new(&record);
        for (path, passing) in [
            ("/dev/sda", false),
            ("/dev/loop0p1", true),
            ("/dev/md0", false),
            ("/dev/md1", true),
            ("/dev/zram0", true),
            ("/dev/dm-0", true),
            ("/dev/dm-1", false),
            ("/dev/dm-2", false),
        ] {
            let found = index.device(path).and_then(|device| Passing::of(&index, device));
            assert_eq!(found.is_some(), passing, "{path}: {found:?}");
        }
        let words = index.device("/dev/md1").and_then(|d| Passing::of(&index, d)).map(|p| p.words());
        assert_eq!(
            words.as_deref(),
            Some("/dev/loop0, a loop device of /srv/a.img, which the boot does not set up")
        );
    }
}
