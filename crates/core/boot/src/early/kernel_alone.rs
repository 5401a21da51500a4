//! Root where no initramfs is before it: the kernel looks for it alone. It knows its
//! own names of devices, numbers, and what partition tables say; no UUID and no
//! label of a file system. Recorded with kernel 6.1 (kernel-root.jsonl).

use super::{EarlyWait, GivenUp, StoppedBy};
use bradawl_catalogue::fstypes::known;
use bradawl_catalogue::options::{Asked, MountBy, Verdict, check};
use bradawl_facts::Version;
use bradawl_facts::record::{
    CommandLine, Content, ContentKind, Device, DeviceKind, Early, Initramfs, Origin, PathKind, Record,
};
use bradawl_facts::table::Table;
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// Whether the kernel has to find root without help.
pub(super) fn is_alone(record: &Record) -> bool {
    record.early.as_ref().and_then(Early::maker) == Some(Initramfs::Without)
}

/// What the kernel comes to.
pub(super) enum Search<'r> {
    /// The device.
    Found(&'r Device),
    /// A number of which no device is there: it is not waited for.
    Number,
    /// A name that means nothing to it, so far.
    Nothing,
    /// A setting that it takes for wrong: it is not waited for either.
    Invalid,
    /// Network, memory and what is put together by the kernel itself: not modelled.
    Other,
}

/// Why the kernel panics.
pub(super) fn not_mounted(record: &Record, index: &Index<'_>) -> Option<GivenUp> {
    let name = name(record)?;
    let why = match search(record, name)? {
        Search::Found(device) => objection(record, device, name).or_else(|| no_init(record, index))?,
        Search::Nothing if waits(record) => return None,
        Search::Nothing => format!("root={} is not found: {}", visible(name), unknown(name)),
        Search::Number => format!("root={} is not found", visible(name)),
        Search::Invalid => format!("root={} is no PARTUUID", visible(name)),
        Search::Other => return None,
    };
    let assumed = Some(ASSUMED.to_owned());
    Some(GivenUp { target: "/", why, stall_s: 0.0, entry: None, assumed, by: StoppedBy::Kernel })
}

const ASSUMED: &str = "the kernel has no initramfs built in, as the boot loader names none";

/// The wait for a device that the kernel does not know: `rootwait` has no end.
pub(super) fn endless(record: &Record) -> Option<EarlyWait> {
    let name = name(record).filter(|_| waits(record))?;
    matches!(search(record, name)?, Search::Nothing).then(|| EarlyWait {
        by: StoppedBy::Kernel,
        what: format!("waits for root={}: {}", visible(name), unknown(name)),
        stall_s: None,
        assumed: ASSUMED.to_owned(),
    })
}

/// What is assumed of a root of which nothing can be said.
pub(super) fn assumed(record: &Record) -> Option<String> {
    if !is_alone(record) {
        return None;
    }
    match name(record) {
        None => {
            Some("the kernel was built with a root that it finds, as its command line names none".to_owned())
        }
        Some(name) => matches!(search(record, name)?, Search::Other).then(|| {
            format!("the kernel mounts root={}: what that takes is not in the record", visible(name))
        }),
    }
}

/// The last `root=`, without the quotes that the kernel takes off.
fn name(record: &Record) -> Option<&str> {
    let name = CommandLine::of(record).last("root").filter(|_| is_alone(record))?;
    Some(name.trim_matches('"'))
}

fn waits(record: &Record) -> bool {
    CommandLine::of(record).has("rootwait")
}

/// Why a name is none that the kernel knows.
fn unknown(name: &str) -> &'static str {
    if ["UUID=", "LABEL="].iter().any(|tag| name.starts_with(tag)) {
        "without an initramfs the kernel reads no UUID or label of a file system"
    } else if is_made_by_others(name) {
        "without an initramfs nobody makes that name"
    } else {
        "the kernel knows no device of that name"
    }
}

/// Names that only programs in an initramfs know.
fn is_made_by_others(name: &str) -> bool {
    ["UUID=", "LABEL=", "/dev/disk/", "/dev/mapper/"].iter().any(|start| name.starts_with(start))
}

