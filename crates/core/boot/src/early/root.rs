//! Root, as the kernel's command line has it: `root=`, `rootfstype=`,
//! `rootflags=`.

use super::super::assembly::{self, Lack};
use super::super::crypt::unlocked_later;
use super::{GivenUp, StoppedBy, by_initramfs_tools, dracut, kernel_alone, patience, tiny};
use bradawl_catalogue::options::{Asked, MountBy, Verdict, check};
use bradawl_facts::Version;
use bradawl_facts::record::CommandLine;
use bradawl_facts::record::{Content, ContentKind, Device, Initramfs, Record};
use bradawl_facts::table::Table;
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};

/// What the device of root lacks.
pub(super) fn lack(record: &Record, index: &Index<'_>) -> Option<Lack> {
    let source = Source::parse(CommandLine::of(record).last("root")?);
    let Resolution::Found(devices) = index.resolve(&source) else { return None };
    assembly::lack(record, index, devices.first()?)
}

/// Why the initramfs does not mount root.
pub(super) fn not_mounted(record: &Record, index: &Index<'_>) -> Option<GivenUp> {
    let given_up = |why: String, stall_s: f64| {
        Some(GivenUp { target: "/", why, stall_s, entry: None, assumed: None, by: StoppedBy::Initramfs })
    };
    if kernel_alone::is_alone(record) || tiny::is_maker(record) {
        return None;
    }
    let line = CommandLine::of(record);
    if let Some(word) = asked_to_stop(record) {
        return given_up(format!("{} on the kernel's command line opens a shell", visible(word)), 0.0);
    }
    let name = line.last("root")?;
    if dracut::is_maker(record) && is_number(name) {
        return given_up(format!("root={} is nothing that dracut knows", visible(name)), 0.0);
    }
    let source = numbered(record, name).unwrap_or_else(|| Source::parse(name));
    // A word of network and memory types where rootfstype= says so.
    if matches!(source, Source::Word(_)) && by_initramfs_tools(record) && line.last("rootfstype").is_none() {
        return given_up(format!("root={} is no device", visible(name)), 0.0);
    }
    if let Some(Lack::Never(why)) = lack(record, index) {
        return given_up(format!("root={}: {why}", visible(name)), patience(record));
    }
    let content = match index.resolve(&source) {
        Resolution::Absent if may_be_missed(record, index, &source) => {
            return given_up(format!("root={} is not found", visible(name)), patience(record));
        }
        Resolution::Found(devices) => devices.first()?.content.as_ref()?,
        _ => return None,
    };
    match content.kind {
        ContentKind::Filesystem => mount_objection(record, content, line).and_then(|why| given_up(why, 0.0)),
        // What it cannot tell, it waits for as if it were not there (recorded).
        ContentKind::Empty => given_up(format!("root={} holds nothing", visible(name)), patience(record)),
        kind if kind.is_member() || kind == ContentKind::Swap => {
            given_up(format!("root={} holds {}", visible(name), content.words()), 0.0)
        }
        _ => None,
    }
}

/// Places at which the initramfs can be told to stop (initramfs-tools(7)).
const STOPS: [&str; 7] = ["top", "modules", "premount", "mount", "mountroot", "bottom", "init"];

/// The word that has the initramfs open a shell before it is done.
fn asked_to_stop(record: &Record) -> Option<&str> {
    let line = CommandLine::of(record);
    match record.early.as_ref()?.maker()? {
        Initramfs::InitramfsTools => line.words().rfind(|w| {
            *w == "break" || w.strip_prefix("break=").is_some_and(|at| STOPS.iter().any(|s| at.contains(s)))
        }),
        Initramfs::Dracut => line.words().rfind(|w| *w == "rd.break" || w.starts_with("rd.break=")),
        Initramfs::Mkinitcpio => line.words().rfind(|w| *w == "break" || w.starts_with("break=")),
        Initramfs::TinyInitramfs | Initramfs::Without => None,
    }
}

/// Whether it is a number of a device, in one of the kernel's forms.
fn is_number(name: &str) -> bool {
    let hexadecimal = |part: &str| !part.is_empty() && part.bytes().all(|b| b.is_ascii_hexdigit());
    name.split_once(':').map_or_else(|| hexadecimal(name), |(a, b)| hexadecimal(a) && hexadecimal(b))
}

/// The device with a number, as initramfs-tools reads it: `254:0`, or in
/// hexadecimal digits without 0x (recorded).
fn numbered(record: &Record, name: &str) -> Option<Source> {
    if !by_initramfs_tools(record) || name.contains('/') {
        return None;
    }
    let (major, minor) = match name.split_once(':') {
        Some((major, minor)) => (major.parse().ok()?, minor.parse().ok()?),
        None => {
            let number = u32::from_str_radix(name, 16).ok()?;
            (number >> 8, number & 0xff)
        }
    };
    let of_number = |d: &&Device| d.major == Some(major) && d.minor == Some(minor);
    let found = record.devices.iter().flatten().find(of_number);
    // Not one that is known: some path, so that nothing is said for certain.
    Some(Source::Device(found.map_or_else(|| format!("/dev/block/{major}:{minor}"), |d| d.path.clone())))
}

