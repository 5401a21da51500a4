use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Layer, Misfit, misfits};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Initramfs, InitramfsImage};
use bradawl_facts::text::visible;

/// The initramfs image was built for another state of the host.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "initramfs-outdated",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "the initramfs image does not fit what root lies on today",
    matters: "What opens, assembles and activates the devices under root is packed into the initramfs when that is \
              built, with its own copies of crypttab, mdadm.conf and what LVM looks at. A change on the host reaches it when it is \
              built again, not before.",
    at_boot: "The initramfs looks for root as it knows it, gives up after its patience, and ends in its own shell.",
    fix: "Rebuild the image: update-initramfs -u, dracut --force, or mkinitcpio -P; then audit again.",
    rests_on: Basis::Documentation,
    verified: "Images of initramfs-tools 0.142 and 0.148 and of dracut 059 are read as their makers packed them. That \
               a boot ends where a part is absent is taken from their manual pages.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(image) = case.record.early.as_ref().and_then(|e| e.image.as_ref()) else { return };
    for misfit in misfits(case.record, case.index, case.requests) {
        let (message, why) = told(&visible(&image.path), &misfit);
        findings.push(finding(image, message, why));
    }
}

/// What does not fit, and what that may do.
fn told(image: &str, misfit: &Misfit) -> (String, &'static str) {
    match misfit {
        Misfit::Lacks(layer) => {
            let why = match layer {
                Layer::Crypt => {
                    "The boot may end before root is found: nothing in it opens an encrypted container."
                }
                Layer::Lvm => {
                    "The boot may end before root is found: nothing in it activates a volume group."
                }
                Layer::Arrays => "The boot may end before root is found: nothing in it assembles an array.",
            };
            (format!("{image} lacks {}, and root lies on what needs it.", layer.program()), why)
        }
        Misfit::ContainerUnknown(name) => {
            (format!("{image} does not know {}, under root.", visible(name)), CRYPTTAB_CHANGED)
        }
        Misfit::ContainerFrom { name, image: from, host } => {
            let (name, from, host) = (visible(name), visible(from), visible(host));
            (
                format!("{image} opens {name}, under root, from {from}; /etc/crypttab has {host}."),
                CRYPTTAB_CHANGED,
            )
        }
        Misfit::VolumeUnlisted { path } => (
            format!(
                "The devices file in {image} does not list {}, a physical volume under root.",
                visible(path)
            ),
            "The boot may end before root is found: LVM looks at nothing but what its devices file lists.",
        ),
        Misfit::TableNames { source, target } => (
            format!(
                "{image} has a table of its own: {} for {}, which no device has.",
                visible(source),
                visible(target)
            ),
            "The initramfs may wait for it, or end the boot.",
        ),
    }
}

const CRYPTTAB_CHANGED: &str =
    "The boot may end before root is found: crypttab was changed since it was built.";

