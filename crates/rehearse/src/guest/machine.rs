//! The machine a guest runs in: a machine monitor as a child process, with disks
//! that take what is written and are thrown away.

use super::{Disk, Guest, GuestError};
use std::path::{Path, PathBuf};
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
pub(super) struct Paths {
    pub kernel: PathBuf,
    pub initramfs: PathBuf,
    pub console: PathBuf,
    pub told: PathBuf,
    pub complaint: PathBuf,
}

impl Machine {
    pub(super) fn start(guest: &Guest<'_>, paths: &Paths, directory: &Path) -> Result<Self, GuestError> {
        let complaint = std::fs::File::create(&paths.complaint).map_err(GuestError::Workplace)?;
        let child = Command::new(guest.monitor)
            .args(words(guest, paths))
            // What the guest writes to its disks lies there.
            .env("TMPDIR", directory)
            .stdin(Stdio::null())
            .stdout(Stdio::null())
            .stderr(complaint)
            .spawn();
        let failed = |e| GuestError::Monitor(guest.monitor.to_owned(), e);
        child.map(Machine).map_err(failed)
    }

    /// Whether the monitor has ended.
    pub(super) fn ended(&mut self) -> bool {
        !matches!(self.0.try_wait(), Ok(None))
    }
}

/// The monitor's command line (QEMU's).
pub(super) fn words(guest: &Guest<'_>, paths: &Paths) -> Vec<String> {
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
    say("-kernel", path(&paths.kernel));
    say("-initrd", path(&paths.initramfs));
    say("-append", guest.whole_command_line());
    say("-serial", format!("file:{}", doubled(&paths.console)));
    say("-serial", format!("file:{}", doubled(&paths.told)));
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
