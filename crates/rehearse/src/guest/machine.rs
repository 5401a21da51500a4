//! The machine a guest runs in: a machine monitor as a child process, with disks
//! that take what is written and are thrown away.

use super::memory::Memory;
use super::{Disk, Guest, GuestError};
use rustix::process::Signal;
use std::ffi::{OsStr, OsString};
use std::io;
use std::os::unix::process::CommandExt as _;
use std::path::Path;
use std::process::{Child, Command, Stdio};

/// A running monitor; it ends when this is dropped.
pub(super) struct Machine(Child);

impl Drop for Machine {
    fn drop(&mut self) {
        // It may have ended by itself.
        self.0.kill().ok();
        self.0.wait().ok();
    }
}

/// The files a machine reads and writes.
pub(super) struct Files {
    pub kernel: Memory,
    pub initramfs: Memory,
    pub console: Memory,
    pub told: Memory,
    pub complaint: Memory,
}

impl Machine {
    pub(super) fn start(guest: &Guest<'_>, files: &Files) -> Result<Self, GuestError> {
        let complaint = files.complaint.handle().map_err(GuestError::Workplace)?;
        let child = (guest.bound)()
            .arg(guest.monitor)
            .args(words(guest, files))
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(complaint)
            .spawn();
        child.map(Machine).map_err(GuestError::Workplace)
    }

    /// Whether the monitor has ended.
    pub(super) fn ended(&mut self) -> bool {
        !matches!(self.0.try_wait(), Ok(None))
    }
}

/// Becomes a program that ends with the process that started this one, however
/// that ends. Comes back only with why it could not.
pub fn become_bound(program: &OsStr, arguments: &[OsString]) -> io::Error {
    if let Err(e) = rustix::process::set_parent_process_death_signal(Some(Signal::KILL)) {
        return e.into();
    }
    Command::new(program).args(arguments).exec()
}

/// The monitor's command line (QEMU's).
pub(super) fn words(guest: &Guest<'_>, files: &Files) -> Vec<String> {
    let accelerators: &[&str] = if guest.emulated { &["tcg"] } else { &["kvm", "tcg"] };
    let path = |p: &Path| p.display().to_string();
    let mut words: Vec<String> =
        ["-nodefaults", "-no-user-config", "-nographic", "-no-reboot"].map(str::to_owned).into();
    let mut say = |option: &str, value: String| words.extend([option.to_owned(), value]);
    for accelerator in accelerators {
        say("-accel", (*accelerator).to_owned());
    }
    say("-machine", "q35".to_owned());
    say("-cpu", "max".to_owned());
    say("-m", guest.memory_mib.to_string());
    say("-smp", "2".to_owned());
    say("-nic", "none".to_owned());
    // What runs in the guest is not trusted with the monitor either.
    say("-sandbox", "on,obsolete=deny,elevateprivileges=deny,spawn=deny,resourcecontrol=deny".to_owned());
    say("-kernel", path(&files.kernel.path()));
    say("-initrd", path(&files.initramfs.path()));
    say("-append", guest.whole_command_line());
    say("-serial", format!("file:{}", doubled(&files.console.path())));
    say("-serial", format!("file:{}", doubled(&files.told.path())));
    for (n, disk) in guest.disks.iter().enumerate() {
        let Disk { path, format } = disk;
        // Nothing is guessed of what a disk may say about itself.
        say("-drive", format!("if=none,id=disk{n},file={},format={format},snapshot=on", doubled(path)));
        let bus = guest.bus.device();
        say("-device", format!("{bus},drive=disk{n}{}", guest.bus.place(n)));
    }
    words
}

/// A path within a list of options: its commas are doubled.
fn doubled(path: &Path) -> String {
    path.display().to_string().replace(',', ",,")
}
