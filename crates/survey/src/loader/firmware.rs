//! Raspberry Pi boards: their firmware reads the kernel's command line from cmdline.txt, and
//! from config.txt which kernel and initramfs it loads.

use super::text;
use crate::files::Files;
use bradawl_facts::record::NextBoot;

/// Where the firmware's partition is mounted.
const PLACES: [&str; 2] = ["/boot/firmware", "/boot"];

pub(super) fn next(files: &Files) -> Option<NextBoot> {
    let place = PLACES.into_iter().find(|place| files.exists(&format!("{place}/cmdline.txt")))?;
    let from = format!("{place}/cmdline.txt");
    let line = text(files, &from)?;
    let config = text(files, &format!("{place}/config.txt"));
    let loads = config.as_deref().map(loads);
    Some(NextBoot {
        title: "the board's firmware".to_owned(),
        // Only where its settings are known it is said that there is no initramfs.
        kernel: loads.as_ref().filter(|loads| !loads.may_have_other).map(|loads| loads.kernel.clone()),
        initramfs: loads.and_then(|loads| loads.initramfs),
        command_line: line
            .lines()
            .next()
            .unwrap_or_default()
            .split_whitespace()
            .collect::<Vec<_>>()
            .join(" "),
        from,
    })
}

/// What config.txt has the firmware load.
struct Loads {
    kernel: String,
    initramfs: Option<String>,
    /// An initramfs whose name the file does not say, or one for some boards only.
    may_have_other: bool,
}

fn loads(config: &str) -> Loads {
    let mut loads = Loads { kernel: "kernel.img".to_owned(), initramfs: None, may_have_other: false };
    let mut for_all = true;
    for line in config.lines().map(str::trim).filter(|line| !line.starts_with('#')) {
        if let Some(section) = line.strip_prefix('[') {
            for_all = section.starts_with("all]");
        } else if let Some(name) = line.strip_prefix("initramfs ") {
            let name = name.split_whitespace().next().map(str::to_owned);
            (loads.initramfs, loads.may_have_other) = if for_all { (name, false) } else { (None, true) };
        } else if line.starts_with("auto_initramfs=1") || line.starts_with("include ") {
            loads.may_have_other = true;
        } else if let Some(name) = line.strip_prefix("kernel=").filter(|_| for_all) {
            loads.kernel = name.trim().to_owned();
        }
    }
    loads
}

#[cfg(test)]
mod tests {
    use super::super::testing::of;
    use bradawl_facts::record::{Early, Initramfs};

    #[test]
    fn the_firmware_says_what_it_loads() {
        let line =
            "console=serial0,115200 root=PARTUUID=4e639091-02 rootfstype=ext4 fsck.repair=yes rootwait\n";
        for (config, initramfs, alone) in [
            (None, None, false),
            (Some("arm_64bit=1\n[pi4]\nmax_framebuffers=2\n[all]\nkernel=kernel8.img\n"), None, true),
            (Some("auto_initramfs=1\n"), None, false),
            (Some("initramfs initrd.img-6.9 followkernel\n"), Some("initrd.img-6.9"), false),
            (Some("[pi5]\ninitramfs initrd8 followkernel\n"), None, false),
        ] {
            let mut files = vec![("boot/firmware/cmdline.txt", line)];
            files.extend(config.map(|config| ("boot/firmware/config.txt", config)));
            let next = of(&files).unwrap();
            assert_eq!(next.command_line, line.trim_end());
            assert_eq!(next.initramfs.as_deref(), initramfs, "{config:?}");
            let early = Early { next: Some(next), ..Early::default() };
            assert_eq!(early.maker() == Some(Initramfs::Without), alone, "{config:?}");
        }
    }
}
