//! What lies under root, and whether dracut is told to put it together: by words of
//! the kernel's command line or packed into the image (dracut.cmdline(7)).
//!
//! Recorded with dracut 059 and systemd in it (boots-stack.jsonl). Of an image that
//! was not read nothing is said: it may have words of its own.

use super::GivenUp;
use super::dracut::patience;
use bradawl_facts::record::{
    CommandLine, ContentKind, Device, DeviceKind, Initramfs, InitramfsImage, Record,
};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};

/// Stacks are not deeper.
const MAX_DEPTH: usize = 16;

/// Why root is not put together, or is waited for although it is.
pub(super) fn not_assembled(record: &Record, index: &Index<'_>) -> Option<GivenUp> {
    let image = record.early.as_ref()?.image.as_ref()?;
    (image.made_by == Some(Initramfs::Dracut)).then_some(())?;
    let words = Words { line: CommandLine::of(record), image };
    let root = words.line.last("root")?;
    let Resolution::Found(devices) = index.resolve(&Source::parse(root)) else { return None };
    let why = below(&words, index, devices.first()?, 0).or_else(|| absent_volume(&words, index))?;
    Some(GivenUp { target: "/", why, stall_s: patience(record), entry: None, assumed: None })
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
        let said = all.filter_map(|word| match word.split_once('=') {
            None if word == name => Some(true),
            Some((n, value)) if n == name => Some(!matches!(value, "0" | "no" | "off")),
            _ => None,
        });
        said.last().unwrap_or(usual)
    }

    fn takes_all(&self) -> bool {
        self.is_on("rd.auto", false)
    }
}

/// What under a device is not put together.
fn below(words: &Words<'_>, index: &Index<'_>, device: &Device, depth: usize) -> Option<String> {
    if depth > MAX_DEPTH {
        return None;
    }
    let parents = || device.parents.iter().filter_map(|path| index.device(path));
    let own = match device.kind {
        DeviceKind::Raid => array(words, parents().next()?),
        DeviceKind::Mapper => parents().find_map(|parent| match parent.content.as_ref()?.kind {
            ContentKind::Encrypted => container(words, parent),
            ContentKind::LvmPv => volume(words, device, parent),
            _ => None,
        }),
        _ => None,
    };
    own.or_else(|| parents().find_map(|parent| below(words, index, parent, depth + 1)))
}

/// Why an array is not assembled: only those that are named are, or all by `rd.auto`.
fn array(words: &Words<'_>, member: &Device) -> Option<String> {
    let plain = |uuid: &str| uuid.chars().filter(char::is_ascii_hexdigit).collect::<String>().to_lowercase();
    let uuid = member.content.as_ref()?.uuid.as_deref().map(plain)?;
    let named = words.values("rd.md.uuid").iter().any(|value| uuid.starts_with(&plain(value)));
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

/// A volume that is named and not there is waited for, whatever root is (recorded).
fn absent_volume(words: &Words<'_>, index: &Index<'_>) -> Option<String> {
    let absent =
        |value: &&str| matches!(index.resolve(&Source::parse(&format!("/dev/{value}"))), Resolution::Absent);
    let volume = words.values("rd.lvm.lv").into_iter().find(absent)?;
    Some(format!("rd.lvm.lv={} names a volume that is not there, and is waited for", visible(volume)))
}
