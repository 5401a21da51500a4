//! What lies under root, and whether dracut is told to put it together: by words of
//! the kernel's command line or packed into the image (dracut.cmdline(7)).
//!
//! Recorded with dracut 059 and systemd in it (boots-stack.jsonl). Of an image that
//! was not read nothing is said: it may have words of its own.

use super::dracut::{patience, timeout};
use super::{GivenUp, StoppedBy};
use bradawl_facts::record::{
    CommandLine, ContentKind, Device, DeviceKind, Initramfs, InitramfsImage, Record,
};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};
use std::collections::BTreeSet;

/// Why root is not put together, or is waited for although it is.
pub(super) fn not_assembled(record: &Record, index: &Index<'_>) -> Option<GivenUp> {
    let image = record.early.as_ref()?.image.as_ref()?;
    (image.made_by == Some(Initramfs::Dracut)).then_some(())?;
    let words = Words { line: CommandLine::of(record), image };
    let root = words.line.last("root")?;
    let Resolution::Found(devices) = index.resolve(&Source::parse(root)) else { return None };
    let all = record.devices();
    let why = below(&words, index, devices.first()?).or_else(|| absent_layer(&words, index, all))?;
    Some(GivenUp {
        target: "/",
        why,
        stall_s: patience(record),
        entry: None,
        assumed: None,
        by: StoppedBy::Initramfs,
    })
}

/// Why the boot ends where nobody types the passphrase: root's device is not waited
/// for any longer.
pub(super) fn untyped(record: &Record, index: &Index<'_>) -> Option<GivenUp> {
    let limit = timeout(record)?;
    let why = format!("nobody types the passphrase of {}", visible(&asked_for(record, index)?));
    Some(GivenUp { target: "/", why, stall_s: limit, entry: None, assumed: None, by: StoppedBy::Initramfs })
}

/// The container under root whose passphrase somebody has to type, by its name: the
/// image's crypttab has no key for it. Only `rd.timeout=` ends that wait, `timeout=`
/// does not (recorded).
pub(super) fn asked_for(record: &Record, index: &Index<'_>) -> Option<String> {
    let image = record.early.as_ref()?.image.as_ref()?;
    (image.made_by == Some(Initramfs::Dracut)).then_some(())?;
    let root = CommandLine::of(record).last("root")?;
    let Resolution::Found(devices) = index.resolve(&Source::parse(root)) else { return None };
    let (mut seen, mut open) = (BTreeSet::new(), devices);
    while let Some(device) = open.pop() {
        if !seen.insert(device.path.as_str()) {
            continue;
        }
        let names = device.links.iter().flatten().chain([&device.path]);
        let opened = names.filter_map(|n| n.strip_prefix("/dev/mapper/"));
        let asks = |name: &&str| image.crypttab.iter().flatten().any(|e| e.name == **name && e.key.is_none());
        if let Some(name) = opened.into_iter().find(asks) {
            return Some(name.to_owned());
        }
        open.extend(device.parents.iter().filter_map(|path| index.device(path)));
    }
    None
}

/// Words of the command line with those that are packed into the image.
struct Words<'a> {
    line: CommandLine<'a>,
    image: &'a InitramfsImage,
}

impl<'a> Words<'a> {
    fn values(&self, name: &str) -> Vec<&'a str> {
        let packed = self.image.command_line.as_deref().unwrap_or_default().split_whitespace();
        let packed = packed.filter_map(|w| w.split_once('=')).filter(|(n, _)| *n == name).map(|(_, v)| v);
        let line = self.line.words().filter_map(|w| w.split_once('='));
        packed.chain(line.filter(|(n, _)| *n == name).map(|(_, v)| v)).collect()
    }

    /// A switch: `rd.auto`, `rd.auto=1`; the last counts.
    fn is_on(&self, name: &str, usual: bool) -> bool {
        let packed = self.image.command_line.as_deref().unwrap_or_default().split_whitespace();
        let all = packed.chain(self.line.words());
        let mut said = all.filter_map(|word| match word.split_once('=') {
            None if word == name => Some(true),
            Some((n, value)) if n == name => Some(!matches!(value, "0" | "no" | "off")),
            _ => None,
        });
        said.next_back().unwrap_or(usual)
    }

    fn takes_all(&self) -> bool {
        self.is_on("rd.auto", false)
    }
}

