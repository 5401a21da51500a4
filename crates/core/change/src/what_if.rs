//! Changes that are only thought: to the table, or to the host's disks.

use crate::edit::{Change, EditError, changed};
use bradawl_boot::server;
use bradawl_catalogue::releases::{RELEASES, Release, release_named};
use bradawl_facts::Version;
use bradawl_facts::record::{Init, InitKind, Initramfs, NextBoot, Record};
use bradawl_facts::table::Table;
use bradawl_facts::text::list;
use bradawl_resolve::{reorder_usb, take_away};
use std::str::FromStr;

/// One thing supposed.
#[derive(Debug, Clone, PartialEq)]
pub enum Supposed {
    /// A change to the table.
    Table(Change),
    /// `without /dev/sdb`: the device, and all on it, is not there.
    WithoutDevice(String),
    /// `kernel 6.12`: another kernel runs.
    Kernel(String),
    /// `init systemd-257`: another init system, or another version of it, boots.
    Init(Init),
    /// `mount-program 2.41`: the mount program is of another version.
    MountProgram(String),
    /// `initramfs dracut`: another program makes the initramfs; `initramfs none`:
    /// there is none.
    Initramfs(Initramfs),
    /// `server nas down`: what it serves does not come.
    ServerDown(String),
    /// `nobody at the console`: passphrases are not typed.
    Unattended,
    /// `usb disks in other order`: the kernel's names of disks on USB change
    /// places.
    UsbReordered,
    /// `release debian-13`: all of these as a release has them.
    Release(&'static Release),
}

/// Why something cannot be supposed.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Unthinkable {
    /// The change cannot be made.
    #[error(transparent)]
    Edit(#[from] EditError),
    /// No entry names the server.
    #[error("no entry of the table is served by {0}")]
    Server(String),
    /// Fewer than two disks are on USB.
    #[error("fewer than two disks are known to be on USB, so that none can change places")]
    Usb,
    /// No device matches the name.
    #[error("no device matches {0}")]
    Device(String),
}

impl FromStr for Supposed {
    type Err = EditError;

