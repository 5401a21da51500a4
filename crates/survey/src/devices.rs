//! Block devices: /sys/class/block for what they are, their own bytes for
//! what they hold.

use crate::files::Files;
use crate::udev;
use bradawl_catalogue::partition_types;
use bradawl_facts::probe::identify;
use bradawl_facts::record::{
    Backing, Device, DeviceKind, PartitionEntry, PartitionFacts, PathKind, Transport,
};
use std::collections::HashMap;
use std::io;

/// More devices than this are not looked at.
const MAX_DEVICES: usize = 20_000;

/// All block devices but those that stand for nothing: loop and memory
/// devices without anything behind them.
pub(crate) fn read(files: &mut Files) -> Option<Vec<Device>> {
    if !files.stat("/sys/class/block").is_ok_and(|s| s.kind == PathKind::Directory) {
        files.note("/sys/class/block", &io::Error::from(io::ErrorKind::NotFound));
        return None;
    }
    let mut names = files.names("/sys/class/block");
    if names.len() > MAX_DEVICES {
        let why = io::Error::other(format!("more than {MAX_DEVICES} devices: the others are left out"));
        files.note("/sys/class/block", &why);
        names.truncate(MAX_DEVICES);
    }
    let mut devices: Vec<Device> =
        names.iter().map(|name| device(files, name)).filter(|d| !is_hollow(d)).collect();
    connect(&mut devices);
    for device in devices.iter_mut().filter(|d| d.size.is_some_and(|s| s > 0)) {
        hold(files, device);
    }
    devices.iter_mut().for_each(|device| udev::fill(files, device));
    add_types(&mut devices);
    Some(devices)
}

/// What the kernel does not say of its partitions, the disk's own table does.
fn add_types(devices: &mut [Device]) {
    let tables: HashMap<String, Vec<PartitionEntry>> = devices
        .iter()
        .filter_map(|d| Some((d.path.clone(), d.content.as_ref()?.partitions.clone())))
        .filter(|(_, partitions)| !partitions.is_empty())
        .collect();
    for device in devices {
        let Some(facts) = &mut device.partition else { continue };
        let table = device.parents.iter().find_map(|disk| tables.get(disk));
        let same =
            |e: &&PartitionEntry| Some(e.number) == facts.number && facts.start.is_none_or(|s| s == e.start);
        let Some(entry) = table.and_then(|entries| entries.iter().find(same)) else { continue };
        facts.uuid = facts.uuid.take().or_else(|| entry.uuid.clone());
        facts.label = facts.label.take().or_else(|| entry.label.clone());
        facts.type_id = Some(entry.type_id.clone());
        facts.no_auto = entry.no_auto;
        facts.type_words = partition_types::words(&entry.type_id).map(str::to_owned);
    }
}

fn is_hollow(device: &Device) -> bool {
    device.size == Some(0)
        && matches!(device.kind, DeviceKind::Loop | DeviceKind::Ram | DeviceKind::Zram | DeviceKind::Other)
}

fn device(files: &Files, name: &str) -> Device {
    let sys = format!("/sys/class/block/{name}");
    let value = |file: &str| files.value(&format!("{sys}/{file}"));
    let uevent = value("uevent").unwrap_or_default();
    let given =
        |key: &str| uevent.lines().find_map(|l| l.strip_prefix(key)?.strip_prefix('=')).map(str::to_owned);
    let is_partition = files.exists(&format!("{sys}/partition"));
    // What a partition does not say itself, its disk does.
    let queue = if is_partition { format!("{sys}/../queue") } else { format!("{sys}/queue") };
    let of_disk = |file: &str| value(file).or_else(|| value(&format!("../{file}")));
    let flag = |text: Option<String>| text.map(|t| t == "1");
    let path = format!("/dev/{}", given("DEVNAME").unwrap_or_else(|| name.replace('!', "/")));
    let mut device = Device::new(path, kind(name, is_partition));
    if let Some((major, minor)) = value("dev").as_deref().and_then(|t| t.split_once(':')) {
        (device.major, device.minor) = (major.parse().ok(), minor.parse().ok());
    }
    device.size = value("size").and_then(|t| t.parse::<u64>().ok()).and_then(|s| s.checked_mul(512));
    device.sector_size = files.value(&format!("{queue}/logical_block_size")).and_then(|t| t.parse().ok());
    device.rotational = flag(files.value(&format!("{queue}/rotational")));
    device.read_only = flag(value("ro"));
    device.removable = flag(of_disk("removable"));
    device.model = model(files, &sys, is_partition);
    device.serial = serial(files, &sys, is_partition);
    device.transport = files.real(&sys).and_then(|real| transport(&real));
    device.parents = files.names(&format!("{sys}/slaves")).iter().map(|n| dev_path(n)).collect();
    device.backing = value("loop/backing_file").map(|file| Backing {
        file,
        offset: value("loop/offset").and_then(|t| t.parse().ok()).unwrap_or(0),
        limit: value("loop/sizelimit").and_then(|t| t.parse().ok()).unwrap_or(0),
    });
    if is_partition {
        device.partition = Some(PartitionFacts {
            number: value("partition").and_then(|t| t.parse().ok()),
            start: value("start").and_then(|t| t.parse::<u64>().ok()).and_then(|s| s.checked_mul(512)),
            uuid: given("PARTUUID"),
            label: given("PARTNAME"),
            ..PartitionFacts::default()
        });
        let real = files.real(&sys);
        let disk = real.as_deref().and_then(|r| r.rsplit('/').nth(1));
        device.parents.extend(disk.map(dev_path));
    }
    device
}