/// What under a device is not put together.
fn below(words: &Words<'_>, index: &Index<'_>, device: &Device) -> Option<String> {
    // A record may say that devices lie on each other in a circle.
    let (mut seen, mut open) = (BTreeSet::new(), vec![device]);
    while let Some(device) = open.pop() {
        if !seen.insert(device.path.as_str()) {
            continue;
        }
        if let Some(why) = layer(words, index, device) {
            return Some(why);
        }
        open.extend(device.parents.iter().filter_map(|path| index.device(path)));
    }
    None
}

/// Why a device itself is not put together.
fn layer(words: &Words<'_>, index: &Index<'_>, device: &Device) -> Option<String> {
    let parents = || device.parents.iter().filter_map(|path| index.device(path));
    match device.kind {
        DeviceKind::Raid => array(words, parents().next()?),
        DeviceKind::Mapper => parents().find_map(|parent| match parent.content.as_ref()?.kind {
            ContentKind::Encrypted => container(words, parent),
            ContentKind::LvmPv => volume(words, device, parent),
            _ => None,
        }),
        _ => None,
    }
}

/// Why an array is not assembled: only those that are named are, or all by `rd.auto`.
fn array(words: &Words<'_>, member: &Device) -> Option<String> {
    let uuid = member.content.as_ref()?.uuid.as_deref().map(bare)?;
    let named = words.values("rd.md.uuid").iter().any(|value| uuid.starts_with(&bare(value)));
    match () {
        () if !words.is_on("rd.md", true) => {
            Some("rd.md=0 has no array assembled, and root lies on one".to_owned())
        }
        () if named || words.takes_all() => None,
        () => Some("no rd.md.uuid= names the array that root lies on".to_owned()),
    }
}

/// Why a container is not opened: those of the image's crypttab are, or those alone
/// that are named.
fn container(words: &Words<'_>, holder: &Device) -> Option<String> {
    let uuid = holder.content.as_ref()?.uuid.as_deref()?;
    let mut named = words.values("rd.luks.uuid");
    let pairs = words.values("rd.luks.name");
    named.extend(pairs.iter().filter_map(|pair| Some(pair.split_once('=')?.0)));
    let is_it = |value: &&str| {
        let value = value.strip_prefix("luks-").unwrap_or(value).to_lowercase();
        !value.is_empty() && uuid.to_lowercase().starts_with(&value)
    };
    let listed = words.image.crypttab.iter().flatten().any(|entry| {
        let source = Source::parse(&entry.source);
        matches!(source, Source::Tag(_, ref value) if value.eq_ignore_ascii_case(uuid))
            || entry.source == holder.path
    });
    match () {
        () if !words.is_on("rd.luks", true) || !words.is_on("luks", true) => {
            Some("rd.luks=0 has no container opened, and root lies in one".to_owned())
        }
        () if named.iter().any(is_it) || words.takes_all() => None,
        () if named.is_empty() && listed => None,
        () => Some("no rd.luks.uuid= names the container that root lies in".to_owned()),
    }
}

/// Why a volume is not activated: all are, unless some are named.
fn volume(words: &Words<'_>, device: &Device, holder: &Device) -> Option<String> {
    let group = holder.content.as_ref()?.group.as_ref()?.name.as_str();
    let (volumes, groups) = (words.values("rd.lvm.lv"), words.values("rd.lvm.vg"));
    let is_it = |value: &&str| {
        let path = format!("/dev/{value}");
        device.links.iter().flatten().chain([&device.path]).any(|link| *link == path)
    };
    match () {
        () if !words.is_on("rd.lvm", true) => {
            Some("rd.lvm=0 has no volume group activated, and root lies on one".to_owned())
        }
        () if volumes.is_empty() && groups.is_empty() => None,
        () if groups.contains(&group) || volumes.iter().any(is_it) => None,
        () => Some("no rd.lvm.lv= or rd.lvm.vg= names the volume that root is".to_owned()),
    }
}

