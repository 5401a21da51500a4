//! The names under /dev that the device manager makes for devices.

use crate::files::Files;
use bradawl_facts::record::{Device, PathKind};
use std::collections::HashMap;

/// Directories of /dev without names of block devices.
const OTHER: [&str; 12] =
    ["fd", "char", "block", "pts", "shm", "mqueue", "hugepages", "bus", "input", "snd", "dri", "net"];
/// /dev/disk/by-id is two directories deep.
const DEPTH: usize = 3;

/// Adds the links that exist to the devices they lead to. Answers whether the
/// directories under /dev/disk are there, so that no link means no such name.
pub(crate) fn add(files: &Files, devices: Option<&mut Vec<Device>>) -> bool {
    let is_folder = |path: &str| files.stat(path).is_ok_and(|s| s.kind == PathKind::Directory);
    let complete = is_folder("/dev/disk/by-uuid") || is_folder("/dev/disk/by-id");
    let Some(devices) = devices else { return complete };
    let mut found: HashMap<String, Vec<String>> = HashMap::new();
    for (link, real) in files.links("/dev", DEPTH, &OTHER) {
        found.entry(real).or_default().push(link);
    }
    for device in devices.iter_mut() {
        let mut links = found.remove(&device.path).unwrap_or_default();
        links.extend(mapper_node(files, device).filter(|node| !links.contains(node)));
        links.sort();
        device.links = Some(links);
    }
    complete
}

/// The device mapper's own name for a device, where that is a node of its own
/// and no link.
fn mapper_node(files: &Files, device: &Device) -> Option<String> {
    let kernel = device.path.strip_prefix("/dev/")?;
    let name = files.value(&format!("/sys/class/block/{kernel}/dm/name"))?;
    let node = format!("/dev/mapper/{name}");
    files.exists(&node).then_some(node)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::DeviceKind;
    use std::os::unix::fs::symlink;

    #[test]
    fn finds_links_at_every_depth() {
        let dir = tempfile::tempdir().unwrap();
        let root = dir.path().canonicalize().unwrap();
        std::fs::create_dir_all(root.join("dev/disk/by-uuid")).unwrap();
        std::fs::create_dir_all(root.join("dev/hold")).unwrap();
        std::fs::write(root.join("dev/dm-0"), "").unwrap();
        std::fs::create_dir_all(root.join("sys/class/block/dm-0/dm")).unwrap();
        std::fs::create_dir_all(root.join("dev/mapper")).unwrap();
        std::fs::write(root.join("sys/class/block/dm-0/dm/name"), "hold-cargo\n").unwrap();
        std::fs::write(root.join("dev/mapper/hold-cargo"), "").unwrap();
        symlink("../../dm-0", root.join("dev/disk/by-uuid/ab-cd")).unwrap();
        symlink("../dm-0", root.join("dev/hold/cargo")).unwrap();
        symlink("/proc/self/fd", root.join("dev/fd")).unwrap();
        let mut devices = vec![Device::new("/dev/dm-0", DeviceKind::Mapper)];
        assert!(add(&Files::own(root), Some(&mut devices)));
        assert_eq!(
            devices[0].links.as_deref().unwrap(),
            ["/dev/disk/by-uuid/ab-cd", "/dev/hold/cargo", "/dev/mapper/hold-cargo"]
        );
    }
}