/// Whether a name that no device matches is missed for certain: names that
/// are made in the initramfs itself may not be known to the record.
fn may_be_missed(record: &Record, index: &Index<'_>, source: &Source) -> bool {
    const BY_DRIVER: [&str; 8] = ["sd", "vd", "hd", "xvd", "nvme", "mmcblk", "ubd", "disk/by-"];
    match source {
        Source::Tag(..) => true,
        Source::Device(path) => {
            let name = path.strip_prefix("/dev/").unwrap_or_default();
            let by_driver = BY_DRIVER.iter().any(|driver| name.starts_with(driver));
            let mapping = name.strip_prefix("mapper/");
            (by_driver || mapping.is_some_and(|name| is_made_by_nobody(record, name)))
                && unlocked_later(record, index, source).is_none()
        }
        _ => false,
    }
}

/// Whether no container that the image opens has this name: what is packed into it is
/// known, and volumes are in the record.
fn is_made_by_nobody(record: &Record, name: &str) -> bool {
    let Some(image) = record.early.as_ref().and_then(|e| e.image.as_ref()) else { return false };
    let opened = image.crypttab.iter().flatten().any(|entry| entry.name == name);
    let named = CommandLine::of(record).words().any(|w| w.starts_with("rd.luks.name=") && w.ends_with(name));
    record.links_complete == Some(true) && !opened && !named && !name.starts_with("luks-")
}

fn mount_objection(record: &Record, content: &Content, line: CommandLine<'_>) -> Option<String> {
    let held = content.fstype.as_deref()?;
    let types = line.last("rootfstype").filter(|list| !list.split(',').any(|t| t == held || t == "auto"));
    // Dracut's scripts take what the device manager says it holds (recorded).
    if let Some(types) = types.filter(|_| !dracut::is_plain(record)) {
        return Some(format!("root is mounted as {}, and holds {held}", visible(types)));
    }
    refused_flag(record, content, held, (line.last("rootflags")?, MountBy::System))
}

/// The first of the options for root that its type refuses.
pub(super) fn refused_flag(
    record: &Record,
    content: &Content,
    fstype: &str,
    (flags, by): (&str, MountBy),
) -> Option<String> {
    let entry = Table::parse(format!("root / {fstype} {flags}\n")).entries().pop()?;
    let kernel = record.host.kernel.as_deref().and_then(Version::parse);
    let asked = Asked::new(fstype, &entry.options, kernel);
    let all = check(&Asked { content: Some(content), by, ..asked });
    let refused = all.iter().find(|c| c.verdict == Verdict::Refused);
    if let Some(checked) = refused {
        let name = visible(&entry.options[checked.index].name);
        return Some(format!("rootflags= has {name}, which is rejected: {}", checked.why));
    }
    let subvolume = entry.option("subvol")?.value.as_deref()?.trim_matches('/');
    let lost = content.subvolumes.as_ref().is_some_and(|all| !all.iter().any(|s| s == subvolume));
    (lost && !subvolume.is_empty()).then(|| format!("root has no subvolume {}", visible(subvolume)))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn root_is_mounted_as_the_command_line_says() {
        let mut record = bradawl_facts::testing::host();
        for (flags, expected) in [
            ("", None),
            ("rootfstype=ext4 rootflags=data=ordered,errors=remount-ro", None),
            ("rootfstype=xfs,ext4", None),
            ("rootfstype=xfs", Some(("root is mounted as xfs, and holds ext4", 0.0))),
            ("rootflags=noatme", Some(("rootflags= has noatme, which is rejected", 0.0))),
            ("rootflags=subvol=@", Some(("rootflags= has subvol, which is rejected", 0.0))),
            ("root=LABEL=gone", Some(("root=LABEL=gone is not found", 30.0))),
            ("root=/dev/sdz1 rootdelay=45", Some(("root=/dev/sdz1 is not found", 45.0))),
            ("root=/dev/mapper/later", None),
            ("root=/dev/nfs", None),
        ] {
            record.command_line = Some(format!("root=LABEL=hull ro {flags}"));
            let given_up = not_mounted(&record, &Index::new(&record));
            assert_eq!(given_up.is_some(), expected.is_some(), "{flags}: {given_up:?}");
            if let (Some(given_up), Some((why, stall_s))) = (given_up, expected) {
                assert!(given_up.why.starts_with(why) && given_up.stall_s == stall_s, "{flags}");
            }
        }
    }
}
