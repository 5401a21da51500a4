//! The guest of the recorded boots, as a record.

pub mod agreement;
pub mod early;
pub mod stack;

use bradawl_facts::record::{
    Content, ContentKind, CryptEntry, Device, DeviceKind, Early, Init, InitKind, Inside, LocalUnit,
    NamedUnit, PartitionFacts, PathFacts, PathKind, Programs, Record,
};
use bradawl_facts::table::Table;
use serde::Deserialize;
use std::collections::BTreeMap;

/// Where they are, also for tests of the crates above.
const FIXTURES: &str = concat!(env!("CARGO_MANIFEST_DIR"), "/../judgement/tests/fixtures");
const SHORT: &str = "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a";

/// One recorded boot.
#[derive(Default, Deserialize)]
pub struct Boot {
    pub id: String,
    pub init: String,
    pub table: String,
    pub devices: BTreeMap<String, String>,
    pub files: BTreeMap<String, String>,
    pub root: Option<String>,
    pub outcome: String,
    pub waits: Vec<f64>,
    pub login_s: Option<f64>,
    pub emergency_s: Option<f64>,
    pub units: BTreeMap<String, String>,
    /// Words of the kernel's command line beside root and ro.
    #[serde(default)]
    pub cmdline: String,
    /// Whether local-fs.target was reached, where that was recorded.
    #[serde(default)]
    pub local_fs: Option<bool>,
    /// How long the mount of each failed unit was tried.
    #[serde(default)]
    pub mounting_s: BTreeMap<String, f64>,
    /// The initramfs, where it is not the usual one.
    #[serde(default)]
    pub maker: Option<String>,
    /// Active swap areas, by path.
    #[serde(default)]
    pub swapped: Vec<String>,
    /// Source, target, type, options.
    #[serde(default)]
    pub mounted: Vec<String>,
}

impl Boot {
    /// The table as its bytes; JSON has no others than UTF-8.
    pub fn bytes(&self) -> Vec<u8> {
        match self.id.ends_with("latin1") {
            true => self.table.chars().map(|c| u8::try_from(c).unwrap()).collect(),
            false => self.table.clone().into_bytes(),
        }
    }
}

/// How many boots each set has, as docs/model/verified.md tells: a recording that is
/// cut short must not pass.
pub const SETS: [(&str, usize); 27] = [
    ("fuse", 100),
    ("252", 127),
    ("more", 216),
    ("crypt", 23),
    ("247", 37),
    ("257", 37),
    ("262", 37),
    ("sysv", 16),
    ("paths", 24),
    ("paths-own", 88),
    ("behind", 60),
    ("units", 29),
    ("units-257", 13),
    ("words", 74),
    ("words-257", 65),
    ("crypt-more", 14),
    ("inits", 128),
    ("dracut", 95),
    ("busybox", 33),
    ("stack", 30),
    ("fresh", 48),
    ("conditions", 26),
    ("twice", 24),
    ("mixed", 72),
    ("dots", 38),
    ("third", 62),
    ("mixed-262", 20),
];
/// The same for boots with an initramfs that reads the table.
pub const EARLY: usize = 112;

/// All boots of one init system.
pub fn boots(name: &str) -> Vec<Boot> {
    let path = format!("{FIXTURES}/boots-{name}.jsonl");
    let text = std::fs::read_to_string(path).unwrap();
    let boots: Vec<Boot> = text.lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    assert_eq!(SETS.iter().find(|(set, _)| *set == name).map(|(_, n)| *n), Some(boots.len()), "{name}");
    boots
}

