//! Before the init system: what the initramfs waits for.
//!
//! The 30 s are those of initramfs-tools' own script (0.142); the figures for
//! dracut and mkinitcpio are taken as usual, not read or recorded.

use super::forecast::Event;
use crate::options::{Asked, KernelVersion, Verdict, check};
use crate::record::{Content, ContentKind, Initramfs, Record};
use crate::resolve::{Index, Resolution, Source};
use crate::table::Table;
use crate::text::visible;

/// A wait of the initramfs for a device that does not come.
#[derive(Debug, Clone, PartialEq)]
pub struct ResumeWait {
    /// The device as the setting names it.
    pub name: String,
    /// Where the setting stands.
    pub setting: &'static str,
    /// Seconds.
    pub stall_s: f64,
    /// Whose initramfs; absent: not known, the usual one is assumed.
    pub initramfs: Option<Initramfs>,
}

/// The device that the initramfs looks for a sleeping system on, when no
/// device answers to that name: it is waited for at each boot.
pub fn resume_wait(record: &Record, index: &Index<'_>) -> Option<ResumeWait> {
    if record.host.container == Some(true) {
        return None;
    }
    let words = record.command_line.as_deref().unwrap_or_default().split_whitespace();
    if words.clone().any(|w| w == "noresume") {
        return None;
    }
    let on_line = words.filter_map(|w| w.strip_prefix("resume=")).next_back();
    let early = record.early.as_ref();
    let configured = early.and_then(|e| e.resume.as_deref());
    let (name, setting) = match (on_line, configured) {
        (Some(name), _) => (name, "resume= on the kernel command line"),
        (None, Some(name)) => (name, "RESUME= of initramfs-tools"),
        (None, None) => return None,
    };
    let source = Source::parse(name);
    let named = matches!(source, Source::Tag(..) | Source::Device(_));
    if !named || !matches!(index.resolve(&source), Resolution::Absent) {
        return None;
    }
    let initramfs = early.and_then(|e| e.initramfs);
    let stall_s = match initramfs {
        Some(Initramfs::Mkinitcpio) => 10.0,
        Some(Initramfs::Dracut) => 90.0,
        Some(Initramfs::InitramfsTools) | None => 30.0,
    };
    Some(ResumeWait { name: name.to_owned(), setting, stall_s, initramfs })
}

impl ResumeWait {
    /// The moment it begins, before the init system.
    pub(super) fn event(&self) -> Event {
        let what = format!("waits for {}, which no device answers to", visible(&self.name));
        Event { at_s: -self.stall_s, unit: "initramfs".to_owned(), what: what.into() }
    }

    /// What was assumed about it.
    pub(super) fn assumed(&self) -> String {
        match self.initramfs {
            Some(maker) => format!("{} waits {} s for a lost resume device", maker.name(), self.stall_s),
            None => "the initramfs is one of initramfs-tools, which waits 30 s for a lost resume device"
                .to_owned(),
        }
    }
}

/// Why the initramfs does not mount root, by the kernel's command line:
/// `root=`, `rootfstype=`, `rootflags=`. A container's is its host's affair.
pub(super) fn root_not_mounted(record: &Record, index: &Index<'_>) -> Option<String> {
    if record.host.container == Some(true) {
        return None;
    }
    let line = record.command_line.as_deref()?;
    let last = |key: &str| line.split_whitespace().filter_map(|w| w.strip_prefix(key)).next_back();
    let root = last("root=")?;
    let source = Source::parse(root);
    let found = match index.resolve(&source) {
        Resolution::Absent if matches!(source, Source::Tag(..)) => {
            return Some(format!("root={} is not found", visible(root)));
        }
        Resolution::Found(devices) => devices,
        _ => return None,
    };
    let content = found.first()?.content.as_ref().filter(|c| c.kind == ContentKind::Filesystem)?;
    let held = content.fstype.as_deref()?;
    let types = last("rootfstype=").filter(|list| !list.split(',').any(|t| t == held || t == "auto"));
    if let Some(types) = types {
        return Some(format!("root is mounted as {}, and holds {held}", visible(types)));
    }
    refused_flag(record, content, held, last("rootflags=")?)
}