fn dev_path(name: &str) -> String {
    format!("/dev/{}", name.replace('!', "/"))
}

fn model(files: &Files, sys: &str, is_partition: bool) -> Option<String> {
    let base = if is_partition { format!("{sys}/..") } else { sys.to_owned() };
    let part = |file: &str| files.value(&format!("{base}/device/{file}")).map(|t| t.trim().to_owned());
    let words: Vec<String> = [part("vendor"), part("model")]
        .into_iter()
        .flatten()
        .filter(|w| !w.is_empty() && !w.starts_with("0x"))
        .collect();
    (!words.is_empty()).then(|| words.join(" "))
}

fn serial(files: &Files, sys: &str, is_partition: bool) -> Option<String> {
    let base = if is_partition { format!("{sys}/..") } else { sys.to_owned() };
    let read = |file: &str| files.value(&format!("{base}/{file}")).map(|t| t.trim().to_owned());
    read("serial").or_else(|| read("device/serial")).filter(|serial| !serial.is_empty())
}

/// How it is attached, by its place among the kernel's devices.
fn transport(real: &str) -> Option<Transport> {
    let through = |part: &str| {
        let mut parts = real.split('/');
        parts.any(|p| p.strip_prefix(part).is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_digit())))
    };
    match () {
        () if through("usb") => Some(Transport::Usb),
        () if through("nvme") => Some(Transport::Nvme),
        () if through("mmc") => Some(Transport::Mmc),
        () if through("ata") => Some(Transport::Ata),
        () if through("virtio") => Some(Transport::Virtio),
        () if through("host") => Some(Transport::Scsi),
        () => None,
    }
}

fn kind(name: &str, is_partition: bool) -> DeviceKind {
    let starts = |prefixes: &[&str]| prefixes.iter().any(|p| name.starts_with(p));
    match name {
        _ if is_partition => DeviceKind::Partition,
        _ if starts(&["loop"]) => DeviceKind::Loop,
        _ if starts(&["md"]) => DeviceKind::Raid,
        _ if starts(&["dm-"]) => DeviceKind::Mapper,
        _ if starts(&["zram"]) => DeviceKind::Zram,
        _ if starts(&["ram"]) => DeviceKind::Ram,
        _ if starts(&["sr"]) => DeviceKind::Optical,
        _ if starts(&["sd", "hd", "vd", "xvd", "nvme", "mmcblk", "ubd"]) => DeviceKind::Disk,
        _ => DeviceKind::Other,
    }
}

/// Children are the other side of parents.
fn connect(devices: &mut [Device]) {
    let pairs: Vec<(String, String)> =
        devices.iter().flat_map(|d| d.parents.iter().map(|p| (p.clone(), d.path.clone()))).collect();
    let place: HashMap<String, usize> =
        devices.iter().enumerate().rev().map(|(n, d)| (d.path.clone(), n)).collect();
    for (parent, child) in pairs {
        if let Some(n) = place.get(&parent) {
            devices[*n].children.push(child);
        }
    }
}

/// Reads what a device holds, and notes it when that is refused.
fn hold(files: &mut Files, device: &mut Device) {
    let size = device.size.unwrap_or(0);
    let content = files.start(&device.path, size).and_then(|bytes| identify(bytes.as_ref()));
    match content {
        Ok(content) => device.content = Some(content),
        Err(e) => files.note(device.path.clone(), &e),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::ContentKind;

    #[test]
    fn reads_a_disk_and_its_partition() {
        let dir = tempfile::tempdir().unwrap();
        let put = |path: &str, bytes: &[u8]| {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, bytes).unwrap();
        };
        let disk = "sys/devices/block/vdb";
        put(&format!("{disk}/size"), b"4096\n");
        put(&format!("{disk}/removable"), b"1\n");
        put(&format!("{disk}/queue/logical_block_size"), b"512\n");
        put(&format!("{disk}/vdb1/size"), b"2048\n");
        put(&format!("{disk}/vdb1/partition"), b"1\n");
        put(&format!("{disk}/vdb1/start"), b"2048\n");
        put(&format!("{disk}/vdb1/uevent"), b"DEVNAME=vdb1\nPARTNAME=ledger\n");
        put("sys/devices/block/loop0/size", b"0\n");
        std::fs::create_dir_all(dir.path().join("sys/class/block")).unwrap();
        for (name, to) in [("vdb", "vdb"), ("vdb1", "vdb/vdb1"), ("loop0", "loop0")] {
            let link = dir.path().join("sys/class/block").join(name);
            std::os::unix::fs::symlink(format!("../../devices/block/{to}"), link).unwrap();
        }
        put("dev/vdb", &vec![0; 4096 * 512]);
        let mut files = Files::own(dir.path().to_owned());
        let devices = read(&mut files).unwrap();
        assert_eq!(devices.iter().map(|d| d.path.as_str()).collect::<Vec<_>>(), ["/dev/vdb", "/dev/vdb1"]);
        assert_eq!(devices[0].children, ["/dev/vdb1"]);
        assert_eq!(devices[0].content.as_ref().unwrap().kind, ContentKind::Empty);
        let partition = devices[1].partition.as_ref().unwrap();
        assert_eq!((partition.number, partition.label.as_deref()), (Some(1), Some("ledger")));
        assert_eq!((devices[1].removable, devices[1].sector_size), (Some(true), Some(512)));
        assert_eq!(devices[1].content, None);
        assert_eq!(files.unread()[0].what, "/dev/vdb1");
    }
}
