//! tiny-initramfs: one small program that mounts root, and /usr by the table it finds there.
//! It knows the kernel's own names of devices, numbers and the UUIDs of three families of
//! file systems; what it cannot do ends in a kernel panic. Recorded with version 0.1 of
//! Debian (tiny.jsonl).

mod usr;

pub(super) use usr::{mounted_unasked, usr_not_mounted, usr_waits};

use super::kernel_alone::{Search, by_name, by_number};
use super::root::refused_flag;
use super::{EarlyWait, GivenUp, StoppedBy};
use bradawl_catalogue::options::MountBy;
use bradawl_facts::record::{
    CommandLine, Content, ContentKind, Device, DeviceKind, Early, Initramfs, PathKind, Record,
};
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// Seconds that root is waited for, behind those of `rootdelay=`.
const ROOT_S: f64 = 180.0;

/// Whether it is the host's initramfs.
pub(super) fn is_maker(record: &Record) -> bool {
    record.early.as_ref().and_then(Early::maker) == Some(Initramfs::TinyInitramfs)
}

/// Why root is not mounted, or nothing is started from it.
pub(super) fn root_not_mounted(record: &Record, index: &Index<'_>) -> Option<GivenUp> {
    let line = CommandLine::of(record);
    if !is_maker(record) || line.text().is_empty() {
        return None;
    }
    let given_up = |why: String, stall_s: f64| {
        Some(GivenUp { target: "/", why, stall_s, entry: None, assumed: None, by: StoppedBy::Tiny })
    };
    let Some(delay_s) = delay(record) else {
        return given_up("rootdelay= is no number of seconds".to_owned(), 0.0);
    };
    let Some(name) = line.last("root") else {
        return given_up("the kernel's command line names no root".to_owned(), 0.0);
    };
    match named(record, name) {
        Named::Unsupported => given_up(format!("root={} {UNSUPPORTED}", visible(name)), 0.0),
        Named::Absent if line.has("rootwait") => None,
        Named::Absent => given_up(format!("root={} is not found", visible(name)), delay_s + ROOT_S),
        Named::Found(device) => {
            let why = objection(record, device, name).or_else(|| no_init(record, index))?;
            given_up(why, delay_s)
        }
        Named::NotKnown => None,
    }
}

/// What it says of a name.
const UNSUPPORTED: &str = "is nothing that tiny-initramfs knows: names of the kernel under /dev, numbers as 0x…, and \
                           UUID= of ext2, ext3, ext4, XFS and Btrfs";

/// What it waits for: `rootdelay=` always, and with `rootwait` without end.
pub(super) fn waits(record: &Record) -> Option<EarlyWait> {
    let line = CommandLine::of(record);
    let name = line.last("root").filter(|_| is_maker(record))?;
    let wait = |what: String, stall_s| EarlyWait {
        by: StoppedBy::Tiny,
        what,
        stall_s,
        assumed: "tiny-initramfs is as Debian packages it".to_owned(),
    };
    match named(record, name) {
        Named::Absent if line.has("rootwait") => {
            Some(wait(format!("waits for root={}, as rootwait says", visible(name)), None))
        }
        _ => {
            let delay_s = delay(record).filter(|s| *s > 0.0)?;
            Some(wait("waits as long as rootdelay= says".to_owned(), Some(delay_s)))
        }
    }
}

/// Seconds of `rootdelay=`; `None`: what it says is no number.
fn delay(record: &Record) -> Option<f64> {
    match CommandLine::of(record).last("rootdelay") {
        None => Some(0.0),
        Some(text) => text.parse::<u32>().ok().map(f64::from),
    }
}

/// What a name comes to.
enum Named<'r> {
    /// It knows no such names, and ends at once.
    Unsupported,
    Found(&'r Device),
    /// It is waited for.
    Absent,
    /// The record does not tell.
    NotKnown,
}

fn named<'r>(record: &'r Record, name: &str) -> Named<'r> {
    let Some(devices) = record.devices.as_deref() else { return Named::NotKnown };
    let search = match (name.strip_prefix("UUID="), name.strip_prefix("/dev/")) {
        (Some(uuid), _) if is_uuid(uuid) => {
            return devices.iter().find(|d| holds(d, uuid)).map_or(Named::Absent, Named::Found);
        }
        (None, Some("nfs")) => return Named::NotKnown,
        (None, Some(own)) if own.starts_with("disk/") || own.starts_with("mapper/") => return Named::Absent,
        (None, Some(own)) => by_name(record, devices, name, own),
        (None, None) if name.starts_with("0x") => by_number(devices, name),
        _ => return Named::Unsupported,
    };
    match search {
        Search::Found(device) => Named::Found(device),
        Search::Number | Search::Nothing | Search::Invalid => Named::Absent,
        Search::Other => Named::NotKnown,
    }
}

fn is_uuid(text: &str) -> bool {
    text.len() == 36
        && text.bytes().enumerate().all(|(n, b)| match n {
            8 | 13 | 18 | 23 => b == b'-',
            _ => b.is_ascii_hexdigit(),
        })
}

/// Whether a device that the kernel has by itself holds a file system of this UUID, of a
/// type whose UUIDs are read.
fn holds(device: &Device, uuid: &str) -> bool {
    let plain = matches!(device.kind, DeviceKind::Disk | DeviceKind::Partition | DeviceKind::Optical);
    let is_it = |content: &Content| {
        content.kind == ContentKind::Filesystem
            && matches!(content.fstype.as_deref(), Some("ext2" | "ext3" | "ext4" | "xfs" | "btrfs"))
            && content.uuid.as_deref().is_some_and(|own| own.eq_ignore_ascii_case(uuid))
    };
    plain && device.content.as_ref().is_some_and(is_it)
}

/// Why what a device holds is not mounted as root.
fn objection(record: &Record, device: &Device, name: &str) -> Option<String> {
    let line = CommandLine::of(record);
    let content = device.content.as_ref()?;
    if content.kind != ContentKind::Filesystem {
        let holds = if content.kind == ContentKind::Empty { "nothing" } else { content.words() };
        return Some(format!("root={} holds {holds}", visible(name)));
    }
    let held = content.fstype.as_deref()?;
    let wrong = line.last("rootfstype").and_then(|fstype| wrong_type(fstype, held));
    wrong.or_else(|| refused_flag(record, content, held, (line.last("rootflags")?, MountBy::Tiny)))
}

/// A list of types is one name to it, which the kernel does not have; without one it tries
/// all that the kernel has.
fn wrong_type(fstype: &str, held: &str) -> Option<String> {
    let tries_all = matches!(fstype, "" | "auto" | "none");
    let reads = fstype == held || (fstype == "ext4" && matches!(held, "ext2" | "ext3"));
    match tries_all || reads {
        true => None,
        false if fstype.contains(',') => {
            Some(format!("{} is a list of types, of which tiny-initramfs takes none", visible(fstype)))
        }
        false => Some(format!("it is mounted as {}, and holds {held}", visible(fstype))),
    }
}

/// A program that is not there; without a name it tries the usual ones.
fn no_init(record: &Record, index: &Index<'_>) -> Option<String> {
    let path = CommandLine::of(record).last("init").filter(|path| !path.is_empty())?;
    let absolute = format!("/{}", path.trim_start_matches('/'));
    let absent = index.path(&absolute).is_some_and(|f| f.kind == PathKind::Absent);
    absent.then(|| format!("init={} is not there", visible(path)))
}