/// What a survey of the guest would have found.
pub fn record(boot: &Boot) -> Record {
    let mut record = Record::new("sounding");
    let systemd = boot.init.strip_prefix("systemd ");
    record.host.kernel = Some("6.1.0".to_owned());
    record.host.architecture = Some("x86_64".to_owned());
    let kind = if systemd.is_some() { InitKind::Systemd } else { InitKind::Sysvinit };
    let seconds = |key: &str| {
        let conf = boot.files.iter().filter(|(path, _)| path.starts_with("/etc/systemd/system.conf.d/"));
        conf.flat_map(|(_, text)| text.lines()).find_map(|l| l.strip_prefix(key)?.parse().ok())
    };
    record.host.init = Some(Init {
        running: Some(true),
        device_timeout_s: seconds("DefaultDeviceTimeoutSec=").filter(|s: &f64| s.is_finite()),
        waits_endlessly: seconds("DefaultDeviceTimeoutSec=").is_some_and(f64::is_infinite),
        start_timeout_s: seconds("DefaultTimeoutStartSec="),
        ..Init::new(kind, systemd)
    });
    let root = boot.root.clone().unwrap_or_else(|| format!("UUID={SHORT}0001"));
    record.command_line = Some(format!("root={root} ro {}", boot.cmdline).trim_end().to_owned());
    record.links_complete = Some(true);
    let mut devices = Vec::new();
    for (path, words) in &boot.devices {
        add_device(&mut devices, path, words);
    }
    // What was read of the same disks by the program itself says more.
    let survey = from_survey();
    let read: Vec<&Content> = survey.devices.iter().flatten().filter_map(|d| d.content.as_ref()).collect();
    for content in devices.iter_mut().filter_map(|d| d.content.as_mut()).filter(|c| c.uuid.is_some()) {
        let same = read.iter().find(|c| c.uuid == content.uuid && c.kind == content.kind);
        content.clone_from(same.unwrap_or(&&content.clone()));
    }
    record.devices = Some(devices);
    record.filesystems = from_survey().filesystems;
    record.programs = Some(Programs {
        mount_helpers: Vec::new(),
        checkers: ["ext2", "ext3", "ext4", "vfat", "xfs", "btrfs"].map(String::from).to_vec(),
        quota: None,
        ..Programs::default()
    });
    let crypttab = boot.files.get("/etc/crypttab").map(|text| text.lines().filter_map(crypt_entry).collect());
    record.early = crypttab.map(|entries| Early { crypttab: Some(entries), ..Early::default() });
    record.paths = paths();
    let hold = boot.devices.iter().find(|(_, words)| words.contains("holds swapfile"));
    record.inside = hold.map(|(path, _)| inside(path)).into_iter().collect();
    record.services = systemd.map(|_| services(boot));
    record.units = systemd.map(|_| boot.files.iter().filter_map(|(p, text)| unit(p, text)).collect());
    record
}

fn from_survey() -> Record {
    let path = format!("{FIXTURES}/guest-252.json");
    Record::from_json(&std::fs::read(path).unwrap()).unwrap()
}

/// The record that the program took inside the guest, with all of its disks;
/// those that a boot did not have are taken out, and the others get the names
/// they had in it.
pub fn surveyed(boot: &Boot) -> Record {
    let mut record = from_survey();
    let mut names: Vec<(String, String)> = Vec::new();
    for (path, words) in &boot.devices {
        names.push((format!("/dev/ubd{}", letter(words)), path.clone()));
    }
    let renamed = |old: &str| {
        let mapped = names.iter().find(|(from, _)| old.starts_with(from.as_str()));
        mapped.map(|(from, to)| old.replacen(from.as_str(), to, 1))
    };
    let mut devices = record.devices.take().unwrap();
    devices.retain_mut(|device| {
        let all: Vec<String> = device.parents.iter().filter_map(|p| renamed(p)).collect();
        let above = device.path.starts_with("/dev/dm-");
        if above && all.is_empty() {
            return false;
        }
        device.parents = all;
        device.children = device.children.iter().filter_map(|c| renamed(c).or(Some(c.clone()))).collect();
        match renamed(&device.path) {
            Some(path) => device.path = path,
            None => return above,
        }
        true
    });
    record.devices = Some(devices);
    // The recording put the table in place after the initramfs had looked for
    // /usr in it.
    record.early.as_mut().unwrap().initramfs = None;
    let root = boot.root.clone().unwrap_or_else(|| format!("UUID={SHORT}0001"));
    record.command_line = Some(format!("root={root} ro"));
    record.units = Some(boot.files.iter().filter_map(|(p, text)| unit(p, text)).collect());
    record
}

/// The letter of the disk that these words describe.
fn letter(words: &str) -> char {
    const DISKS: [(&str, char); 15] = [
        ("\"oldie\"", 'l'),
        ("the root disk", 'a'),
        ("\"grain\"", 'b'),
        ("\"reserve\"", 'c'),
        ("\"silo\"", 'd'),
        ("\"press room\"", 'e'),
        ("EFISYS", 'f'),
        ("a clone of g", 'h'),
        ("\"twin\"", 'g'),
        ("all zeros", 'i'),
        ("\"cracked\"", 'j'),
        ("GPT", 'k'),
        ("\"hold two\"", 'o'),
        ("LUKS2", 'm'),
        ("LVM", 'n'),
    ];
    DISKS.iter().find(|(mark, _)| words.contains(mark)).unwrap().1
}

