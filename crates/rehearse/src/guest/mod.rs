//! A whole boot of disk images in a guest: the new table is put over the old
//! one by the initramfs, a real boot runs, and what became of it is read back.
//! The images are only read; what the guest writes is thrown away.

mod console;
mod cpio;
mod initramfs;
mod machine;
mod memory;
mod stand_in;

pub use console::GuestEnd;
pub use machine::become_bound;
pub use stand_in::make as make_stand_ins;

use machine::{Files, Machine};
use memory::Memory;
use std::io;
use std::path::PathBuf;
use std::process::Command;
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
    /// A command that becomes the program which is its first argument, and ends
    /// with this process ([`become_bound`]).
    pub bound: &'a dyn Fn() -> Command,
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
    /// The monitor ended with a complaint.
    #[error("the machine monitor gave up: {0}")]
    GaveUp(String),
    /// No memory for what the guest needs, or no process.
    #[error("the guest cannot be started: {0}")]
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
        // It tells before the end, or it will not tell.
        let tells = self.limit.saturating_sub(self.limit / 6);
        let initramfs = initramfs::with_ours(self.initramfs, self.table, self.collector, tells);
        let file = |content: &[u8]| Memory::new(content).map_err(GuestError::Workplace);
        let files = Files {
            kernel: file(self.kernel)?,
            initramfs: file(&initramfs)?,
            console: file(&[])?,
            told: file(&[])?,
            complaint: file(&[])?,
        };
        let began = Instant::now();
        let mut machine = Machine::start(self, &files)?;
        let cut_off = self.watch(&mut machine, &files, began);
        drop(machine);
        let console = files.console.tail(CONSOLE);
        let told = told(&files.told.tail(MAX_TOLD)).unwrap_or_default();
        if console.is_empty() && told.is_empty() && !cut_off {
            let complaint = String::from_utf8_lossy(&files.complaint.tail(4 << 10)).trim().to_owned();
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
    fn watch(&self, machine: &mut Machine, files: &Files, began: Instant) -> bool {
        let mut shell: Option<Instant> = None;
        loop {
            sleep(PAUSE);
            if machine.ended() || has_told(&files.told) {
                return false;
            }
            // A guest that writes without end does not fill the memory.
            let wrote = [&files.told, &files.console].iter().any(|file| file.size() > MAX_TOLD);
            if wrote || began.elapsed() > self.limit {
                return true;
            }
            let end = console::end(&files.console.tail(CONSOLE));
            if !matches!(end, Some(GuestEnd::InitramfsShell | GuestEnd::Panic)) {
                shell = None;
            } else if shell.get_or_insert_with(Instant::now).elapsed() > AFTER_SHELL {
                return false;
            }
        }
    }
}

/// Whether the guest has told all it will.
fn has_told(file: &Memory) -> bool {
    String::from_utf8_lossy(&file.tail(64)).replace('\r', "").ends_with(END)
}

/// What stands between the marks, when both are there.
fn told(bytes: &[u8]) -> Option<Vec<u8>> {
    let text = String::from_utf8_lossy(bytes).replace('\r', "");
    let (_, rest) = text.split_once(BEGIN)?;
    let (told, _) = rest.rsplit_once(END)?;
    Some(told.as_bytes().to_vec())
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
            bound: &|| Command::new("true"),
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
        let file = || Memory::new(b"").unwrap();
        let (kernel, initramfs, console, told, complaint) = (file(), file(), file(), file(), file());
        let files = Files { kernel, initramfs, console, told, complaint };
        let words = machine::words(&guest, &files);
        let after = |option: &str| &words[words.iter().position(|w| w == option).unwrap() + 1];
        assert_eq!(after("-drive"), "if=none,id=disk0,file=/srv/a,,file=b.img,format=raw,snapshot=on");
        assert_eq!(after("-device"), "ide-hd,drive=disk0,bus=ide.0");
        assert!(after("-append").starts_with("root=LABEL=a ro console=ttyS0 rdinit=/bradawl/first"));
        assert_eq!(after("-nic"), "none");
    }
}
