//! A whole boot of disk images in a guest: the new table is put over the old
//! one by the initramfs, a real boot runs, and what became of it is read back.
//! The images are only read; what the guest writes is thrown away.

mod console;
mod cpio;
mod initramfs;
mod machine;
mod stand_in;

pub use console::GuestEnd;
pub use stand_in::make as make_stand_ins;

use machine::{Machine, Paths};
use std::io::{self, Read as _, Seek as _, SeekFrom};
use std::path::{Path, PathBuf};
use std::thread::sleep;
use std::time::{Duration, Instant};

/// Of a console so much is kept, from its end.
const CONSOLE: u64 = 256 << 10;
/// Nothing longer is told of a boot.
const MAX_TOLD: u64 = 64 << 20;
/// The told facts stand between these lines.
const BEGIN: &str = "bradawl-guest 1\n";
const END: &str = "bradawl-guest end\n";
/// The initramfs's shell changes nothing any more, and nothing there tells.
const AFTER_SHELL: Duration = Duration::from_secs(10);
/// How often the machine is looked at.
const PAUSE: Duration = Duration::from_millis(500);

/// A disk of a guest.
#[derive(Debug, Clone)]
pub struct Disk {
    /// Its image, with all directories.
    pub path: PathBuf,
    /// Its format, as the monitor names it: raw, qcow2, vmdk, vdi, vpc, vhdx.
    pub format: &'static str,
}

/// How disks are attached, which decides their names.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Bus {
    /// /dev/vda
    Virtio,
    /// /dev/sda
    Sata,
    /// /dev/nvme0n1
    Nvme,
}

impl Bus {
    fn device(self) -> &'static str {
        match self {
            Bus::Virtio => "virtio-blk-pci",
            Bus::Sata => "ide-hd",
            Bus::Nvme => "nvme",
        }
    }

    /// The kernel's name of the disk with this number.
    pub fn disk(self, n: usize) -> String {
        let letter = char::from(b'a' + u8::try_from(n.min(25)).unwrap_or(25));
        match self {
            Bus::Virtio => format!("/dev/vd{letter}"),
            Bus::Sata => format!("/dev/sd{letter}"),
            Bus::Nvme => format!("/dev/nvme{n}n1"),
        }
    }

    /// Its name of a partition of a disk.
    pub fn partition(self, disk: &str, number: &str) -> String {
        let between = if self == Bus::Nvme { "p" } else { "" };
        format!("{disk}{between}{number}")
    }

    fn place(self, n: usize) -> String {
        match self {
            Bus::Virtio => String::new(),
            Bus::Sata => format!(",bus=ide.{n}"),
            Bus::Nvme => format!(",serial=disk{n}"),
        }
    }
}

/// A boot to be made.
pub struct Guest<'a> {
    /// The monitor's program.
    pub monitor: &'a str,
    /// Without the processor's help for guests.
    pub emulated: bool,
    /// Memory in MiB.
    pub memory_mib: u32,
    /// The kernel.
    pub kernel: &'a [u8],
    /// The initramfs as it is packed.
    pub initramfs: &'a [u8],
    /// The kernel's command line.
    pub command_line: &'a str,
    /// The disks, that with the root first.
    pub disks: &'a [Disk],
    /// How they are attached.
    pub bus: Bus,
    /// The table to put over the root's own.
    pub table: Option<&'a [u8]>,
    /// The script that collects facts on a running host.
    pub collector: &'a str,
    /// The time limit for all.
    pub limit: Duration,
}

/// What became of it.
#[derive(Debug)]
pub struct GuestBoot {
    /// What the collector wrote; empty: nothing was told.
    pub told: Vec<u8>,
    /// What the console shows of its end.
    pub end: Option<GuestEnd>,
    /// The last of the console.
    pub console: String,
    /// Whether the time limit ended it.
    pub cut_off: bool,
    /// How long it took, in seconds.
    pub took_s: f64,
}

/// Why there was no boot.
#[derive(Debug, thiserror::Error)]
pub enum GuestError {
    /// The monitor cannot be started.
    #[error("{0} cannot be started: {1}; install a machine monitor, or name one with --monitor")]
    Monitor(String, io::Error),
    /// The monitor ended with a complaint.
    #[error("the machine monitor gave up: {0}")]
    GaveUp(String),
    /// No directory for what the guest needs.
    #[error("the directory for the guest: {0}")]
    Workplace(io::Error),
}