/// An entry of crypttab(5).
fn crypt_entry(line: &str) -> Option<CryptEntry> {
    let mut words = line.split(' ').map(str::to_owned);
    let (name, source, key) = (words.next()?, words.next()?, words.next()?);
    Some(CryptEntry {
        name,
        source,
        key: Some(key).filter(|k| k != "none"),
        options: words.next().unwrap_or_default(),
    })
}

/// What the survey sees inside the disk that holds files.
fn inside(device: &str) -> Inside {
    let file = |path: &str, kind: ContentKind, fstype: Option<&str>| PathFacts {
        size: Some(16 << 20),
        content: Some(Content::new(kind, fstype)),
        ..PathFacts::new(path, PathKind::File)
    };
    let mut paths = vec![
        file("/disk.img", ContentKind::Filesystem, Some("ext4")),
        file("/swapfile", ContentKind::Swap, Some("swap")),
        file("/afile", ContentKind::Unknown, None),
    ];
    paths.extend(["/a", "/a/b", "/up", "/work"].map(|p| PathFacts::new(p, PathKind::Directory)));
    paths.extend(["/none", "/new"].map(|p| PathFacts::new(p, PathKind::Absent)));
    Inside { device: device.to_owned(), subvolume: None, paths }
}

/// The units that entries name; the guest has none of them by itself.
fn services(boot: &Boot) -> Vec<NamedUnit> {
    let table = Table::parse(boot.bytes());
    let options = table.entries().into_iter().flat_map(|e| e.options);
    let named = options.filter(|o| o.name.starts_with("x-systemd.")).filter_map(|o| o.value);
    let local =
        boot.files.iter().filter_map(|(p, text)| unit(p, text)).filter(|u| u.name.ends_with(".mount"));
    let tied = local.flat_map(|u| [u.requires, u.wants, u.after].concat());
    // As the survey does, with what the command line starts.
    let goal = boot.cmdline.split(' ').filter_map(|w| w.strip_prefix("systemd.unit="));
    let goal = goal.filter(|unit| *unit == "gauges.target").map(str::to_owned);
    named
        .chain(tied)
        .filter(|v| v.ends_with(".service"))
        .chain(goal)
        .map(|name| {
            let file = boot.files.get(&format!("/etc/systemd/system/{name}"));
            let early = file.is_some_and(|text| text.contains("DefaultDependencies=no"));
            let masked = file.is_some_and(|text| text.trim().is_empty());
            NamedUnit { found: file.is_some(), masked, early, name }
        })
        .collect()
}

/// A unit file among the files put in place.
fn unit(path: &str, text: &str) -> Option<LocalUnit> {
    let name = path.strip_prefix("/etc/systemd/system/")?;
    let drop_in = name.split_once(".d/").map(|(unit, _)| unit);
    let name = drop_in.unwrap_or(name);
    let masked = drop_in.is_none() && text.trim().is_empty();
    let path = path.to_owned();
    let mut unit = LocalUnit {
        name: name.to_owned(),
        path,
        masked,
        drop_ins: drop_in.is_some(),
        ..LocalUnit::default()
    };
    unit.read(text);
    Some(unit)
}

fn add_device(devices: &mut Vec<Device>, path: &str, words: &str) {
    let words = words.trim_start_matches("the root disk: ");
    if let Some(partitions) = words.strip_prefix("GPT: ") {
        devices.push(Device {
            size: Some(100 << 20),
            children: vec![format!("{path}1")],
            ..Device::new(path, DeviceKind::Disk)
        });
        for part in partitions.split("; ") {
            let (number, what) = part.split_once(' ').unwrap();
            let mut device = Device::new(format!("{path}{number}"), DeviceKind::Partition);
            device.content = Some(content(what.split(" PARTLABEL").next().unwrap()));
            device.partition = Some(PartitionFacts {
                number: number.parse().ok(),
                uuid: Some(after(what, "PARTUUID ")),
                label: Some(quoted(what, "PARTLABEL \"")),
                ..PartitionFacts::default()
            });
            devices.push(device);
        }
        return;
    }
    if let Some(volume) = words.strip_prefix("LVM physical volume ") {
        let mut member = Device::new(path, DeviceKind::Disk);
        let mut held = Content::new(ContentKind::LvmPv, Some("LVM2 PV"));
        held.uuid = volume.split(',').next().map(str::to_owned);
        member.content = Some(held);
        let (_, inner) = volume.split_once(": ").unwrap();
        let mut lv = Device::new("/dev/dm-0", DeviceKind::Mapper);
        lv.content = Some(content(inner));
        lv.links = Some(vec!["/dev/mapper/hold--a-cargo--main".into(), "/dev/hold-a/cargo-main".into()]);
        member.children = vec![lv.path.clone()];
        lv.parents = vec![path.to_owned()];
        devices.extend([member, lv]);
        return;
    }
    let mut device = Device::new(path, DeviceKind::Disk);
    device.size = words.starts_with("all zeros").then_some(24 << 20);
    device.content = Some(content(words));
    devices.push(device);
}

