//! Whether the image that boots next fits what root lies on: what opens, assembles and
//! activates the layers under root is packed into it.

use super::super::forecast::{Outcome, Worst};
use super::super::request::Request;
use super::super::verdict::{BootVerdict, Ending};
use bradawl_facts::record::{ContentKind, CryptEntry, Device, DeviceKind, Initramfs, InitramfsImage, Record};
use bradawl_facts::table::Table;
use bradawl_resolve::{Index, Resolution, Source};
use std::collections::BTreeSet;

/// What the image lacks or has otherwise.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Misfit {
    /// A program that a layer under root needs.
    Lacks(Layer),
    /// A container under root that its own crypttab does not know.
    ContainerUnknown(String),
    /// A container under root that it opens from another device.
    ContainerFrom {
        /// Its name.
        name: String,
        /// What it is opened from, by the image.
        image: String,
        /// The same by the host's crypttab.
        host: String,
    },
    /// A physical volume under root that its own devices file of LVM does not list.
    VolumeUnlisted {
        /// The path of the device that holds it.
        path: String,
    },
    /// A device of its own table that this host does not have.
    TableNames {
        /// As it stands there.
        source: String,
        /// Where it is mounted.
        target: String,
    },
}

/// A kind of layer under root.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Layer {
    /// An encrypted container.
    Crypt,
    /// A volume of a group.
    Lvm,
    /// An array.
    Arrays,
}

impl Layer {
    const ALL: [Layer; 3] = [Layer::Crypt, Layer::Lvm, Layer::Arrays];

    /// The word for it in [`InitramfsImage::finds`].
    fn word(self) -> &'static str {
        match self {
            Layer::Crypt => "crypt",
            Layer::Lvm => "lvm",
            Layer::Arrays => "arrays",
        }
    }

    /// The program that makes it reachable.
    pub fn program(self) -> &'static str {
        match self {
            Layer::Crypt => "cryptsetup",
            Layer::Lvm => "lvm",
            Layer::Arrays => "mdadm",
        }
    }
}

/// All in which the image does not fit, what is under root first; empty where it was
/// not read.
pub fn misfits(record: &Record, index: &Index<'_>, requests: &[Request<'_>]) -> Vec<Misfit> {
    let Some(image) = record.early.as_ref().and_then(|e| e.image.as_ref()) else { return Vec::new() };
    let mut under = Under::default();
    for request in requests.iter().filter(|r| matches!(r.target.as_deref(), Some("/" | "/usr"))) {
        under.add_all(index, request.device());
    }
    let lacks = Layer::ALL.into_iter().filter(|layer| under.layers.contains(layer));
    let mut all: Vec<Misfit> =
        lacks.filter(|l| !image.finds.iter().any(|f| f == l.word())).map(Misfit::Lacks).collect();
    all.extend(container(record, index, image, &under));
    all.extend(unlisted(image, &under));
    all.extend(table_names(index, image));
    all
}

/// How the boot may end where the image does not fit: no boot of such was recorded, so that
/// nothing is said for certain.
pub(crate) fn may_end(record: &Record, index: &Index<'_>, requests: &[Request<'_>]) -> Option<Worst> {
    let first = misfits(record, index, requests).into_iter().next()?;
    let target = match &first {
        Misfit::TableNames { target, .. } => target.as_str(),
        _ => "/",
    };
    let line = requests.iter().find(|r| r.target.as_deref() == Some(target)).map(Request::line);
    let verdict =
        BootVerdict { early_s: 0.0, stall_s: Some(0.0), ending: Ending::Initramfs("/"), at_worst: None };
    let (outcome, lines) = (Outcome::NoRoot, line.into_iter().collect());
    Some(Worst { outcome, stall_s: Some(0.0), verdict, lines, asked: Vec::new() })
}

