//! The guest of the boots that are about the initramfs, arrays and volume
//! groups, and other targets.

use super::{Boot, record};
use bradawl_facts::record::{
    Content, ContentKind, Device, DeviceKind, Early, Initramfs, Record, VolumeGroup,
};
use bradawl_resolve::take_away;
use serde::Deserialize;
use std::collections::BTreeMap;

/// One recorded boot.
#[derive(Deserialize)]
pub struct EarlyBoot {
    pub id: String,
    pub table: String,
    disks: Vec<String>,
    root: Option<String>,
    pub cmdline: String,
    /// Whether the initramfs puts arrays together.
    arrays_early: bool,
    pub outcome: String,
    pub early_s: f64,
    pub waits: Vec<f64>,
    pub login_s: Option<f64>,
    pub emergency_s: Option<f64>,
    pub mounted: Vec<String>,
    pub swapped: Vec<String>,
}

/// All of them.
pub fn early_boots() -> Vec<EarlyBoot> {
    let path = format!("{}/tests/fixtures/boots-early.jsonl", env!("CARGO_MANIFEST_DIR"));
    let text = std::fs::read_to_string(path).unwrap();
    let boots: Vec<EarlyBoot> = text.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(boots.len(), super::EARLY);
    boots
}

/// The disks that hold something by themselves.
const PLAIN: [(&str, &str); 6] = [
    ("b", "ext4 label \"grain\" UUID …b00b"),
    ("c", "swap label \"reserve\" UUID …c00c"),
    ("d", "xfs label \"silo\" UUID …d00d"),
    ("i", "all zeros"),
    ("j", "ext4 label \"cracked\" UUID …100a, error state"),
    ("u", "ext4 label \"usr\" UUID …900a"),
];

/// What a survey of the whole guest would have found, with the disks that a
/// boot did not have taken away.
pub fn early_record(boot: &EarlyBoot) -> Record {
    let name = |n: usize| format!("/dev/ubd{}", char::from(b'b' + u8::try_from(n).unwrap()));
    let mut plain: BTreeMap<String, String> = BTreeMap::new();
    plain.insert("/dev/ubda".into(), "the root disk: ext4 label \"hull\" UUID …0001".into());
    let mut parts: Vec<(&str, String)> = Vec::new();
    for (n, disk) in boot.disks.iter().enumerate() {
        match PLAIN.iter().find(|(letter, _)| letter == disk) {
            Some((_, words)) => drop(plain.insert(name(n), (*words).to_owned())),
            None => parts.push((disk, name(n))),
        }
    }
    let whole =
        Boot { init: "systemd 252".into(), root: boot.root.clone(), devices: plain, ..Boot::default() };
    let mut record = record(&whole);
    record.command_line = record.command_line.map(|line| format!("{line} {}", boot.cmdline));
    let maker = if boot.arrays_early { Initramfs::InitramfsTools } else { Initramfs::Dracut };
    record.early = Some(Early { initramfs: Some(maker), ..Early::default() });
    let mut gone: Vec<String> = Vec::new();
    for pair in [["ra", "rb"], ["rc", ""], ["sa", "sb"], ["pa", "pb"], ["xa", "xb"]] {
        if !pair.iter().any(|p| parts.iter().any(|(part, _)| part == p)) {
            continue;
        }
        let paths: Vec<String> = pair
            .iter()
            .filter(|p| !p.is_empty())
            .map(|p| {
                let found = parts.iter().find(|(part, _)| part == p);
                found.map_or_else(|| format!("/dev/gone-{p}"), |(_, path)| path.clone())
            })
            .collect();
        gone.extend(paths.iter().filter(|p| p.contains("gone")).cloned());
        record.devices.as_mut().unwrap().extend(made_of(pair[0], &paths));
    }
    for path in gone {
        take_away(&mut record, &path).unwrap();
    }
    record
}

/// The parts on these disks, and what they make.
fn made_of(first: &str, paths: &[String]) -> Vec<Device> {
    let disk = |n: usize, content: Content| Device {
        content: Some(content),
        ..Device::new(paths[n].as_str(), DeviceKind::Disk)
    };
    let all = |content: &dyn Fn(usize) -> Content| {
        (0..paths.len()).map(|n| disk(n, content(n))).collect::<Vec<_>>()
    };
    let above = |path: &str, kind: DeviceKind, label: &str, uuid: &str, links: &[&str]| {
        let mut device = Device::new(path, kind);
        let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
        (content.label, content.uuid) = (Some(label.into()), Some(format!("{}{uuid}", super::SHORT)));
        device.content = Some(content);
        device.parents = paths.to_vec();
        device.links = Some(links.iter().map(|l| (*l).to_owned()).collect());
        device
    };
    let member = |level: &str, last: u32| Content {
        level: Some(level.into()),
        raid_devices: Some(2),
        working_devices: Some(last),
        ..Content::new(ContentKind::RaidMember, Some("mdraid 1.2"))
    };
    let mut devices = match first {
        "ra" => all(&|_| member("raid1", 2)),
        "rc" => all(&|_| member("raid1", 1)),
        "sa" => all(&|_| member("raid0", 2)),
        "pa" => all(&|n| Content {
            uuid: Some(format!("pv{n}")),
            group: Some(VolumeGroup {
                name: "hold-b".into(),
                pv_uuids: vec!["pv0".into(), "pv1".into()],
                ..VolumeGroup::default()
            }),
            ..Content::new(ContentKind::LvmPv, Some("LVM2 PV"))
        }),
        _ => all(&|_| Content {
            label: Some("shoal".into()),
            uuid: Some(format!("{}b11b", super::SHORT)),
            num_devices: Some(2),
            ..Content::new(ContentKind::Filesystem, Some("btrfs"))
        }),
    };
    match first {
        "ra" | "rc" => devices.push(above("/dev/md127", DeviceKind::Raid, "raid", "500a", &["/dev/md/raid"])),
        "sa" => devices.push(above("/dev/md127", DeviceKind::Raid, "swell", "600a", &["/dev/md/swell"])),
        "pa" => {
            let links = ["/dev/hold-b/both", "/dev/mapper/hold--b-both"];
            devices.push(above("/dev/dm-1", DeviceKind::Mapper, "both", "800a", &links));
            // It lies on the first disk alone.
            let links = ["/dev/hold-b/pair", "/dev/mapper/hold--b-pair"];
            let mut pair = above("/dev/dm-0", DeviceKind::Mapper, "pair", "700a", &links);
            pair.parents.truncate(1);
            devices.push(pair);
        }
        _ => {}
    }
    devices
}