/// The first of the options for root that its type refuses.
fn refused_flag(record: &Record, content: &Content, fstype: &str, flags: &str) -> Option<String> {
    let entry = Table::parse(format!("root / {fstype} {flags}\n")).entries().pop()?;
    let kernel = record.host.kernel.as_deref().and_then(KernelVersion::parse);
    let asked = Asked::new(fstype, &entry.options, kernel);
    let all = check(&Asked { content: Some(content), ..asked });
    let refused = all.iter().find(|c| c.verdict == Verdict::Refused);
    if let Some(checked) = refused {
        let name = visible(&entry.options[checked.index].name);
        return Some(format!("rootflags= has {name}, which is refused: {}", checked.why));
    }
    let subvolume = entry.option("subvol")?.value.as_deref()?.trim_matches('/');
    let lost = content.subvolumes.as_ref().is_some_and(|all| !all.iter().any(|s| s == subvolume));
    (lost && !subvolume.is_empty()).then(|| format!("root has no subvolume {}", visible(subvolume)))
}

/// Why the device of a mapping is not there yet, when crypttab has it: it
/// comes when it is unlocked.
pub(super) fn unlocked_later(record: &Record, index: &Index<'_>, source: &Source) -> Option<String> {
    let Source::Device(path) = source else { return None };
    let name = path.strip_prefix("/dev/mapper/")?;
    let entry = record.early.as_ref()?.crypttab.as_ref()?.iter().find(|e| e.name == name)?;
    if matches!(index.resolve(&Source::parse(&entry.source)), Resolution::Absent) {
        return None;
    }
    Some(match &entry.key {
        Some(key) => format!("it comes when {} is unlocked with the key {}", visible(name), visible(key)),
        None => format!("it comes when somebody types the passphrase of {}", visible(name)),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::Early;

    fn wait(line: &str, resume: Option<&str>, initramfs: Option<Initramfs>) -> Option<f64> {
        let mut record = Record::new("quayside");
        record.devices = Some(Vec::new());
        record.command_line = Some(line.to_owned());
        record.early = Some(Early { resume: resume.map(str::to_owned), initramfs, ..Early::default() });
        resume_wait(&record, &Index::new(&record)).map(|w| w.stall_s)
    }

    #[test]
    fn root_is_mounted_as_the_command_line_says() {
        let mut record = crate::rules::testing::host();
        for (flags, expected) in [
            ("", None),
            ("rootfstype=ext4 rootflags=data=ordered,errors=remount-ro", None),
            ("rootfstype=xfs,ext4", None),
            ("rootfstype=xfs", Some("root is mounted as xfs, and holds ext4")),
            ("rootflags=noatme", Some("rootflags= has noatme, which is refused")),
            ("rootflags=subvol=@", Some("rootflags= has subvol, which is refused")),
            ("root=LABEL=gone", Some("root=LABEL=gone is not found")),
        ] {
            record.command_line = Some(format!("root=LABEL=hull ro {flags}"));
            let why = root_not_mounted(&record, &Index::new(&record));
            assert_eq!(why.is_some(), expected.is_some(), "{flags}: {why:?}");
            assert!(expected.is_none_or(|e| why.unwrap().starts_with(e)), "{flags}");
        }
    }

    #[test]
    fn a_lost_resume_device_is_waited_for() {
        let uuid = "UUID=00000000-1111-2222-3333-444444444444";
        for (line, resume, maker, expected) in [
            ("", None, None, None),
            ("", Some(uuid), Some(Initramfs::InitramfsTools), Some(30.0)),
            ("noresume", Some(uuid), None, None),
            ("resume=UUID=ab ro", None, Some(Initramfs::Dracut), Some(90.0)),
            ("resume=UUID=ab", Some("none"), Some(Initramfs::Mkinitcpio), Some(10.0)),
            ("", Some("none"), None, None),
            ("", Some("auto"), None, None),
        ] {
            assert_eq!(wait(line, resume, maker), expected, "{line} {resume:?}");
        }
    }
}