fn search<'r>(record: &'r Record, name: &str) -> Option<Search<'r>> {
    // Volumes of the kernel's own making (`dm-mod.create=`) are not modelled.
    let makes_volumes = CommandLine::of(record).words().any(|w| w.starts_with("dm-mod.create="));
    if is_made_by_others(name) && !makes_volumes {
        return Some(Search::Nothing);
    }
    let devices = record.devices.as_deref()?;
    if let Some(value) = name.strip_prefix("PARTUUID=") {
        return Some(by_uuid(devices, value));
    }
    if let Some(label) = name.strip_prefix("PARTLABEL=") {
        let of_label = |d: &&Device| d.partition.as_ref().is_some_and(|p| p.label.as_deref() == Some(label));
        return Some(devices.iter().find(of_label).map_or(Search::Nothing, Search::Found));
    }
    match name.strip_prefix("/dev/") {
        Some(own) => Some(by_name(record, devices, name, own)),
        None => Some(by_number(devices, name)),
    }
}

/// `PARTUUID=`: in any case; `/PARTNROFF=` counts on from there.
fn by_uuid<'r>(devices: &'r [Device], value: &str) -> Search<'r> {
    let (uuid, offset) = match value.split_once('/') {
        None => (value, 0),
        Some((uuid, rest)) => match rest.strip_prefix("PARTNROFF=").and_then(|n| n.parse::<i64>().ok()) {
            Some(offset) => (uuid, offset),
            None => return Search::Invalid,
        },
    };
    if uuid.is_empty() {
        return Search::Invalid;
    }
    let named = |d: &&Device| {
        let own = d.partition.as_ref().and_then(|p| p.uuid.as_deref());
        own.is_some_and(|own| own.get(..uuid.len()).is_some_and(|start| start.eq_ignore_ascii_case(uuid)))
    };
    let Some(first) = devices.iter().find(named) else { return Search::Nothing };
    let number = |d: &Device| d.partition.as_ref().and_then(|p| p.number).map(i64::from);
    let wanted = number(first).map(|n| n + offset);
    let beside = |d: &&Device| d.parents == first.parents && number(d) == wanted;
    match offset {
        0 => Search::Found(first),
        _ => devices.iter().find(beside).map_or(Search::Nothing, Search::Found),
    }
}

/// Names that the kernel gives for itself.
pub(super) fn by_name<'r>(record: &Record, devices: &'r [Device], path: &str, own: &str) -> Search<'r> {
    let other = own.starts_with("mtd") || own.starts_with("ubi") || matches!(own, "nfs" | "cifs" | "ram");
    if other || CommandLine::of(record).last("md").is_some() {
        return Search::Other;
    }
    if let Some(device) = devices.iter().find(|d| d.path == path) {
        // Arrays of the oldest format the kernel may put together by itself.
        let old = |d: &Device| d.content.as_ref().and_then(|c| c.version.as_deref()).is_some_and(is_old);
        return match device.kind {
            DeviceKind::Disk | DeviceKind::Partition | DeviceKind::Optical => Search::Found(device),
            DeviceKind::Raid if devices.iter().any(old) => Search::Other,
            DeviceKind::Raid | DeviceKind::Mapper | DeviceKind::Loop => Search::Nothing,
            DeviceKind::Zram | DeviceKind::Ram | DeviceKind::Other => Search::Other,
        };
    }
    // An image does not tell what the kernel calls its disk.
    if record.host.origin == Some(Origin::Image) {
        return Search::Other;
    }
    // A part of a disk that is there has its number, be it there or not.
    let is_part = |disk: &Device| {
        let rest = path.strip_prefix(&disk.path)?;
        let parted = disk.path.ends_with(|c: char| c.is_ascii_digit());
        let digits = if parted { rest.strip_prefix('p')? } else { rest };
        let numbered = !digits.starts_with('0') && digits.bytes().all(|b| b.is_ascii_digit());
        (numbered && !digits.is_empty()).then_some(())
    };
    let mut disks = devices.iter().filter(|d| d.kind == DeviceKind::Disk);
    match disks.any(|disk| is_part(disk).is_some()) {
        true => Search::Number,
        false => Search::Nothing,
    }
}

fn is_old(version: &str) -> bool {
    version.starts_with("0.")
}