    fn from_str(text: &str) -> Result<Self, EditError> {
        if let Some(supposed) = version(text.trim()) {
            return supposed;
        }
        if let Some(event) = event(text.trim()) {
            return Ok(event);
        }
        match text.trim().strip_prefix("without ").map(str::trim) {
            Some(name) if !name.is_empty() && !name.starts_with("line ") => {
                Ok(Supposed::WithoutDevice(name.to_owned()))
            }
            _ => text.parse().map(Supposed::Table),
        }
    }
}

impl Supposed {
    /// Whether it changes the table's own text.
    pub fn is_of_table(&self) -> bool {
        matches!(self, Supposed::Table(_))
    }
}

/// An event; `None`: the text is about something else.
fn event(text: &str) -> Option<Supposed> {
    let named = |name: &str| Some(name.trim().to_owned()).filter(|n| !n.is_empty() && !n.contains(' '));
    let between = |first: &str, last: &str| named(text.strip_prefix(first)?.strip_suffix(last)?);
    match text {
        "nobody at the console" => Some(Supposed::Unattended),
        "usb disks in other order" => Some(Supposed::UsbReordered),
        _ => {
            let device = |name: String| if name.starts_with('/') { name } else { format!("/dev/{name}") };
            let lost = between("disk ", " lost").map(|name| Supposed::WithoutDevice(device(name)));
            lost.or_else(|| between("server ", " down").map(Supposed::ServerDown))
        }
    }
}

/// Has a server not answer, by its name or the first part of it.
fn without_server(record: &mut Record, table: &Table, name: &str) -> Result<(), Unthinkable> {
    let entries = table.entries();
    let is_it = |s: &&str| s.eq_ignore_ascii_case(name) || s.split('.').next() == Some(name);
    let mut servers: Vec<String> =
        entries.iter().filter_map(server).filter(is_it).map(str::to_owned).collect();
    if servers.is_empty() {
        return Err(Unthinkable::Server(name.to_owned()));
    }
    record.supposed.silent_servers.append(&mut servers);
    Ok(())
}

/// What is supposed of versions; `None`: the text is about something else.
fn version(text: &str) -> Option<Result<Supposed, EditError>> {
    let (what, value) = text.split_once(' ').map(|(what, value)| (what, value.trim()))?;
    let wrong = EditError::Version;
    let numbered = |make: fn(String) -> Supposed| match Version::parse(value) {
        Some(_) => Ok(make(value.to_owned())),
        None => Err(wrong(format!("{value} is no version"))),
    };
    Some(match what {
        "kernel" => numbered(Supposed::Kernel),
        "mount-program" => numbered(Supposed::MountProgram),
        "init" => value.parse().map(Supposed::Init).map_err(wrong),
        "initramfs" => {
            let all = [
                Initramfs::InitramfsTools,
                Initramfs::Dracut,
                Initramfs::Mkinitcpio,
                Initramfs::TinyInitramfs,
            ];
            let made = all.into_iter().find(|i| i.name() == value);
            let found = made.or_else(|| (value == "none").then_some(Initramfs::Without));
            let names = || {
                wrong(format!("an initramfs is made by {}, or none", list(&all.map(|i| i.name().to_owned()))))
            };
            found.map(Supposed::Initramfs).ok_or_else(names)
        }
        "release" => {
            let names = || wrong(format!("releases are {}", list(&RELEASES.map(|r| r.name.to_owned()))));
            release_named(value).map(Supposed::Release).ok_or_else(names)
        }
        _ => return None,
    })
}

/// Another kernel: what the running one has loaded, and what its generator said,
/// tells nothing about it.
fn with_kernel(record: &mut Record, kernel: &str) {
    record.host.kernel = Some(kernel.to_owned());
    (record.filesystems, record.kernel_build) = (None, None);
}

/// Another init system; a version alone keeps what is configured.
fn with_init(record: &mut Record, init: &Init) {
    let now = record.host.init.clone().filter(|now| now.kind == init.kind);
    let configured = now.unwrap_or_else(|| init.clone());
    let running = Some(true);
    record.host.init = Some(Init { version: init.version.clone(), running, ..configured });
    (record.generated, record.manager) = (None, None);
}

/// Another initramfs, or none, for the same words of the command line.
fn with_initramfs(record: &mut Record, initramfs: Initramfs) {
    let command_line = record.command_line.clone();
    let early = record.early.get_or_insert_default();
    (early.initramfs, early.image) = (Some(initramfs), None);
    let path = |name: &str| Some(format!("/{name}"));
    let next = match initramfs {
        Initramfs::Without => {
            command_line.map(|command_line| NextBoot { command_line, ..NextBoot::default() })
        }
        _ => None,
    };
    early.next = early.next.take().or(next).map(|next| match initramfs {
        Initramfs::Without => NextBoot { kernel: next.kernel.or(path("vmlinuz")), initramfs: None, ..next },
        _ => NextBoot { initramfs: next.initramfs.or(path("initrd.img")), ..next },
    });
}

/// The host and the table with all this so; lines keep the numbers they have
/// in the table.
///
/// # Errors
/// When something names a line or a device that is not there.
pub fn supposing(
    record: &Record,
    table: &Table,
    supposed: &[Supposed],
) -> Result<(Record, Table), Unthinkable> {
    let mut record = record.clone();
    let mut changes = Vec::new();
    for one in supposed {
        match one {
            Supposed::Table(change) => changes.push(change.clone()),
            Supposed::WithoutDevice(name) => {
                take_away(&mut record, name).ok_or_else(|| Unthinkable::Device(name.clone()))?;
            }
            Supposed::ServerDown(name) => without_server(&mut record, table, name)?,
            Supposed::Unattended => record.supposed.unattended = true,
            Supposed::UsbReordered => reorder_usb(&mut record).ok_or(Unthinkable::Usb)?,
            Supposed::Kernel(kernel) => with_kernel(&mut record, kernel),
            Supposed::Init(init) => with_init(&mut record, init),
            Supposed::MountProgram(version) => record.host.mount_program = Some(version.clone()),
            Supposed::Initramfs(initramfs) => with_initramfs(&mut record, *initramfs),
            Supposed::Release(release) => {
                with_kernel(&mut record, release.kernel);
                with_init(&mut record, &Init::new(InitKind::Systemd, Some(release.systemd)));
                record.host.mount_program = Some(release.mount_program.to_owned());
                with_initramfs(&mut record, release.initramfs);
            }
        }
    }
    let table = changed(&record, table, &changes)?;
    Ok((record, table))
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Device, DeviceKind};

