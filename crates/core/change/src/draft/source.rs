//! Which device, directory or share is meant.

use super::kinds::{Sort, kind};
use super::making::first_partition;
use super::{DraftError, DraftWishes};
use bradawl_facts::record::{ContentKind, Device, DeviceKind, Origin, PathFacts, PathKind, Record};
use bradawl_facts::size;
use bradawl_facts::text::{list, visible};
use bradawl_resolve::{ImageSource, Index, Passing, Resolution, Source, Uses, suggest};

/// What a wish turned out to mean.
pub(super) struct Found<'a> {
    /// The device, when it is one.
    pub device: Option<&'a Device>,
    /// What is not a device: a directory, a share, a word.
    pub source: Source,
    /// The type it holds, or is asked to hold.
    pub fstype: Option<String>,
    /// Whether that has to be made first.
    pub to_make: bool,
    /// The partition that is made on the device before.
    pub partition: Option<String>,
    /// What kind of file the source is, where it is one.
    pub file: Option<SourceFile>,
    /// The image behind the loop device that was named.
    pub image: Option<ImageSource>,
}

/// A file as a source.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum SourceFile {
    /// An image, mounted through a loop device.
    Image,
    /// Another file, shown at a second place.
    Plain,
}

impl Found<'_> {
    /// The device that will be mounted, as the kernel names it.
    pub fn path(&self) -> Option<String> {
        self.partition.clone().or_else(|| self.device.map(|d| d.path.clone()))
    }
}

pub(super) fn find<'a>(
    record: &'a Record,
    index: &Index<'a>,
    wishes: &DraftWishes,
) -> Result<Found<'a>, DraftError> {
    let text = wishes.source.as_str();
    let named = |sort: Sort| matches!(sort, Sort::Name | Sort::Directories);
    if wishes.fstype.as_deref().and_then(kind).is_some_and(|kind| named(kind.source)) {
        return of_no_device(record, wishes);
    }
    let device = if matches!(text, "empty" | "the empty one") {
        Some(only(record, text, is_empty)?)
    } else if let Some(size) = parse_size(text) {
        Some(only(record, text, |d| d.size.is_some_and(|s| size.is_near(s)))?)
    } else {
        by_name(index, text)?
    };
    match device {
        Some(device) => match passing(record, index, wishes, device)? {
            Some(image) => Ok(of_image(device, image)),
            None => of_device(record, wishes, device),
        },
        None => of_no_device(record, wishes),
    }
}

/// The file to name instead of a loop device, unless the sort of name is given.
fn passing(
    record: &Record,
    index: &Index<'_>,
    wishes: &DraftWishes,
    device: &Device,
) -> Result<Option<ImageSource>, DraftError> {
    let asked = record.host.origin != Some(Origin::Live) || wishes.by.is_some();
    let device = index.device(&device.path).filter(|_| !asked);
    let Some((device, passing)) = device.and_then(|d| Some((d, Passing::of(index, d)?))) else {
        return Ok(None);
    };
    let holds = device.content.as_ref().map(|c| c.kind);
    match (&passing, ImageSource::of(index, device)) {
        (Passing::Loop(_), Some(image)) if holds == Some(ContentKind::Filesystem) => Ok(Some(image)),
        _ => Err(DraftError::Passing { path: device.path.clone(), what: passing.words() }),
    }
}

/// The file system of a loop device, by its file.
fn of_image<'a>(device: &Device, image: ImageSource) -> Found<'a> {
    Found {
        device: None,
        source: Source::Path(image.file.clone()),
        fstype: device.content.as_ref().and_then(|c| c.fstype.clone()),
        to_make: false,
        partition: None,
        file: Some(SourceFile::Image),
        image: Some(image),
    }
}

