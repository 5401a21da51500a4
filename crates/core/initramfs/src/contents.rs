//! What the names and the few small files say.

use crate::member::{Member, is_mount};
use bradawl_facts::probe::lvm_settings;
use bradawl_facts::record::{EarlyMount, Initramfs, InitramfsImage, RawBytes, parse_arrays, parse_crypttab};
use bradawl_facts::table::Table;

/// Programs and scripts that make a root of some kind reachable, by the words of
/// [`InitramfsImage::finds`].
const FINDERS: [(&str, &[&str]); 6] = [
    ("crypt", &["bin/cryptsetup", "bin/systemd-cryptsetup", "systemd/systemd-cryptsetup"]),
    ("lvm", &["bin/lvm"]),
    ("arrays", &["bin/mdadm"]),
    ("multipath", &["bin/multipath"]),
    ("nfs", &["bin/nfsmount", "bin/mount.nfs", "bin/mount.nfs4"]),
    ("iscsi", &["bin/iscsistart", "bin/iscsid"]),
];

/// What was seen so far.
#[derive(Debug, Default)]
pub(crate) struct Contents {
    image: InitramfsImage,
    resume: Option<String>,
    lvm_conf: Option<String>,
    lvm_devices: Option<String>,
    busybox: Option<u64>,
    mount: Option<Mount>,
}

/// The mount program, as it lies in the archive.
#[derive(Debug)]
struct Mount {
    inode: u64,
    size: u64,
    link: Option<String>,
}

impl Contents {
    /// Takes note of a file.
    pub(crate) fn add(&mut self, member: Member<'_>) {
        let name = member.name;
        self.maker(name);
        let found = FINDERS.iter().filter(|(_, ends)| ends.iter().any(|end| name.ends_with(end)));
        for (word, _) in found {
            if !self.image.finds.iter().any(|f| f == word) {
                self.image.finds.push((*word).to_owned());
            }
        }
        match name {
            "usr/bin/busybox" | "bin/busybox" => self.busybox = Some(member.inode),
            "usr/lib/systemd/systemd" | "lib/systemd/systemd" => self.image.systemd = true,
            _ if is_mount(name) => self.mount(&member),
            _ if !member.content.is_empty() && !member.is_link() => {
                self.kept(name, &member.content);
            }
            _ => {}
        }
    }

    fn maker(&mut self, name: &str) {
        self.image.made_by = match name {
            "usr/lib/dracut/modules.txt" | "lib/dracut/modules.txt" | "usr/lib/dracut-lib.sh" => {
                Some(Initramfs::Dracut)
            }
            "conf/initramfs.conf" | "scripts/functions" => Some(Initramfs::InitramfsTools),
            // Where it mounts root; it has nothing else but its program.
            "target" => self.image.made_by.or(Some(Initramfs::TinyInitramfs)),
            "config" | "buildconfig" | "VERSION" => self.image.made_by.or(Some(Initramfs::Mkinitcpio)),
            _ => return,
        };
    }

    /// The file itself comes before the other names of a program that has many.
    fn mount(&mut self, member: &Member<'_>) {
        let link = member.is_link().then(|| String::from_utf8_lossy(&member.content).into_owned());
        let size = member.size.max(self.mount.as_ref().map_or(0, |m| m.size));
        self.mount = Some(Mount { inode: member.inode, size, link });
    }

    fn kept(&mut self, name: &str, bytes: &[u8]) {
        // Makers leave an empty table, or one of comments.
        if name == "etc/fstab" {
            self.image.table = (!Table::parse(bytes).entries().is_empty()).then(|| RawBytes::new(bytes));
        } else {
            self.text(name, &String::from_utf8_lossy(bytes));
        }
    }

    fn text(&mut self, name: &str, text: &str) {
        match name {
            "etc/lvm/lvm.conf" => self.lvm_conf = Some(text.to_owned()),
            "etc/lvm/devices/system.devices" => self.lvm_devices = Some(text.to_owned()),
            "cryptroot/crypttab" | "etc/crypttab" => self.image.crypttab = Some(parse_crypttab(text)),
            "etc/mdadm/mdadm.conf" | "etc/mdadm.conf" => self.image.arrays = Some(parse_arrays(text)),
            "conf/initramfs.conf" | "conf/conf.d/resume" => {
                self.resume = set(text, "RESUME=").or(self.resume.take())
            }
            "usr/lib/dracut/modules.txt" | "lib/dracut/modules.txt" => {
                self.image.parts =
                    text.lines().map(str::trim).filter(|l| !l.is_empty()).map(str::to_owned).collect();
            }
            "config" => self.image.parts = hooks(text),
            _ => self.words(text),
        }
    }

    /// Words of the command line that are packed into the image.
    fn words(&mut self, text: &str) {
        let line = self.image.command_line.get_or_insert_default();
        for word in text.lines().filter(|l| !l.starts_with('#')).flat_map(str::split_whitespace) {
            if !line.is_empty() {
                line.push(' ');
            }
            line.push_str(word);
        }
    }

    /// What all of it says.
    pub(crate) fn told(mut self) -> InitramfsImage {
        self.image.resume = self.resume.filter(|value| !value.is_empty());
        self.image.command_line = self.image.command_line.filter(|line| !line.is_empty());
        self.image.lvm = (self.lvm_conf.is_some() || self.lvm_devices.is_some())
            .then(|| lvm_settings(self.lvm_conf.as_deref(), self.lvm_devices.as_deref()));
        self.image.finds.sort();
        self.image.parts.truncate(MAX_PARTS);
        self.image.mount = self.mount.as_ref().map(|mount| {
            let linked = mount.link.as_deref().is_some_and(|to| to.ends_with("busybox"));
            match () {
                () if linked || self.busybox == Some(mount.inode) => EarlyMount::Busybox,
                // klibc's is some 10 KB, that of util-linux five times as large.
                () if self.image.made_by == Some(Initramfs::InitramfsTools) && mount.size < KLIBC => {
                    EarlyMount::Klibc
                }
                () => EarlyMount::UtilLinux,
            }
        });
        self.image
    }
}

/// More parts are not kept.
const MAX_PARTS: usize = 200;
/// klibc's mount program is smaller, every other one larger.
const KLIBC: u64 = 30_000;

/// The last value that is set.
fn set(text: &str, name: &str) -> Option<String> {
    let value = text.lines().filter_map(|l| l.trim().strip_prefix(name)).next_back()?;
    Some(value.trim().trim_matches(['"', '\'']).to_owned())
}

/// The hooks of mkinitcpio: `EARLYHOOKS="udev" HOOKS="base lvm2"`.
fn hooks(text: &str) -> Vec<String> {
    let all =
        ["EARLYHOOKS=", "HOOKS=", "LATEHOOKS=", "CLEANUPHOOKS="].iter().filter_map(|name| set(text, name));
    let mut hooks: Vec<String> = Vec::new();
    for hook in all.flat_map(|v| v.split_whitespace().map(str::to_owned).collect::<Vec<_>>()) {
        if !hooks.contains(&hook) {
            hooks.push(hook);
        }
    }
    hooks
}