/// What is named and not there is waited for, whatever root is, where the image can
/// find such things (recorded with systemd in it and without).
fn absent_layer(words: &Words<'_>, index: &Index<'_>, devices: &[Device]) -> Option<String> {
    let finds = |what: &str| words.image.finds.iter().any(|f| f == what);
    let volume = absent_volume(words, index).filter(|_| finds("lvm") && words.is_on("rd.lvm", true));
    volume.or_else(|| {
        let of = |kind: ContentKind| {
            let held = devices.iter().filter_map(|d| d.content.as_ref()).filter(move |c| c.kind == kind);
            held.filter_map(|c| c.uuid.as_deref()).map(bare).collect::<Vec<_>>()
        };
        let absent = |word: &str, kind: ContentKind| {
            let uuids = of(kind);
            let is_there = |value: &&str| uuids.iter().any(|uuid| uuid.starts_with(&bare(value)));
            let value = words.values(word).into_iter().find(|value| !is_there(value))?;
            Some(format!("{word}={} names what is not there, and is waited for", visible(value)))
        };
        let array = || absent("rd.md.uuid", ContentKind::RaidMember).filter(|_| finds("arrays"));
        let container = || absent("rd.luks.uuid", ContentKind::Encrypted).filter(|_| finds("crypt"));
        array().or_else(container)
    })
}

/// The digits of a UUID alone.
fn bare(uuid: &str) -> String {
    let uuid = uuid.strip_prefix("luks-").unwrap_or(uuid);
    uuid.chars().filter(char::is_ascii_hexdigit).collect::<String>().to_lowercase()
}