/// `ext4 label "grain" UUID …b00b` and its kin.
fn content(words: &str) -> Content {
    let fstype = words.split([' ', ',']).next().unwrap();
    let mut content = match fstype {
        "all" => return Content::new(ContentKind::Empty, None),
        "swap" => Content::new(ContentKind::Swap, Some("swap")),
        "FAT" => Content::new(ContentKind::Filesystem, Some("vfat")),
        "LUKS2" => Content::new(ContentKind::Encrypted, Some("LUKS2")),
        other => Content::new(ContentKind::Filesystem, Some(other)),
    };
    // As mkfs.btrfs made it.
    content.subvolumes = words.starts_with("btrfs").then(Vec::new);
    if words.contains("label \"") {
        content.label = Some(quoted(words, "label \""));
    } else if fstype == "FAT" {
        content.label = Some(after(words, "label "));
    }
    if words.contains("error state") {
        content.state = Some("errors".to_owned());
    }
    content.uuid = ["UUID ", "serial "]
        .iter()
        .find(|k| words.contains(**k))
        .map(|k| after(words, k).replace('…', SHORT));
    content
}

fn after(text: &str, key: &str) -> String {
    let rest = text.split_once(key).unwrap().1;
    rest.split([' ', ',', ';']).next().unwrap().to_owned()
}

fn quoted(text: &str, key: &str) -> String {
    text.split_once(key).unwrap().1.split('"').next().unwrap().to_owned()
}

/// The directories and files that the guest's root disk has.
fn paths() -> Vec<PathFacts> {
    let mut paths: Vec<PathFacts> = [
        "/srv/grain",
        "/srv/silo",
        "/srv/press",
        "/srv/lost",
        "/srv/full",
        "/srv/twin",
        "/srv/rev",
        "/srv/deep/inner",
        "/home",
        "/usr",
        "/tmp",
        "/mnt",
        "/boot/efi",
    ]
    .map(|p| PathFacts::new(p, PathKind::Directory))
    .to_vec();
    paths.push(PathFacts::new("/srv/afile", PathKind::File));
    paths.extend(["/none", "/nowhere"].map(|path| PathFacts::new(path, PathKind::Absent)));
    paths.push(PathFacts { size: Some(99), ..PathFacts::new("/etc/fstab", PathKind::File) });
    for path in paths.iter_mut().filter(|p| p.path == "/srv/lost") {
        path.entries = Some(0);
    }
    for path in paths.iter_mut().filter(|p| p.path == "/usr") {
        path.entries = Some(11);
    }
    paths.push(PathFacts {
        canonical: Some("/srv/grain".into()),
        ..PathFacts::new("/srv/link", PathKind::Directory)
    });
    paths.push(PathFacts {
        canonical: Some("/srv/grain/inner".into()),
        ..PathFacts::new("/srv/link/inner", PathKind::Absent)
    });
    paths.push(PathFacts::new("/etc/none.key", PathKind::Absent));
    paths.push(PathFacts {
        canonical: Some("/run/gauges".into()),
        ..PathFacts::new("/var/run/gauges", PathKind::Absent)
    });
    let swap = |path: &str, kind: ContentKind, allocated: u64| PathFacts {
        size: Some(32 << 20),
        allocated: Some(allocated),
        content: Some(Content::new(kind, None)),
        ..PathFacts::new(path, PathKind::File)
    };
    paths.push(swap("/var/swap/good", ContentKind::Swap, 32 << 20));
    paths.push(swap("/var/swap/loose", ContentKind::Swap, 32 << 20));
    paths.push(swap("/var/swap/holes", ContentKind::Swap, 1 << 20));
    paths.push(swap("/var/swap/nosig", ContentKind::Empty, 32 << 20));
    paths.push(PathFacts::new("/var/swap/absent", PathKind::Absent));
    for (link, to) in [("/var/run", "/run"), ("/var/lock", "/run/lock")] {
        let canonical = Some(to.to_owned());
        paths.push(PathFacts { canonical, ..PathFacts::new(link, PathKind::Directory) });
    }
    for absent in ["/srv/none", "/srv/none/up", "/srv/none/work", "/srv/full/none.img"] {
        paths.push(PathFacts::new(absent, PathKind::Absent));
    }
    paths.push(PathFacts::new("/sys/fs/tide", PathKind::Absent));
    paths
}