impl Guest<'_> {
    fn whole_command_line(&self) -> String {
        let ours = format!("console=ttyS0 rdinit={} systemd.show_status=1", initramfs::FIRST_PROGRAM);
        format!("{} {ours}", self.command_line)
    }

    /// Boots it and waits for its end.
    ///
    /// # Errors
    /// When no machine could be started.
    pub fn boot(&self) -> Result<GuestBoot, GuestError> {
        let directory = Workplace::new().map_err(GuestError::Workplace)?;
        let at = |name: &str| directory.0.join(name);
        let paths = Paths {
            kernel: at("kernel"),
            initramfs: at("initramfs"),
            console: at("console"),
            told: at("told"),
            complaint: at("complaint"),
        };
        // It tells before the end, or it will not tell.
        let tells = self.limit.saturating_sub(self.limit / 6);
        let initramfs = initramfs::with_ours(self.initramfs, self.table, self.collector, tells);
        std::fs::write(&paths.kernel, self.kernel).map_err(GuestError::Workplace)?;
        std::fs::write(&paths.initramfs, initramfs).map_err(GuestError::Workplace)?;
        let began = Instant::now();
        let mut machine = Machine::start(self, &paths, &directory.0)?;
        let cut_off = self.watch(&mut machine, &paths, began);
        drop(machine);
        let console = tail(&paths.console, CONSOLE);
        let told = told(&tail(&paths.told, MAX_TOLD)).unwrap_or_default();
        if console.is_empty() && told.is_empty() && !cut_off {
            let complaint = String::from_utf8_lossy(&tail(&paths.complaint, 4 << 10)).trim().to_owned();
            return Err(GuestError::GaveUp(complaint));
        }
        Ok(GuestBoot {
            told,
            end: console::end(&console),
            console: String::from_utf8_lossy(&console).into_owned(),
            cut_off,
            took_s: began.elapsed().as_secs_f64(),
        })
    }

    /// Waits for the end; whether the time limit came first.
    fn watch(&self, machine: &mut Machine, paths: &Paths, began: Instant) -> bool {
        let mut shell: Option<Instant> = None;
        loop {
            sleep(PAUSE);
            if machine.ended() || told(&tail(&paths.told, MAX_TOLD)).is_some() {
                return false;
            }
            if began.elapsed() > self.limit {
                return true;
            }
            let end = console::end(&tail(&paths.console, CONSOLE));
            if !matches!(end, Some(GuestEnd::InitramfsShell | GuestEnd::Panic)) {
                shell = None;
            } else if shell.get_or_insert_with(Instant::now).elapsed() > AFTER_SHELL {
                return false;
            }
        }
    }
}

/// What stands between the marks, when both are there.
fn told(bytes: &[u8]) -> Option<Vec<u8>> {
    let text = String::from_utf8_lossy(bytes).replace('\r', "");
    let (_, rest) = text.split_once(BEGIN)?;
    let (told, _) = rest.rsplit_once(END)?;
    Some(told.as_bytes().to_vec())
}

/// The end of a file; nothing where there is none.
fn tail(path: &Path, most: u64) -> Vec<u8> {
    let read = || -> io::Result<Vec<u8>> {
        let mut file = std::fs::File::open(path)?;
        let size = file.metadata()?.len();
        file.seek(SeekFrom::Start(size.saturating_sub(most)))?;
        let mut bytes = Vec::new();
        file.take(most).read_to_end(&mut bytes)?;
        Ok(bytes)
    };
    read().unwrap_or_default()
}

/// A directory that goes with its owner.
struct Workplace(PathBuf);

impl Workplace {
    fn new() -> io::Result<Self> {
        use std::os::unix::fs::DirBuilderExt as _;
        let name = format!("bradawl-guest-{}", std::process::id());
        let path = std::env::temp_dir().join(name);
        // Nobody else's directory is used.
        std::fs::DirBuilder::new().mode(0o700).create(&path)?;
        Ok(Workplace(path))
    }
}

impl Drop for Workplace {
    fn drop(&mut self) {
        std::fs::remove_dir_all(&self.0).ok();
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_told_stands_between_its_marks() {
        let whole = format!("noise\r\n{BEGIN}one\r\ntwo\n{END}");
        assert_eq!(told(whole.as_bytes()).unwrap(), b"one\ntwo\n");
        assert_eq!(told(whole.replace(END, "").as_bytes()), None);
    }

    #[test]
    fn disks_are_only_read_and_their_names_stay_names() {
        let disks = [Disk { path: PathBuf::from("/srv/a,file=b.img"), format: "raw" }];
        let guest = Guest {
            monitor: "monitor",
            emulated: true,
            memory_mib: 512,
            kernel: b"",
            initramfs: b"",
            command_line: "root=LABEL=a ro",
            disks: &disks,
            bus: Bus::Sata,
            table: None,
            collector: "",
            limit: Duration::from_secs(1),
        };
        let at = |n: &str| PathBuf::from(n);
        let paths = Paths {
            kernel: at("/k"),
            initramfs: at("/i"),
            console: at("/c"),
            told: at("/t"),
            complaint: at("/e"),
        };
        let words = machine::words(&guest, &paths);
        let after = |option: &str| &words[words.iter().position(|w| w == option).unwrap() + 1];
        assert_eq!(after("-drive"), "if=none,id=disk0,file=/srv/a,,file=b.img,format=raw,snapshot=on");
        assert_eq!(after("-device"), "ide-hd,drive=disk0,bus=ide.0");
        assert!(after("-append").starts_with("root=LABEL=a ro console=ttyS0 rdinit=/bradawl/first"));
        assert_eq!(after("-nic"), "none");
    }
}