    #[test]
    fn forms() {
        let off = Supposed::Table(Change::Off(4));
        assert_eq!("without line 4".parse(), Ok(off.clone()));
        assert_eq!("line 4: off".parse(), Ok(off));
        assert_eq!("without /dev/sdb".parse(), Ok(Supposed::WithoutDevice("/dev/sdb".into())));
        let systemd = |version| Supposed::Init(Init::new(InitKind::Systemd, version));
        assert_eq!("init systemd-257".parse(), Ok(systemd(Some("257"))));
        assert_eq!("kernel 6.12".parse(), Ok(Supposed::Kernel("6.12".into())));
        assert_eq!("initramfs dracut".parse(), Ok(Supposed::Initramfs(Initramfs::Dracut)));
        assert_eq!("initramfs none".parse(), Ok(Supposed::Initramfs(Initramfs::Without)));
        assert!(matches!("release debian-13".parse(), Ok(Supposed::Release(r)) if r.systemd == "257"));
        assert_eq!("disk sdb lost".parse(), Ok(Supposed::WithoutDevice("/dev/sdb".into())));
        assert_eq!("server nas down".parse(), Ok(Supposed::ServerDown("nas".into())));
        assert_eq!("nobody at the console".parse(), Ok(Supposed::Unattended));
        assert_eq!("usb disks in other order".parse(), Ok(Supposed::UsbReordered));
        for wrong in ["server down", "disk lost", "nobody"] {
            assert!(wrong.parse::<Supposed>().is_err(), "{wrong}");
        }
        for wrong in ["kernel new", "init upstart", "initramfs x", "release debian-99", "mount-program"] {
            assert!(wrong.parse::<Supposed>().is_err(), "{wrong}");
        }
        for wrong in ["", "line 4", "without ", "without line x", "+a"] {
            assert!(wrong.parse::<Supposed>().is_err(), "{wrong}");
        }
    }

    #[test]
    fn a_release_brings_its_versions_and_keeps_what_is_configured() {
        let mut record = Record::new("quayside");
        record.host.init =
            Some(Init { device_timeout_s: Some(20.0), ..Init::new(InitKind::Systemd, Some("252")) });
        let table = Table::parse("LABEL=a /a reiserfs\n");
        let supposed = ["release debian-13".parse().unwrap()];
        let (then, _) = supposing(&record, &table, &supposed).unwrap();
        let init = then.host.init.unwrap();
        assert_eq!((init.version.as_deref(), init.device_timeout_s), (Some("257"), Some(20.0)));
        assert_eq!(then.host.kernel.as_deref(), Some("6.12"));
        assert_eq!(then.early.unwrap().initramfs, Some(Initramfs::InitramfsTools));
    }

    #[test]
    fn a_disk_goes_with_all_on_it() {
        let mut record = Record::new("quayside");
        let disk = Device::new("/dev/sdb", DeviceKind::Disk);
        let mut part = Device::new("/dev/sdb1", DeviceKind::Partition);
        part.parents = vec!["/dev/sdb".into()];
        let other = Device::new("/dev/sdc", DeviceKind::Disk);
        record.devices = Some(vec![disk, part, other]);
        let table = Table::parse("LABEL=a /a xfs\nLABEL=b /b xfs\n");
        let changes = ["without /dev/sdb", "without line 1"].map(|c| c.parse().unwrap());
        let (record, table) = supposing(&record, &table, &changes).unwrap();
        assert_eq!(record.devices.unwrap().len(), 1);
        assert_eq!(table.bytes(), b"# off: LABEL=a /a xfs\nLABEL=b /b xfs\n");
        let absent = [Supposed::WithoutDevice("/dev/sdz".into())];
        assert!(supposing(&Record::new("kelp"), &table, &absent).is_err());
    }
}
