//! The guest whose root lies on LVM on LUKS on a mirror (lab/make-stack.sh).

use super::{Boot, SHORT};
use bradawl_facts::record::{
    Content, ContentKind, CryptEntry, Device, DeviceKind, Initramfs, InitramfsImage, Record, VolumeGroup,
};

/// Its devices as far as the boot has the halves of the mirror, and what is packed
/// into its initramfs.
pub fn build(record: &mut Record, boot: &Boot) {
    let halves: Vec<&String> =
        boot.devices.iter().filter(|(_, words)| words.contains("mirror")).map(|(path, _)| path).collect();
    let uuid = |end: &str| Some(format!("{SHORT}{end}"));
    let mut devices: Vec<Device> =
        halves.iter().map(|path| Device::new(path.as_str(), DeviceKind::Disk)).collect();
    for half in &mut devices {
        let mut member = Content::new(ContentKind::RaidMember, Some("mdraid 1.2"));
        (member.uuid, member.level, member.raid_devices) = (uuid("5d00"), Some("raid1".to_owned()), Some(2));
        (half.content, half.children) = (Some(member), vec!["/dev/md127".to_owned()]);
    }
    let mut add = |path: &str, kind, parents: Vec<String>, content: Content, links: &[&str]| {
        let mut device = Device::new(path, kind);
        device.links = Some(links.iter().map(|l| (*l).to_owned()).collect());
        (device.parents, device.content) = (parents, Some(content));
        devices.push(device);
    };
    if !halves.is_empty() {
        let of =
            |kind, fstype: &str, end: &str| Content { uuid: uuid(end), ..Content::new(kind, Some(fstype)) };
        let mut member = Content::new(ContentKind::LvmPv, Some("LVM2 PV"));
        member.group = Some(VolumeGroup { name: "tide".to_owned(), ..VolumeGroup::default() });
        let parents = halves.iter().map(|p| (*p).clone()).collect();
        let above = |path: &str| vec![path.to_owned()];
        add(
            "/dev/md127",
            DeviceKind::Raid,
            parents,
            of(ContentKind::Encrypted, "LUKS2", "5d01"),
            &["/dev/md/hull"],
        );
        add("/dev/dm-0", DeviceKind::Mapper, above("/dev/md127"), member, &["/dev/mapper/sealed"]);
        let root = of(ContentKind::Filesystem, "ext4", "5d02");
        add(
            "/dev/dm-1",
            DeviceKind::Mapper,
            above("/dev/dm-0"),
            root,
            &["/dev/mapper/tide-root", "/dev/tide/root"],
        );
        let swap = of(ContentKind::Swap, "swap", "5d03");
        add(
            "/dev/dm-2",
            DeviceKind::Mapper,
            above("/dev/dm-0"),
            swap,
            &["/dev/mapper/tide-swap", "/dev/tide/swap"],
        );
    }
    record.devices = Some(devices);
    let asks = boot.maker.as_deref() == Some("dracut-stack-ask");
    let entry = CryptEntry {
        name: "sealed".to_owned(),
        source: format!("UUID={SHORT}5d01"),
        key: (!asks).then(|| "/etc/hull.key".to_owned()),
        options: "luks".to_owned(),
    };
    // Nobody was at the recording's console.
    record.supposed.unattended = asks;
    record.early.as_mut().unwrap().image = Some(InitramfsImage {
        path: "/boot/initrd.img".to_owned(),
        made_by: Some(Initramfs::Dracut),
        systemd: true,
        finds: ["arrays", "crypt", "lvm"].map(str::to_owned).to_vec(),
        crypttab: Some(vec![entry]),
        ..InitramfsImage::default()
    });
}
