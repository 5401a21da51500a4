//! A made-up host for tests of the layers above.

use crate::record::{
    Content, ContentKind, Device, DeviceKind, Init, InitKind, Mount, PathFacts, PathKind, Record,
};

/// UUID of the root disk of [`host`].
pub const ROOT: &str = "UUID=4e1f6a52-90bc-4d0a-8a3c-1f2e3d4c5b6a / ext4 errors=remount-ro 0 1\n";

/// A host with a root disk, an xfs disk, a swap partition and a FAT stick.
pub fn host() -> Record {
    let mut record = Record::new("bellbuoy");
    record.host.kernel = Some("6.1.0-50-amd64".to_owned());
    record.host.init = Some(Init { running: Some(true), ..Init::new(InitKind::Systemd, Some("252")) });
    record.command_line = Some("root=UUID=4e1f6a52-90bc-4d0a-8a3c-1f2e3d4c5b6a ro quiet".to_owned());
    record.devices = Some(vec![
        device("/dev/vda1", "ext4", "4e1f6a52-90bc-4d0a-8a3c-1f2e3d4c5b6a", "hull"),
        device("/dev/vdb", "xfs", "7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2", "gauges"),
        device("/dev/vdc", "swap", "0b5a7e19-6cd3-4f88-a1e4-9d2c3b4a5f60", "reserve"),
        Device { removable: Some(true), ..device("/dev/sdb1", "vfat", "4B1D-7E20", "FIELD") },
    ]);
    record.paths = vec![
        PathFacts::new("/srv/gauges", PathKind::Directory),
        PathFacts::new("/srv/absent", PathKind::Absent),
        PathFacts::new("/srv/file", PathKind::File),
    ];
    record
}

fn device(path: &str, fstype: &str, uuid: &str, label: &str) -> Device {
    let kind = if fstype == "swap" { ContentKind::Swap } else { ContentKind::Filesystem };
    let mut content = Content::new(kind, Some(fstype));
    content.uuid = Some(uuid.to_owned());
    content.label = Some(label.to_owned());
    Device { content: Some(content), ..Device::new(path, DeviceKind::Disk) }
}

/// Something mounted from a device.
pub fn mounted(source: &str, target: &str, fstype: &str) -> Mount {
    Mount {
        source: source.into(),
        target: target.into(),
        fstype: fstype.into(),
        options: "rw,relatime".into(),
        root: Some("/".into()),
        device: None,
        free: None,
        answers: None,
    }
}