/// The device of a name; `None` when it is no name of one.
fn by_name<'a>(index: &Index<'a>, text: &str) -> Result<Option<&'a Device>, DraftError> {
    match index.resolve(&Source::parse(text)) {
        Resolution::Found(devices) => match devices.as_slice() {
            [device] => Ok(Some(device)),
            several => Err(several_of(text, several)),
        },
        Resolution::Unknown(why) => Err(DraftError::NotKnown { name: visible(text).into_owned(), why }),
        Resolution::Absent => Err(none_of(index, text)),
        Resolution::NotADevice => {
            let sure = matches!(Source::parse(text), Source::Path(_) | Source::Network(_))
                || matches!(text, "tmpfs" | "overlay");
            if sure { Ok(None) } else { bare(index, text).map(Some) }
        }
    }
}

/// A label or UUID without its tag, a kernel name without its directory.
fn bare<'a>(index: &Index<'a>, text: &str) -> Result<&'a Device, DraftError> {
    let near = suggest(index, text);
    match near.iter().filter(|n| n.distance == 0).map(|n| n.device).collect::<Vec<_>>().as_slice() {
        [] => Err(none_of(index, text)),
        [first, rest @ ..] if rest.iter().all(|d| d.path == first.path) => Ok(first),
        several => Err(several_of(text, several)),
    }
}

fn none_of(index: &Index<'_>, text: &str) -> DraftError {
    let near: Vec<String> =
        suggest(index, text).iter().take(3).map(|n| visible(&n.name).into_owned()).collect();
    DraftError::NoDevice { name: visible(text).into_owned(), near }
}

fn several_of(text: &str, devices: &[&Device]) -> DraftError {
    let paths: Vec<String> = devices.iter().map(|d| d.path.clone()).collect();
    DraftError::Several { name: visible(text).into_owned(), paths }
}

/// The only free device that fits.
fn only<'a>(
    record: &'a Record,
    text: &str,
    fits: impl Fn(&Device) -> bool,
) -> Result<&'a Device, DraftError> {
    let uses = Uses::of(record);
    let free = |d: &&Device| uses.device(d).is_free() && d.is_leaf();
    let fitting: Vec<&Device> = record.devices().iter().filter(free).filter(|d| fits(d)).collect();
    match fitting.as_slice() {
        [one] => Ok(one),
        [] => Err(DraftError::NoneFree(visible(text).into_owned())),
        several => Err(several_of(text, several)),
    }
}

fn is_empty(device: &Device) -> bool {
    device.content.as_ref().is_some_and(|c| c.kind == ContentKind::Empty)
}

/// `80G`, `2TB`, `1.5 TiB`; `None`: no size.
fn parse_size(text: &str) -> Option<size::Said> {
    size::Said::parse(text).filter(|said| said.has_unit())
}

fn of_device<'a>(record: &Record, wishes: &DraftWishes, device: &'a Device) -> Result<Found<'a>, DraftError> {
    let source = Source::Device(device.path.clone());
    let swap = matches!(wishes.target.as_str(), "none" | "swap");
    let Some(content) = &device.content else {
        return Err(DraftError::Unread(device.path.clone()));
    };
    let refuse = |why: String| Err(DraftError::NotMountable { path: device.path.clone(), why });
    if content.kind == ContentKind::Empty && device.is_leaf() {
        let made = wishes.fstype.clone().unwrap_or_else(|| if swap { "swap" } else { "ext4" }.to_owned());
        let partition = wishes.partition.then(|| first_partition(&device.path));
        if wishes.partition && device.kind == DeviceKind::Partition {
            return Err(DraftError::NotEmptyDisk(device.path.clone()));
        }
        return Ok(Found {
            device: Some(device),
            source,
            fstype: Some(made),
            to_make: true,
            partition,
            file: None,
            image: None,
        });
    }
    if wishes.partition {
        return Err(DraftError::NotEmptyDisk(device.path.clone()));
    }
    if content.kind.is_member() || !device.children.is_empty() {
        let below = match device.children.is_empty() {
            true => String::new(),
            false => format!("; what can be is made from it: {}", list(&device.children)),
        };
        return refuse(format!("it holds {}{below}", content.words()));
    }
    match content.kind {
        ContentKind::Swap if swap => {}
        ContentKind::Swap => return refuse("it holds swap; give \"none\" as the target".to_owned()),
        ContentKind::Filesystem if swap => {
            let size = device.size.map(size::decimal).unwrap_or_default();
            return refuse(format!(
                "it holds {} ({size}), not swap; mkswap would destroy that",
                content.words()
            ));
        }
        ContentKind::Filesystem => {}
        _ => return refuse(format!("it holds {}", content.words())),
    }
    let held = content.fstype.clone().unwrap_or_default();
    let fstype = driver(record, &held);
    if let Some(wanted) = wishes.fstype.as_ref().filter(|w| **w != fstype && **w != held && *w != "auto") {
        return Err(DraftError::HoldsOther { path: device.path.clone(), held, wanted: wanted.clone() });
    }
    Ok(Found {
        device: Some(device),
        source,
        fstype: Some(fstype),
        to_make: false,
        partition: None,
        file: None,
        image: None,
    })
}

