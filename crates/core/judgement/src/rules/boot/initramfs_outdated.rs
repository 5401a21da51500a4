use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::{ContentKind, CryptEntry, Device, DeviceKind, Initramfs, InitramfsImage};
use bradawl_facts::text::visible;
use bradawl_resolve::{Resolution, Source};
use std::collections::BTreeSet;

/// The initramfs image was built for another state of the host.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "initramfs-outdated",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "the initramfs image does not fit what root lies on today",
    matters: "What opens, assembles and activates the devices under root is packed into the initramfs when that is \
              built, with its own copies of crypttab and mdadm.conf. A change on the host reaches it when it is \
              built again, not before.",
    at_boot: "The initramfs looks for root as it knows it, gives up after its patience, and ends in its own shell.",
    fix: "Rebuild the image: update-initramfs -u, dracut --force, or mkinitcpio -P; then audit again.",
    rests_on: Basis::Documentation,
    verified: "Images of initramfs-tools 0.142 and 0.148 and of dracut 059 are read as their makers packed them. That \
               a boot ends where a part is absent is taken from their manual pages.",
    check,
};

/// What a layer under root needs in the image, and what that does.
const LAYERS: [(&str, &str, &str); 3] = [
    ("crypt", "cryptsetup", "nothing in it opens an encrypted container"),
    ("lvm", "lvm", "nothing in it activates a volume group"),
    ("arrays", "mdadm", "nothing in it assembles an array"),
];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(image) = case.record.early.as_ref().and_then(|e| e.image.as_ref()) else { return };
    let mut layers = Layers::default();
    for request in case.requests.iter().filter(|r| matches!(r.target.as_deref(), Some("/" | "/usr"))) {
        layers.below(case, request.device());
    }
    for (word, program, lacks) in LAYERS {
        if layers.kinds.contains(word) && !image.finds.iter().any(|f| f == word) {
            let told = format!("{} lacks {program}, and root lies on what needs it.", visible(&image.path));
            findings.push(finding(image, told, &format!("The boot may end before root is found: {lacks}.")));
        }
    }
    findings.extend(other_containers(case, image, &layers));
}

/// Containers under root that the image does not know as crypttab does. Only
/// initramfs-tools has every container that it opens in its copy.
fn other_containers(case: &Case<'_>, image: &InitramfsImage, layers: &Layers) -> Option<Finding> {
    (image.made_by == Some(Initramfs::InitramfsTools)).then_some(())?;
    let own = image.crypttab.as_deref().unwrap_or_default();
    let host = case.record.early.as_ref()?.crypttab.as_deref()?;
    let of = |all: &[CryptEntry], name: &str| all.iter().find(|e| e.name == name).map(|e| e.source.clone());
    let differs = |entry: &&CryptEntry| {
        layers.names.contains(&entry.name)
            && of(own, &entry.name).is_none_or(|source| !same(case, &source, &entry.source))
    };
    let entry = host.iter().find(differs)?;
    let name = visible(&entry.name);
    let told = match of(own, &entry.name) {
        None => format!("{} does not know {name}, under root.", visible(&image.path)),
        Some(source) => format!(
            "{} opens {name}, under root, from {}; /etc/crypttab has {}.",
            visible(&image.path),
            visible(&source),
            visible(&entry.source)
        ),
    };
    Some(finding(
        image,
        told,
        "The boot may end before root is found: crypttab was changed since it was built.",
    ))
}

/// Whether two names are of one device, as far as the record tells.
fn same(case: &Case<'_>, one: &str, other: &str) -> bool {
    let device = |name: &str| match case.index.resolve(&Source::parse(name)) {
        Resolution::Found(devices) => devices.first().map(|d| d.path.as_str()),
        _ => None,
    };
    // initramfs-tools writes the UUID of whatever name crypttab has.
    one == other || device(one).is_none_or(|d| device(other).is_none_or(|o| d == o))
}

fn finding(image: &InitramfsImage, message: String, why: &str) -> Finding {
    let remedy = match image.made_by {
        Some(Initramfs::Dracut) => "dracut --force",
        Some(Initramfs::Mkinitcpio) => "mkinitcpio -P",
        Some(Initramfs::TinyInitramfs) => "update-tirfs",
        Some(Initramfs::InitramfsTools | Initramfs::Without) | None => "update-initramfs -u",
    };
    let remedy = format!("Rebuild the initramfs: {remedy}");
    Finding { message, why: why.to_owned(), remedy, ..Finding::of(&RULE) }
}

/// What lies under a device.
#[derive(Default)]
struct Layers {
    /// Words of [`InitramfsImage::finds`].
    kinds: BTreeSet<&'static str>,
    /// Names of opened containers.
    names: BTreeSet<String>,
}

impl Layers {
    fn below(&mut self, case: &Case<'_>, device: Option<&Device>) {
        // A record may say that devices lie on each other in a circle.
        let (mut seen, mut open) = (BTreeSet::new(), Vec::from_iter(device));
        while let Some(device) = open.pop() {
            if seen.insert(device.path.as_str()) {
                self.add(case, device);
                open.extend(device.parents.iter().filter_map(|path| case.index.device(path)));
            }
        }
    }

    fn add(&mut self, case: &Case<'_>, device: &Device) {
        if device.kind == DeviceKind::Raid {
            self.kinds.insert("arrays");
        }
        for parent in device.parents.iter().filter_map(|path| case.index.device(path)) {
            match parent.content.as_ref().map(|c| c.kind) {
                Some(ContentKind::LvmPv) => {
                    self.kinds.insert("lvm");
                }
                Some(ContentKind::Encrypted) => {
                    self.kinds.insert("crypt");
                    let names = device.links.iter().flatten().chain([&device.path]);
                    self.names
                        .extend(names.filter_map(|n| n.strip_prefix("/dev/mapper/")).map(str::to_owned));
                }
                _ => {}
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{
        Content, ContentKind, CryptEntry, Device, DeviceKind, Early, Initramfs, InitramfsImage,
    };
    use bradawl_facts::testing::host;

    /// Messages for a root on LVM on an encrypted mirror.
    fn told(finds: &[&str], own: Option<(&str, &str)>) -> Vec<String> {
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
                Content::new(ContentKind::LvmPv, None),
            ),
            device("/dev/mapper/tide-root", DeviceKind::Mapper, &["/dev/mapper/sealed"], root),
        ]);
        let entry = |(name, source): (&str, &str)| CryptEntry {
            name: name.to_owned(),
            source: source.to_owned(),
            ..CryptEntry::default()
        };
        let image = InitramfsImage {
            path: "/boot/initrd.img".to_owned(),
            made_by: Some(Initramfs::InitramfsTools),
            finds: finds.iter().map(|f| (*f).to_owned()).collect(),
            crypttab: own.map(|own| vec![entry(own)]),
            ..InitramfsImage::default()
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
}