fn absent_volume(words: &Words<'_>, index: &Index<'_>) -> Option<String> {
    let absent =
        |value: &&str| matches!(index.resolve(&Source::parse(&format!("/dev/{value}"))), Resolution::Absent);
    let volume = words.values("rd.lvm.lv").into_iter().find(absent)?;
    Some(format!("rd.lvm.lv={} names a volume that is not there, and is waited for", visible(volume)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Content, CryptEntry, Early, VolumeGroup};

    const ROOT: &str = "root=/dev/mapper/tide-root ro";

    fn device(path: &str, kind: DeviceKind, parent: Option<&str>, content: Content) -> Device {
        let mut device = Device::new(path, kind);
        device.parents = parent.map(str::to_owned).into_iter().collect();
        device.content = Some(content);
        device
    }

    /// A host whose root lies on LVM on LUKS on an array.
    fn host(line: &str, packed: Option<&str>, listed: bool) -> Record {
        let mut record = Record::new("sounding");
        let of = |kind, uuid: &str| Content { uuid: Some(uuid.to_owned()), ..Content::new(kind, None) };
        let mut volume = of(ContentKind::LvmPv, "pv");
        volume.group = Some(VolumeGroup { name: "tide".to_owned(), ..VolumeGroup::default() });
        let mut root = device(
            "/dev/mapper/tide-root",
            DeviceKind::Mapper,
            Some("/dev/mapper/sealed"),
            of(ContentKind::Filesystem, "4c0f"),
        );
        root.links = Some(vec!["/dev/tide/root".to_owned()]);
        record.devices = Some(vec![
            device("/dev/sda", DeviceKind::Disk, None, of(ContentKind::RaidMember, "0011-2233")),
            device("/dev/md0", DeviceKind::Raid, Some("/dev/sda"), of(ContentKind::Encrypted, "ab12-cd34")),
            device("/dev/mapper/sealed", DeviceKind::Mapper, Some("/dev/md0"), volume),
            root,
        ]);
        record.links_complete = Some(true);
        record.command_line = Some(format!("{ROOT} {line}"));
        let entry = CryptEntry {
            name: "sealed".to_owned(),
            source: "UUID=AB12-cd34".to_owned(),
            ..CryptEntry::default()
        };
        let image = InitramfsImage {
            made_by: Some(Initramfs::Dracut),
            finds: ["arrays", "crypt", "lvm"].map(str::to_owned).to_vec(),
            systemd: true,
            command_line: packed.map(str::to_owned),
            crypttab: listed.then(|| vec![entry]),
            ..InitramfsImage::default()
        };
        record.early = Some(Early { image: Some(image), ..Early::default() });
        record
    }

    fn why(record: &Record) -> Option<String> {
        not_assembled(record, &Index::new(record)).map(|given_up| given_up.why)
    }

    #[test]
    fn each_layer_needs_its_word() {
        const ALL: &str = "rd.md.uuid=0011:2233 rd.luks.uuid=luks-ab12 rd.lvm.lv=tide/root";
        for (line, listed, lacks) in [
            (ALL, false, None),
            ("rd.auto", false, None),
            ("rd.auto=1", false, None),
            ("rd.auto=0", false, Some("rd.luks.uuid")),
            ("", false, Some("rd.luks.uuid")),
            ("", true, Some("rd.md.uuid")),
            ("rd.md.uuid=0011:2233", true, None),
            ("rd.md.uuid=0011:2233", false, Some("rd.luks.uuid")),
            ("rd.md.uuid=ffff rd.luks.uuid=ab12", false, Some("rd.md.uuid")),
            // Once some are named, the list in the image does not count.
            ("rd.md.uuid=0011:2233 rd.luks.uuid=ffff", true, Some("rd.luks.uuid")),
            ("rd.md.uuid=0011:2233 rd.luks.name=ab12-cd34=other", false, None),
            ("rd.md.uuid=0011:2233 rd.lvm.vg=tide", true, None),
            ("rd.md.uuid=0011:2233 rd.lvm.vg=tied", true, Some("rd.lvm.vg")),
            ("rd.md.uuid=0011:2233 rd.lvm.lv=tide/rot", true, Some("rd.lvm.lv")),
            ("rd.auto rd.md=0", false, Some("rd.md=0")),
            ("rd.auto rd.luks=no", false, Some("rd.luks=0")),
            ("rd.auto luks=no", false, Some("rd.luks=0")),
            ("rd.auto rd.lvm=0", false, Some("rd.lvm=0")),
            ("rd.auto rd.lvm=0 rd.lvm=1", false, None),
        ] {
            let told = why(&host(line, None, listed));
            let fits = match (&told, lacks) {
                (Some(told), Some(word)) => told.contains(word),
                (None, None) => true,
                _ => false,
            };
            assert!(fits, "{line:?} {listed}: {told:?}");
        }
    }

    #[test]
    fn words_in_the_image_count_too() {
        let packed = Some("rd.md.uuid=0011:2233 rd.luks.uuid=ab12 rd.lvm.lv=tide/root");
        assert_eq!(why(&host("quiet", packed, false)), None);
        // A volume that is not there is waited for, whatever root is.
        let told = why(&host("rd.lvm.lv=tide/none", packed, false));
        assert!(
            told.as_ref().is_some_and(|t| t.contains("tide/none names a volume that is not there")),
            "{told:?}"
        );
    }

    #[test]
    fn nothing_is_said_of_images_that_were_not_read() {
        let mut record = host("", None, false);
        record.early.as_mut().unwrap().image = None;
        assert_eq!(why(&record), None);
        let mut record = host("", None, false);
        record.early.as_mut().unwrap().image.as_mut().unwrap().made_by = Some(Initramfs::InitramfsTools);
        assert_eq!(why(&record), None);
    }

    #[test]
    fn records_that_lie_about_circles_come_to_an_end() {
        let mut record = host("rd.auto", None, false);
        let all: Vec<String> = (0..400).map(|n| format!("/dev/sd{n}")).collect();
        let devices = record.devices.as_mut().unwrap();
        devices.extend(all.iter().map(|path| Device::new(path.as_str(), DeviceKind::Mapper)));
        let names: Vec<String> = devices.iter().map(|d| d.path.clone()).collect();
        devices.iter_mut().for_each(|device| device.parents.clone_from(&names));
        let _ = why(&record);
    }
}