/// The name by which the kernel or a program mounts what a device holds.
fn driver(record: &Record, held: &str) -> String {
    if held != "ntfs" {
        return held.to_owned();
    }
    let kernel = record.filesystems.as_ref().is_some_and(|s| s.of("ntfs3").is_some());
    let helpers = record.programs.as_ref().map(|p| p.mount_helpers.as_slice()).unwrap_or_default();
    let program = helpers.iter().any(|h| h == "ntfs-3g");
    if program && !kernel { "ntfs-3g".to_owned() } else { "ntfs3".to_owned() }
}

/// What a file at this path is; `None` for a directory, and where its name does
/// not tell what is not known.
fn file_kind(path: &str, facts: Option<&PathFacts>) -> Option<SourceFile> {
    let named = [".img", ".iso", ".raw", ".squashfs", ".sqfs"].iter().any(|end| path.ends_with(end));
    let file = facts.map(|f| f.kind == PathKind::File);
    let holds = facts.and_then(|f| f.content.as_ref()).is_some_and(|c| c.kind == ContentKind::Filesystem);
    match file {
        Some(false) => None,
        Some(true) if holds || named => Some(SourceFile::Image),
        Some(true) => Some(SourceFile::Plain),
        None => (path.starts_with('/') && named).then_some(SourceFile::Image),
    }
}

/// The type that the name of an image tells.
fn type_by_name(path: &str) -> &'static str {
    match path.rsplit('.').next() {
        Some("iso") => "iso9660",
        Some("squashfs" | "sqfs") => "squashfs",
        _ => "auto",
    }
}

fn of_no_device<'a>(record: &Record, wishes: &DraftWishes) -> Result<Found<'a>, DraftError> {
    let text = wishes.source.as_str();
    let source = Source::parse(text);
    let swap = matches!(wishes.target.as_str(), "none" | "swap");
    let layers = text == "overlay" || wishes.fstype.as_deref() == Some("fuse.fuse-overlayfs");
    if layers && !wishes.options.iter().any(|o| o.starts_with("lowerdir=")) {
        return Err(DraftError::NoLayers);
    }
    let facts = record.paths.iter().find(|f| f.path == text);
    let file = file_kind(text, facts).filter(|_| !swap);
    let fstype = match &source {
        _ if text == "overlay" => "overlay",
        Source::Path(_) if file == Some(SourceFile::Image) => {
            let held = facts.and_then(|f| f.content.as_ref()).and_then(|c| c.fstype.as_deref());
            held.unwrap_or_else(|| type_by_name(text))
        }
        Source::Path(_) if swap => "swap",
        Source::Path(_) => "none",
        Source::Network(_) if text.starts_with("//") => "cifs",
        Source::Network(_) => "nfs",
        _ => "tmpfs",
    };
    let fstype = Some(wishes.fstype.clone().unwrap_or_else(|| fstype.to_owned()));
    Ok(Found { device: None, to_make: false, source, fstype, partition: None, file, image: None })
}