/// A container under root that the image does not know as crypttab does. Only
/// initramfs-tools has every container that it opens in its copy.
fn container(record: &Record, index: &Index<'_>, image: &InitramfsImage, under: &Under) -> Option<Misfit> {
    (image.made_by == Some(Initramfs::InitramfsTools)).then_some(())?;
    let own = image.crypttab.as_deref().unwrap_or_default();
    let host = record.early.as_ref()?.crypttab.as_deref()?;
    let of = |all: &[CryptEntry], name: &str| all.iter().find(|e| e.name == name).map(|e| e.source.clone());
    let differs = |entry: &&CryptEntry| {
        under.names.contains(&entry.name)
            && of(own, &entry.name).is_none_or(|source| !same(index, &source, &entry.source))
    };
    let CryptEntry { name, source, .. } = host.iter().find(differs)?.clone();
    Some(match of(own, &name) {
        None => Misfit::ContainerUnknown(name),
        Some(image) => Misfit::ContainerFrom { name, image, host: source },
    })
}

/// Whether two names are of one device, as far as the record tells.
fn same(index: &Index<'_>, one: &str, other: &str) -> bool {
    let device = |name: &str| match index.resolve(&Source::parse(name)) {
        Resolution::Found(devices) => devices.first().map(|d| d.path.as_str()),
        _ => None,
    };
    // initramfs-tools writes the UUID of whatever name crypttab has.
    one == other || device(one).is_none_or(|d| device(other).is_none_or(|o| d == o))
}

/// LVM looks at nothing else than what its devices file lists, where it has one and uses it
/// (lvmdevices(8)).
fn unlisted(image: &InitramfsImage, under: &Under) -> Option<Misfit> {
    let lvm = image.lvm.as_ref().filter(|lvm| lvm.uses_devices_file != Some(false))?;
    let listed = lvm.devices.as_ref()?;
    let (path, _) = under.volumes.iter().find(|(_, uuid)| !listed.contains(uuid))?;
    Some(Misfit::VolumeUnlisted { path: path.clone() })
}

/// What the image's own table waits for and nobody has; `nofail` and `noauto` hold nothing up.
fn table_names(index: &Index<'_>, image: &InitramfsImage) -> Option<Misfit> {
    let table = Table::parse(image.table.as_ref()?.bytes()?);
    let lost = |source: &str| {
        let source = Source::parse(source);
        matches!(source, Source::Tag(..)) && matches!(index.resolve(&source), Resolution::Absent)
    };
    let all = table.entries();
    let entry = all
        .iter()
        .find(|e| e.option("nofail").is_none() && e.option("noauto").is_none() && lost(&e.source))?;
    Some(Misfit::TableNames { source: entry.source.clone(), target: entry.target.clone() })
}

/// What lies under root.
#[derive(Default)]
struct Under {
    layers: BTreeSet<Layer>,
    /// Names of opened containers.
    names: BTreeSet<String>,
    /// Physical volumes: path and UUID.
    volumes: BTreeSet<(String, String)>,
}

impl Under {
    fn add_all(&mut self, index: &Index<'_>, device: Option<&Device>) {
        // A record may say that devices lie on each other in a circle.
        let (mut seen, mut open) = (BTreeSet::new(), Vec::from_iter(device));
        while let Some(device) = open.pop() {
            if seen.insert(device.path.as_str()) {
                self.add(index, device);
                open.extend(device.parents.iter().filter_map(|path| index.device(path)));
            }
        }
    }

    fn add(&mut self, index: &Index<'_>, device: &Device) {
        if device.kind == DeviceKind::Raid {
            self.layers.insert(Layer::Arrays);
        }
        for parent in device.parents.iter().filter_map(|path| index.device(path)) {
            let Some(content) = &parent.content else { continue };
            match content.kind {
                ContentKind::LvmPv => {
                    self.layers.insert(Layer::Lvm);
                    self.volumes.extend(content.uuid.clone().map(|uuid| (parent.path.clone(), uuid)));
                }
                ContentKind::Encrypted => {
                    self.layers.insert(Layer::Crypt);
                    let names = device.links.iter().flatten().chain([&device.path]);
                    self.names
                        .extend(names.filter_map(|n| n.strip_prefix("/dev/mapper/")).map(str::to_owned));
                }
                _ => {}
            }
        }
    }
}
