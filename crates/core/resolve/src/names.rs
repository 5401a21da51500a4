use bradawl_facts::record::Device;

/// The patterns of names that follow the order of discovery: what comes
/// before the letters or numbers that change.
const BY_LETTER: [&str; 5] = ["sd", "hd", "vd", "xvd", "ubd"];
const BY_NUMBER: [&str; 8] = ["nvme", "mmcblk", "dm-", "md", "sr", "fd", "nbd", "loop"];

/// Whether the path is a kernel name that another boot may give to another
/// device: `/dev/sdb1`, `/dev/nvme1n1p2`, `/dev/dm-3`.
pub fn is_kernel_name(path: &str) -> bool {
    let Some(name) = path.strip_prefix("/dev/").filter(|n| !n.contains('/')) else { return false };
    let lettered = BY_LETTER.iter().filter_map(|p| name.strip_prefix(p)).any(|rest| {
        let digits = rest.trim_start_matches(|c: char| c.is_ascii_lowercase());
        digits.len() < rest.len() && digits.bytes().all(|b| b.is_ascii_digit())
    });
    let numbered = BY_NUMBER.iter().filter_map(|p| name.strip_prefix(p)).any(|rest| {
        rest.starts_with(|c: char| c.is_ascii_digit())
            && rest.bytes().all(|b| b.is_ascii_digit() || matches!(b, b'n' | b'p'))
    });
    lettered || numbered
}

/// The name to write for a device: the one that lasts longest and says most.
/// `None` when it has no name but the kernel's.
pub fn best_identity(device: &Device) -> Option<String> {
    let content = device.content.as_ref();
    if let Some(uuid) = content.and_then(|c| c.uuid.as_ref()) {
        return Some(format!("UUID={uuid}"));
    }
    if let Some(uuid) = device.partition.as_ref().and_then(|p| p.uuid.as_ref()) {
        return Some(format!("PARTUUID={uuid}"));
    }
    let links = device.links.as_deref().unwrap_or_default();
    let by = |folder: &str| links.iter().find(|l| l.starts_with(folder));
    if let Some(link) = by("/dev/disk/by-uuid/") {
        return Some(format!("UUID={}", &link["/dev/disk/by-uuid/".len()..]));
    }
    by("/dev/mapper/").or_else(|| by("/dev/disk/by-id/")).cloned()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Content, ContentKind, DeviceKind};

    #[test]
    fn tells_names_that_follow_order() {
        for name in [
            "sda",
            "sdb1",
            "sdaa12",
            "nvme0n1",
            "nvme1n1p2",
            "dm-3",
            "md127",
            "mmcblk0p1",
            "vdb",
            "xvda1",
            "sr0",
            "loop3",
        ] {
            assert!(is_kernel_name(&format!("/dev/{name}")), "{name}");
        }
        for name in ["mapper/vg-lv", "disk/by-uuid/ab", "md/backup", "sd", "zram0", "vg/lv", "sda1x", "root"]
        {
            assert!(!is_kernel_name(&format!("/dev/{name}")), "{name}");
        }
    }

    #[test]
    fn content_before_partition_before_hardware() {
        let mut device = Device::new("/dev/sdb1", DeviceKind::Partition);
        device.links = Some(vec!["/dev/disk/by-id/usb-Stick-part1".into()]);
        assert_eq!(best_identity(&device).as_deref(), Some("/dev/disk/by-id/usb-Stick-part1"));
        let mut content = Content::new(ContentKind::Filesystem, Some("vfat"));
        content.uuid = Some("4B1D-7E20".into());
        device.content = Some(content);
        assert_eq!(best_identity(&device).as_deref(), Some("UUID=4B1D-7E20"));
    }
}
