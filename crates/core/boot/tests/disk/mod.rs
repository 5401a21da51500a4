//! The disk of the recordings of what comes before the init system: one with a partition table, of a kernel in
//! user mode.

#![allow(dead_code)] // each test has its own disk

use bradawl_facts::record::{
    Content, ContentKind, Device, DeviceKind, Init, InitKind, PartitionFacts, PathFacts, PathKind, Record,
};

/// What a partition holds: a type, or swap, with its label and the end of its UUID.
pub fn held(fstype: &str, label: &str, uuid: &str) -> Content {
    let kind = if fstype == "swap" { ContentKind::Swap } else { ContentKind::Filesystem };
    let mut content = Content::new(kind, Some(fstype));
    content.label = Some(label.to_owned());
    content.uuid = Some(format!("5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a{uuid}"));
    content
}

/// A machine with one disk of these partitions, by the names in its table.
pub fn machine(partitions: Vec<(&str, Content)>) -> Record {
    let mut record = Record::new("sounding");
    record.host.kernel = Some("6.1.176".to_owned());
    record.host.init = Some(Init::new(InitKind::Systemd, Some("252")));
    let disk = Device {
        major: Some(98),
        minor: Some(0),
        content: Some(Content::new(ContentKind::PartitionTable, None)),
        ..Device::new("/dev/ubda", DeviceKind::Disk)
    };
    let partition = |(n, (name, content)): (u32, (&str, Content))| Device {
        major: Some(98),
        minor: Some(n),
        partition: Some(PartitionFacts {
            number: Some(n),
            uuid: Some(format!("a1f0c3d2-5b6e-4c7d-8e9f-00112233440{n}")),
            label: Some(name.to_owned()),
            ..PartitionFacts::default()
        }),
        parents: vec!["/dev/ubda".to_owned()],
        content: Some(content),
        ..Device::new(format!("/dev/ubda{n}"), DeviceKind::Partition)
    };
    record.devices = Some([disk].into_iter().chain((1..).zip(partitions).map(partition)).collect());
    record.paths = ["/bin/absent", "/relative"].map(|path| PathFacts::new(path, PathKind::Absent)).to_vec();
    record
}

/// The machine of `lab/own_disk.py`.
pub fn of_six() -> Record {
    let mut press = held("btrfs", "press", "e00e");
    press.subvolumes = Some(vec!["@".to_owned()]);
    machine(vec![
        ("hull", held("ext4", "hull", "0001")),
        ("usr", held("ext4", "usr", "900a")),
        ("reserve", held("swap", "reserve", "c00c")),
        ("silo", held("xfs", "silo", "d00d")),
        ("press", press),
        ("bare", Content::new(ContentKind::Empty, None)),
    ])
}