fn finding(image: &InitramfsImage, message: String, why: &'static str) -> Finding {
    let remedy = match image.made_by {
        Some(Initramfs::Dracut) => "dracut --force",
        Some(Initramfs::Mkinitcpio) => "mkinitcpio -P",
        Some(Initramfs::TinyInitramfs) => "update-tirfs",
        Some(Initramfs::InitramfsTools | Initramfs::Without) | None => "update-initramfs -u",
    };
    let remedy = format!("Rebuild the initramfs: {remedy}");
    Finding { message, why: why.to_owned(), remedy, ..Finding::of(&RULE) }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{
        Content, ContentKind, CryptEntry, Device, DeviceKind, Early, EarlyLvm, Initramfs, InitramfsImage,
        RawBytes,
    };
    use bradawl_facts::testing::host;

    /// Messages for a root on LVM on an encrypted mirror.
    fn told(finds: &[&str], own: Option<(&str, &str)>) -> Vec<String> {
        let crypttab = own.map(|own| vec![entry(own)]);
        of_image(InitramfsImage {
            finds: finds.iter().map(|f| (*f).to_owned()).collect(),
            crypttab,
            ..InitramfsImage::default()
        })
    }

    fn entry((name, source): (&str, &str)) -> CryptEntry {
        CryptEntry { name: name.to_owned(), source: source.to_owned(), ..CryptEntry::default() }
    }

    fn of_image(image: InitramfsImage) -> Vec<String> {
        let mut record = host();
        let device = |path: &str, kind, parents: &[&str], content: Content| {
            let mut device = Device::new(path, kind);
            device.parents = parents.iter().map(|p| (*p).to_owned()).collect();
            device.content = Some(content);
            device
        };
        let luks =
            Content { uuid: Some("ab12".to_owned()), ..Content::new(ContentKind::Encrypted, Some("LUKS2")) };
        let root =
            Content { uuid: Some("4c0f".to_owned()), ..Content::new(ContentKind::Filesystem, Some("ext4")) };
        let member = || Content::new(ContentKind::RaidMember, None);
        record.devices = Some(vec![
            device("/dev/sda", DeviceKind::Disk, &[], member()),
            device("/dev/md0", DeviceKind::Raid, &["/dev/sda"], luks),
            device(
                "/dev/mapper/sealed",
                DeviceKind::Mapper,
                &["/dev/md0"],
                Content { uuid: Some("gr5igr".to_owned()), ..Content::new(ContentKind::LvmPv, None) },
            ),
            device("/dev/mapper/tide-root", DeviceKind::Mapper, &["/dev/mapper/sealed"], root),
        ]);
        let image = InitramfsImage {
            path: "/boot/initrd.img".to_owned(),
            made_by: Some(Initramfs::InitramfsTools),
            ..image
        };
        let crypttab = Some(vec![entry(("sealed", "UUID=ab12"))]);
        record.early = Some(Early { crypttab, image: Some(image), ..Early::default() });
        let all = findings_on(&record, "UUID=4c0f / ext4 defaults 0 1\n");
        all.into_iter().filter(|f| f.rule == "initramfs-outdated").map(|f| f.message).collect()
    }

    #[test]
    fn every_layer_under_root_is_in_the_image() {
        let all = ["arrays", "crypt", "lvm"];
        assert!(told(&all, Some(("sealed", "UUID=ab12"))).is_empty());
        assert!(told(&all, Some(("sealed", "/dev/md0"))).is_empty());
        assert_eq!(
            told(&["arrays", "crypt"], Some(("sealed", "UUID=ab12"))),
            ["/boot/initrd.img lacks lvm, and root lies on what needs it."]
        );
        assert_eq!(
            told(&["lvm", "crypt"], Some(("sealed", "UUID=ab12"))),
            ["/boot/initrd.img lacks mdadm, and root lies on what needs it."]
        );
        assert_eq!(told(&all, None), ["/boot/initrd.img does not know sealed, under root."]);
        assert_eq!(
            told(&all, Some(("sealed", "/dev/sda"))),
            ["/boot/initrd.img opens sealed, under root, from /dev/sda; /etc/crypttab has UUID=ab12."]
        );
    }

    #[test]
    fn its_own_copies_name_what_this_host_has() {
        let fits = || InitramfsImage {
            finds: ["arrays", "crypt", "lvm"].map(str::to_owned).to_vec(),
            crypttab: Some(vec![entry(("sealed", "UUID=ab12"))]),
            ..InitramfsImage::default()
        };
        let lvm = |uses_devices_file, devices: &[&str]| {
            let devices = Some(devices.iter().map(|d| (*d).to_owned()).collect());
            let lvm = Some(EarlyLvm { uses_devices_file, devices, ..EarlyLvm::default() });
            of_image(InitramfsImage { lvm, ..fits() })
        };
        assert!(lvm(None, &["gr5igr"]).is_empty() && lvm(Some(false), &[]).is_empty());
        let unlisted = "The devices file in /boot/initrd.img does not list /dev/mapper/sealed, a physical volume under \
                        root.";
        assert_eq!([lvm(None, &["another"]), lvm(Some(true), &[])].concat(), [unlisted, unlisted]);
        let table = |text: &str| of_image(InitramfsImage { table: Some(RawBytes::new(text)), ..fits() });
        assert!(
            table("UUID=4c0f /srv/kelp ext4\nUUID=0bad /srv/x ext4 nofail\n/dev/vdz /y ext4\n").is_empty()
        );
        assert_eq!(
            table("UUID=0bad /srv/kelp ext4\n"),
            ["/boot/initrd.img has a table of its own: UUID=0bad for /srv/kelp, which no device has."]
        );
    }
}