/// `254:1`, or in hexadecimal digits.
pub(super) fn by_number<'r>(devices: &'r [Device], name: &str) -> Search<'r> {
    let pair =
        name.split_once(':').and_then(|(major, minor)| Some((major.parse().ok()?, minor.parse().ok()?)));
    let digits = name.strip_prefix("0x").unwrap_or(name);
    let hexadecimal = || {
        let number = u32::from_str_radix(digits, 16).ok().filter(|n| *n != 0)?;
        Some(((number & 0xf_ff00) >> 8, (number & 0xff) | ((number >> 12) & 0xf_ff00)))
    };
    let Some((major, minor)) = pair.or_else(hexadecimal) else { return Search::Nothing };
    let of_number = |d: &&Device| d.major == Some(major) && d.minor == Some(minor);
    match devices.iter().find(of_number) {
        Some(device) => Search::Found(device),
        // Where numbers are not in the record, nothing is said.
        None if devices.iter().all(|d| d.major.is_none()) => Search::Other,
        None => Search::Number,
    }
}

/// Why what a device holds is not mounted as root.
fn objection(record: &Record, device: &Device, name: &str) -> Option<String> {
    let content = device.content.as_ref()?;
    if content.kind != ContentKind::Filesystem {
        let holds = if content.kind == ContentKind::Empty { "nothing" } else { content.words() };
        return Some(format!("root={} holds {holds}", visible(name)));
    }
    let line = CommandLine::of(record);
    let held = content.fstype.as_deref()?;
    let types = line.last("rootfstype").and_then(|types| wrong_type(types.trim_matches('"'), held));
    types.or_else(|| refused_flag(record, content, held, line.last("rootflags")?.trim_matches('"')))
}

/// The types are tried in order; one that the kernel does not have ends it.
fn wrong_type(types: &str, held: &str) -> Option<String> {
    for name in types.split(',') {
        if name == held || (name == "ext4" && matches!(held, "ext2" | "ext3")) {
            return None;
        }
        if known(name).is_none() && !name.is_empty() {
            return Some(format!("rootfstype= has {}, which the kernel does not have", visible(name)));
        }
    }
    Some(format!("root is mounted as {}, and holds {held}", visible(types)))
}

/// The first of rootflags= that the file system refuses: no mount program takes out
/// what is for itself. Where root cannot be mounted read-write, it is tried read-only.
fn refused_flag(record: &Record, content: &Content, fstype: &str, flags: &str) -> Option<String> {
    let entry = Table::parse(format!("root / {fstype} ro,{flags}\n")).entries().pop()?;
    let kernel = record.host.kernel.as_deref().and_then(Version::parse);
    let asked = Asked::new(fstype, &entry.options, kernel);
    let all = check(&Asked { content: Some(content), by: MountBy::Kernel, ..asked });
    let refused = all.iter().find(|c| c.verdict == Verdict::Refused)?;
    let option = visible(&entry.options[refused.index].name);
    Some(format!("rootflags= has {option}, which the kernel hands to {fstype} as it stands: {}", refused.why))
}

/// A program that is not there; the kernel tries its usual ones only without init=.
fn no_init(record: &Record, index: &Index<'_>) -> Option<String> {
    let path = CommandLine::of(record).last("init")?;
    // Looked for from the root directory.
    let absolute = format!("/{}", path.trim_start_matches('/'));
    let absent = path.is_empty() || index.path(&absolute).is_some_and(|f| f.kind == PathKind::Absent);
    absent.then(|| format!("init={} is not there", visible(path)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::NextBoot;

    /// Why the boot ends, where it does; what is assumed.
    fn told(line: &str) -> (Option<String>, Option<String>) {
        let mut record = bradawl_facts::testing::host();
        record.host.origin = Some(Origin::Image);
        let next =
            NextBoot { kernel: Some("/vmlinuz".into()), command_line: line.into(), ..NextBoot::default() };
        record.early = Some(Early { next: Some(next), ..Early::default() });
        (not_mounted(&record, &Index::new(&record)).map(|end| end.why), assumed(&record))
    }

    #[test]
    fn what_no_record_tells_is_assumed() {
        for (line, ends, assumes) in [
            ("root=LABEL=hull", true, false),
            ("root=/dev/vda1", false, false),
            ("root=/dev/sda1", false, true),
            ("root=/dev/mapper/tides", true, false),
            ("root=/dev/dm-0 dm-mod.create=\"tides,,,ro,0 8 linear 254:1 0\"", false, true),
            ("root=/dev/mapper/tides dm-mod.create=tides,,,ro", false, true),
            ("root=/dev/md0 md=0,/dev/vda1", false, true),
            ("ro", false, true),
        ] {
            let (why, assumed) = told(line);
            assert_eq!((why.is_some(), assumed.is_some()), (ends, assumes), "{line}: {why:?} {assumed:?}");
        }
    }
}
