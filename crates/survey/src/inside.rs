//! Paths that tables name and that lie on a file system which is not mounted
//! now: looked for inside it. ext2, ext3, ext4, XFS and Btrfs; nothing is written,
//! no journal is replayed.

use crate::files::{Files, Root};
use crate::mounts::Mounted;
use crate::paths::{add_later_inside, look_at, named};
use crate::view::View;
use bradawl_facts::path::{is_within, tidy};
use bradawl_facts::record::{Device, Inside, PathFacts, Record, TableFile};
use bradawl_facts::table::Table;
use bradawl_filetree::{Btrfs, FileTree, Xfs};
use bradawl_resolve::{Index, Resolution, Source, Uses};
use ext4_view::Ext4;
use std::collections::BTreeMap;
use std::fs::File;

/// More file systems than this are not looked into.
const MAX_DEVICES: usize = 32;
/// More paths than this are not looked for in one.
const MAX_PATHS: usize = 1000;

/// What the paths of these tables mean on devices that are not mounted.
pub(crate) fn inside(record: &Record, tables: &[&TableFile]) -> Vec<Inside> {
    let (plain, read) = named(tables, std::iter::empty());
    let index = Index::new(record);
    let uses = Uses::of(record);
    let mut found: BTreeMap<(String, Option<String>), Vec<PathFacts>> = BTreeMap::new();
    let places = places(&index, tables);
    for place in &places {
        let Some(device) = index.device(&place.device) else { continue };
        let mounted = !uses.device(device).mounted_on.is_empty();
        let key = (device.path.clone(), place.subvolume.clone());
        if mounted || found.contains_key(&key) || found.len() >= MAX_DEVICES {
            continue;
        }
        let below = |path: &&String| **path != place.target && is_within(path, &place.target);
        let all = plain.iter().map(|p| (p, false)).chain(read.iter().map(|p| (p, true)));
        let wanted: Vec<(&String, bool)> = all.filter(|(p, _)| below(p)).take(MAX_PATHS).collect();
        if wanted.is_empty() {
            continue;
        }
        let Some(root) = opened(device, place) else { continue };
        let mut files = Files::new(root);
        let none = Mounted::new(&[]);
        let look = |(path, is_read): (&String, bool)| {
            let rest = path.strip_prefix(place.target.as_str()).unwrap_or_default();
            look_at(&mut files, rest, &none, is_read)
        };
        let mut facts: Vec<PathFacts> = wanted.into_iter().flat_map(look).collect();
        add_later_inside(&files, tables, &place.target, &mut facts);
        found.insert(key, facts);
    }
    found.into_iter().map(|((device, subvolume), paths)| Inside { device, subvolume, paths }).collect()
}

/// The file system of an entry.
fn opened(device: &Device, place: &Place) -> Option<Root> {
    let content = device.content.as_ref()?;
    let fstype = content.fstype.as_deref()?;
    if fstype.starts_with("ext") {
        return Ext4::load_from_path(&device.path).ok().map(Root::Ext);
    }
    let view = || Some(Box::new(View::whole(File::open(&device.path).ok()?, device.size?)));
    let tree: Box<dyn FileTree> = match fstype {
        "xfs" => Box::new(Xfs::open(view()?).ok()?),
        "btrfs" => {
            let fs = Btrfs::open(view()?).ok()?;
            match place.subvolume.as_deref().map(|asked| (asked, asked.strip_prefix("subvolid="))) {
                Some((_, Some(id))) => Box::new(fs.from_subvolume_id(id.parse().ok()?).ok()?),
                Some((path, None)) => Box::new(fs.from_subvolume(path).ok()?),
                None => Box::new(fs),
            }
        }
        _ => return None,
    };
    Some(Root::Tree(tree))
}

/// Where an entry mounts a device, and which part of it.
struct Place {
    device: String,
    target: String,
    subvolume: Option<String>,
}

/// The devices that entries name, with their targets.
fn places(index: &Index<'_>, tables: &[&TableFile]) -> Vec<Place> {
    let mut all = Vec::new();
    for table in tables {
        let table = Table::parse(table.bytes.bytes().unwrap_or_default());
        if table.check_size().is_err() {
            continue;
        }
        for entry in table.entries().iter().filter(|e| e.target.starts_with('/') && e.target != "/") {
            if let Resolution::Found(devices) = index.resolve(&Source::of(entry))
                && let [device] = devices.as_slice()
            {
                all.push(Place {
                    device: device.path.clone(),
                    target: tidy(&entry.target).into_owned(),
                    subvolume: entry.subvolume(),
                });
            }
        }
    }
    all
}
