//! A host whose disks the kernel names otherwise.

use bradawl_facts::record::{Device, DeviceKind, Record, Transport};

/// Gives the names of the disks on USB to each other in the reverse order, with
/// those of their partitions. `None` when the record knows fewer than two; it is
/// then as it was.
pub fn reorder_usb(record: &mut Record) -> Option<()> {
    let devices = record.devices.as_mut()?;
    let usb = |d: &&Device| d.kind == DeviceKind::Disk && d.transport == Some(Transport::Usb);
    let mut names: Vec<String> = devices.iter().filter(usb).map(|d| d.path.clone()).collect();
    names.sort();
    if names.len() < 2 {
        return None;
    }
    let new = |path: &str| -> String {
        // A partition's name begins with its disk's.
        let disk = names.iter().position(|n| {
            path.strip_prefix(n.as_str()).is_some_and(|rest| rest.chars().all(|c| c.is_ascii_digit()))
        });
        match disk {
            Some(n) => format!("{}{}", names[names.len() - 1 - n], &path[names[n].len()..]),
            None => path.to_owned(),
        }
    };
    rename(devices, new);
    Some(())
}

/// Gives devices other paths.
pub fn rename(devices: &mut [Device], new: impl Fn(&str) -> String) {
    for device in devices {
        device.path = new(&device.path);
        device.parents.iter_mut().chain(&mut device.children).for_each(|path| *path = new(path));
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_change_places_with_all_that_is_on_them() {
        let mut record = Record::new("kelp");
        let disk = |path: &str, transport| {
            let mut disk = Device::new(path, DeviceKind::Disk);
            disk.transport = Some(transport);
            disk
        };
        let mut part = Device::new("/dev/sdb1", DeviceKind::Partition);
        part.parents = vec!["/dev/sdb".into()];
        let all = [("/dev/sda", Transport::Ata), ("/dev/sdb", Transport::Usb), ("/dev/sdc", Transport::Usb)];
        let mut devices: Vec<Device> = all.into_iter().map(|(path, by)| disk(path, by)).collect();
        devices.push(part);
        record.devices = Some(devices);
        assert_eq!(reorder_usb(&mut record), Some(()));
        let names: Vec<&str> = record.devices().iter().map(|d| d.path.as_str()).collect();
        assert_eq!(names, ["/dev/sda", "/dev/sdc", "/dev/sdb", "/dev/sdc1"]);
        assert_eq!(record.devices()[3].parents, ["/dev/sdc"]);
        let mut one = Record::new("kelp");
        one.devices = Some(vec![disk("/dev/sdb", Transport::Usb)]);
        assert_eq!(reorder_usb(&mut one), None);
    }
}
