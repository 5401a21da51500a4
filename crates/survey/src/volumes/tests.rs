//! Volumes that a kernel made, of every kind over several physical volumes
//! (lab/record-volumes.py): what is read through these is what it read.

use super::*;
use crate::array::tests::{Recorded, recorded, sum};
use bradawl_facts::probe::identify;

/// The group of these members without some of them, as far as they tell of it.
fn group_of(bytes: &HashMap<String, Vec<u8>>, files: &[String]) -> (VolumeGroup, HashMap<String, View>) {
    let mut group = None;
    let mut physical = HashMap::new();
    for file in files {
        let content = identify(&bytes[file]).unwrap();
        group = group.or(content.group);
        physical.insert(content.uuid.unwrap(), View::of(Arc::new(bytes[file].clone())));
    }
    (group.unwrap(), physical)
}

fn read(bytes: &HashMap<String, Vec<u8>>, files: &[String], name: &str) -> Result<View, NotRead> {
    let (group, physical) = group_of(bytes, files);
    let volume = group.volumes.iter().find(|v| v.name == name).unwrap();
    Group { group: &group, physical: &physical }.view(volume)
}

/// Whether a volume of this group can do without one of its disks.
fn bears_a_loss(group: &str) -> bool {
    group.contains("mirror") && group != "stalemirror" && group != "thinmirror"
        || group.starts_with("raid") && !group.starts_with("raid0")
}

#[test]
fn every_volume_is_read_as_the_kernel_reads_it() {
    let (bytes, all) = recorded("volumes");
    let volumes: Vec<&Recorded> = all.iter().filter(|(name, ..)| name.contains('/')).collect();
    let mut without = 0;
    for (name, expected, files) in &volumes {
        let (group, volume) = name.split_once('/').unwrap();
        let whole = read(&bytes, files, volume).unwrap_or_else(|why| panic!("{name}: {why}"));
        assert_eq!(sum(&whole).as_ref(), Some(expected), "{name}");
        for left_out in (0..files.len()).filter(|_| bears_a_loss(group)) {
            let some: Vec<String> =
                files.iter().enumerate().filter(|(n, _)| *n != left_out).map(|(_, f)| f.clone()).collect();
            let view =
                read(&bytes, &some, volume).unwrap_or_else(|why| panic!("{name} without {left_out}: {why}"));
            assert_eq!(sum(&view).as_ref(), Some(expected), "{name} without {left_out}");
            without += 1;
        }
    }
    println!("{} volumes as the kernel reads them, {without} times without a disk", volumes.len());
    assert_eq!(volumes.len(), 30);
}

#[test]
fn what_is_not_read_says_so() {
    let (bytes, all) = recorded("volumes");
    let files = |name: &str| all.iter().find(|(n, ..)| n == name).unwrap().2.clone();
    let snapshot = read(&bytes, &files("snapped/kelp"), "before");
    assert_eq!(snapshot.err(), Some(NotRead::Kind("snapshot".to_owned())));
    let stripe = read(&bytes, &files("stripes/two")[1..], "two");
    assert_eq!(stripe.err(), Some(NotRead::Absent));
    let (group, _) = group_of(&bytes, &files("thin/kelp"));
    let names: Vec<&str> = group.volumes.iter().map(|v| v.name.as_str()).collect();
    assert_eq!(names, ["kelp", "wrack", "later"], "a pool is no volume that holds files");
    let physical = HashMap::new();
    let whole = Group { group: &group, physical: &physical };
    assert_eq!(whole.lies_on(&group.volumes[0]).len(), 2, "{:?}", whole.lies_on(&group.volumes[0]));
    assert_eq!(whole.view(&group.volumes[0]).err(), Some(NotRead::Absent));
}

#[test]
fn a_group_whose_volumes_are_made_of_each_other_ends() {
    let part =
        |name: &str| VolumePart { length: 4096, of: VolumePiece::Mirrored { of: vec![name.to_owned()] } };
    let volume = |name: &str, of: &str| LogicalVolume {
        name: name.to_owned(),
        size: 4096,
        parts: vec![part(of)],
        ..LogicalVolume::default()
    };
    let group = VolumeGroup { volumes: vec![volume("a", "b"), volume("b", "a")], ..VolumeGroup::default() };
    let physical = HashMap::new();
    let of = Group { group: &group, physical: &physical };
    assert_eq!(of.view(&group.volumes[0]).err(), Some(NotRead::Contradicts));
    assert!(of.lies_on(&group.volumes[0]).is_empty());
}

/// The files of a pool, and where in each something stands behind the group's description.
type Pool = (HashMap<String, Vec<u8>>, Vec<(String, Vec<usize>)>);

fn pool() -> &'static Pool {
    static POOL: std::sync::OnceLock<Pool> = std::sync::OnceLock::new();
    POOL.get_or_init(|| {
        let (mut bytes, all) = recorded("volumes");
        let files = all.into_iter().find(|(name, ..)| name == "thin/kelp").unwrap().2;
        bytes.retain(|file, _| files.contains(file));
        let used = |file: &String| {
            let bytes = &bytes[file];
            (1 << 20..bytes.len()).filter(|at| bytes[*at] != 0).take(20_000).collect()
        };
        let files = files.iter().map(|file| (file.clone(), used(file))).collect();
        (bytes, files)
    })
}

proptest::proptest! {
    #![proptest_config(proptest::prelude::ProptestConfig::with_cases(40))]
    /// Whatever stands in a pool's metadata, an answer and no panic.
    #[test]
    fn damaged_pools_never_panic(patches: Vec<(u32, u8)>, low: u16, word: u64) {
        let (mut bytes, files) = pool().clone();
        for (file, used) in files.iter().filter(|(_, used)| !used.is_empty()) {
            let bytes = bytes.get_mut(file).unwrap();
            for (at, byte) in &patches {
                bytes[used[*at as usize % used.len()]] = *byte;
            }
            let at = used[usize::from(low) % used.len()].min(bytes.len() - 8);
            bytes[at..at + 8].copy_from_slice(&word.to_le_bytes());
        }
        let files: Vec<String> = files.into_iter().map(|(file, _)| file).collect();
        for name in ["kelp", "wrack", "later"] {
            if let Ok(view) = read(&bytes, &files, name) {
                let mut buffer = vec![0; 300_000];
                for at in [0, 1 << 20, u64::MAX - 9] {
                    let _ = view.read_at(at, &mut buffer);
                }
            }
        }
    }
}
