//! Paths that tables name and that lie on a file system which is not mounted
//! now: looked for inside it. ext2, ext3 and ext4 only; nothing is written, no
//! journal is replayed.

use crate::files::{Files, Root};
use crate::mounts::Mounted;
use crate::paths::{look_at, named};
use bradawl_facts::path::{is_within, tidy};
use bradawl_facts::record::{Inside, PathFacts, Record, TableFile};
use bradawl_facts::table::Table;
use bradawl_resolve::{Index, Resolution, Source, Uses};
use ext4_view::Ext4;
use std::collections::BTreeMap;

/// More file systems than this are not looked into.
const MAX_DEVICES: usize = 32;
/// More paths than this are not looked for in one.
const MAX_PATHS: usize = 1000;

/// What the paths of these tables mean on devices that are not mounted.
pub(crate) fn inside(record: &Record, tables: &[&TableFile]) -> Vec<Inside> {
    let (plain, read) = named(tables, std::iter::empty());
    let index = Index::new(record);
    let uses = Uses::of(record);
    let mut found: BTreeMap<String, Vec<PathFacts>> = BTreeMap::new();
    for (device, target) in targets(&index, tables) {
        let Some(device) = index.device(&device) else { continue };
        let ext =
            device.content.as_ref().and_then(|c| c.fstype.as_deref()).is_some_and(|t| t.starts_with("ext"));
        let mounted = !uses.device(device).mounted_on.is_empty();
        if !ext || mounted || found.contains_key(&device.path) || found.len() >= MAX_DEVICES {
            continue;
        }
        let below = |path: &&String| **path != target && is_within(path, &target);
        let all = plain.iter().map(|p| (p, false)).chain(read.iter().map(|p| (p, true)));
        let wanted: Vec<(&String, bool)> = all.filter(|(p, _)| below(p)).take(MAX_PATHS).collect();
        if wanted.is_empty() {
            continue;
        }
        let Ok(fs) = Ext4::load_from_path(&device.path) else { continue };
        let mut files = Files::new(Root::Ext(fs));
        let none = Mounted::new(&[]);
        let facts = wanted.into_iter().flat_map(|(path, is_read)| {
            let rest = path.strip_prefix(target.as_str()).unwrap_or_default();
            look_at(&mut files, rest, &none, is_read)
        });
        found.insert(device.path.clone(), facts.collect());
    }
    found.into_iter().map(|(device, paths)| Inside { device, paths }).collect()
}

/// The devices that entries name, with their targets.
fn targets(index: &Index<'_>, tables: &[&TableFile]) -> Vec<(String, String)> {
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
                all.push((device.path.clone(), tidy(&entry.target).into_owned()));
            }
        }
    }
    all
}
