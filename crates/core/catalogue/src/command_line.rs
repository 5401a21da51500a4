//! Words of the kernel's command line that change mounts, swap or the goal of
//! the boot, and whether the forecast plays them. From kernel-command-line(7) of
//! systemd 257, systemd-fstab-generator(8), systemd-cryptsetup-generator(8),
//! initramfs-tools(7), dracut.cmdline(7) and the kernel's own list.

use bradawl_facts::record::{CommandLine, Early, Initramfs, Record};

/// What the forecast makes of a word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Effect {
    /// It is played.
    Played,
    /// It has no say in mounts, swap or the goal here: why.
    None(&'static str),
    /// It has one, and is not played: what it does.
    NotPlayed(&'static str),
}

/// Who reads a word.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Reader {
    /// The kernel or any initramfs.
    Kernel,
    /// initramfs-tools and its scripts.
    InitramfsTools,
    /// dracut.
    Dracut,
    /// systemd.
    Systemd,
}

/// A word.
#[derive(Debug, Clone, Copy)]
pub struct Word {
    /// Its name; with `*` at the end all that begin so.
    pub name: &'static str,
    /// Who reads it.
    pub reader: Reader,
    /// What the forecast makes of it.
    pub effect: Effect,
}

const fn word(reader: Reader, name: &'static str, effect: Effect) -> Word {
    Word { name, reader, effect }
}

use Effect::{None as Nothing, NotPlayed, Played};
use Reader::{Dracut, InitramfsTools, Kernel, Systemd};

const INITRD: Effect = Nothing("read by a systemd inside the initramfs only");
const SERVICE: Effect = Nothing("of services that no mount waits for");

/// All of them.
pub const WORDS: &[Word] = &[
    word(Kernel, "root", Played),
    word(Kernel, "rootfstype", Played),
    word(Kernel, "rootflags", Played),
    word(Kernel, "ro", Played),
    word(Kernel, "rw", Played),
    word(Kernel, "init", Played),
    word(Kernel, "rootwait", Played),
    word(Kernel, "nfsroot", NotPlayed("it has root come from a server")),
    word(Kernel, "ip", Nothing("whether the network comes up is not in a record")),
    word(Kernel, "resume", Played),
    word(Kernel, "resume_offset", Nothing("where in the device the image lies")),
    word(Kernel, "noresume", Played),
    word(Kernel, "nohibernate", Nothing("the kernel does not hibernate; the survey asks it")),
    word(Kernel, "dm-mod.create", NotPlayed("it has the kernel make mappings")),
    word(Kernel, "raid", NotPlayed("it has the kernel put arrays together, or not")),
    word(Kernel, "md", NotPlayed("it has the kernel put an array together")),
    word(InitramfsTools, "rootdelay", Played),
    word(InitramfsTools, "break", Played),
    word(InitramfsTools, "boot", NotPlayed("it has scripts of its own find root")),
    word(InitramfsTools, "fastboot", Played),
    word(InitramfsTools, "forcefsck", Nothing("a check that is forced finds what it would find")),
    word(InitramfsTools, "fsckfix", Nothing("of the check of root and /usr, which is not played")),
    word(InitramfsTools, "panic", Nothing("what its shell does when nobody is there")),
    word(InitramfsTools, "cryptopts", NotPlayed("it has the initramfs open a container")),
    word(Dracut, "rd.break", Played),
    word(Dracut, "rd.luks", NotPlayed("it says whether containers are opened in the initramfs")),
    word(Dracut, "rd.luks.*", NotPlayed("it says which containers are opened in the initramfs")),
    word(Dracut, "rd.md", NotPlayed("it says whether arrays are put together in the initramfs")),
    word(Dracut, "rd.md.*", NotPlayed("it says which arrays are put together in the initramfs")),
    word(Dracut, "rd.lvm", NotPlayed("it says whether groups are activated in the initramfs")),
    word(Dracut, "rd.lvm.*", NotPlayed("it says which groups are activated in the initramfs")),
    word(Dracut, "rd.dm", NotPlayed("it says whether mappings are made in the initramfs")),
    word(Dracut, "rd.retry", Played),
    word(Dracut, "rd.timeout", Played),
    word(Dracut, "rd.shell", Nothing("what the initramfs does when it has given up")),
    word(Dracut, "rd.emergency", NotPlayed("it has the machine restart where the initramfs gives up")),
    word(Dracut, "rd.live.*", NotPlayed("it has root be a live system")),
    word(Dracut, "rd.overlay*", NotPlayed("it lays an overlay over root")),
    word(Dracut, "rd.neednet", Nothing("whether the network comes up is not in a record")),
    word(Systemd, "systemd.unit", Played),
    word(Systemd, "rd.systemd.unit", INITRD),
    word(Systemd, "emergency", Played),
    word(Systemd, "-b", Played),
    word(Systemd, "rescue", Played),
    word(Systemd, "single", Played),
    word(Systemd, "-s", Played),
    word(Systemd, "s", Played),
    word(Systemd, "S", Played),
    word(Systemd, "1", Played),
    word(Systemd, "2", Played),
    word(Systemd, "3", Played),
    word(Systemd, "4", Played),
    word(Systemd, "5", Played),
    word(Systemd, "systemd.wants", Played),
    word(Systemd, "rd.systemd.wants", INITRD),
    word(Systemd, "systemd.mask", Played),
    word(Systemd, "rd.systemd.mask", INITRD),
    word(Systemd, "systemd.run", Played),
    word(Systemd, "systemd.run_success_action", Played),
    word(Systemd, "systemd.run_failure_action", Nothing("whether the command succeeds is not known")),
    word(Systemd, "systemd.debug_shell", Nothing("a shell beside the boot")),
    word(Systemd, "fstab", Played),
    word(Systemd, "rd.fstab", INITRD),
    word(Systemd, "systemd.swap", Played),
    word(Systemd, "systemd.mount-extra", Played),
    word(Systemd, "rd.systemd.mount-extra", INITRD),
    word(Systemd, "systemd.swap-extra", Played),
    word(Systemd, "rd.systemd.swap-extra", INITRD),
    word(Systemd, "mount.usr", INITRD),
    word(Systemd, "mount.usrfstype", INITRD),
    word(Systemd, "mount.usrflags", INITRD),
    word(Systemd, "systemd.volatile", NotPlayed("it lays an empty tmpfs over /var, or over root")),
    word(Systemd, "systemd.default_device_timeout_sec", Played),
    word(Systemd, "systemd.default_timeout_start_sec", Played),
    word(Systemd, "fsck.mode", Played),
    word(Systemd, "fsck.repair", Played),
    word(Systemd, "quotacheck.mode", SERVICE),
    word(Systemd, "luks", Played),
    word(Systemd, "rd.luks.crypttab", INITRD),
    word(Systemd, "luks.crypttab", Played),
    word(Systemd, "luks.uuid", Played),
    word(Systemd, "luks.name", Played),
    word(Systemd, "luks.options", NotPlayed("it says how containers are opened")),
    word(Systemd, "luks.key", NotPlayed("it says by which key containers are opened")),
    word(Systemd, "luks.data", NotPlayed("it says where a container's data lie")),
    word(Systemd, "systemd.gpt_auto", Played),
    word(Systemd, "rd.systemd.gpt_auto", INITRD),
    word(Systemd, "systemd.image_policy", NotPlayed("it says which partitions are mounted by their types")),
    word(Systemd, "roothash", NotPlayed("it puts a verity device in root's place")),
    word(Systemd, "usrhash", NotPlayed("it puts a verity device in the place of /usr")),
    word(Systemd, "systemd.verity*", NotPlayed("it says how a verity device is put in root's place")),
    word(Systemd, "veritytab", NotPlayed("it says whether veritytab is read")),
    word(Systemd, "systemd.factory_reset", NotPlayed("it has partitions re-created")),
    word(Systemd, "systemd.zram", Played),
    word(Systemd, "zram", NotPlayed("it says whether compressed memory is made")),
    word(Systemd, "systemd.hibernate_resume*", NotPlayed("it has the boot resume otherwise")),
    word(Systemd, "resumeflags", Nothing("of the mount that is never made")),
];

/// A word of a command line that changes mounts, swap or the goal and is not
/// played.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Unplayed<'r> {
    /// As it stands there, without its value.
    pub word: &'r str,
    /// What it does, after "it".
    pub does: &'static str,
}

/// Words that are played where it is known what is packed into dracut's image: that
/// may have more of them.
const WITH_IMAGE: [&str; 8] =
    ["rd.luks", "rd.luks.name", "rd.luks.uuid", "rd.lvm", "rd.lvm.lv", "rd.lvm.vg", "rd.md", "rd.md.uuid"];

/// The words of a host's command line that are not played, each once.
pub fn not_played(record: &Record) -> Vec<Unplayed<'_>> {
    let systemd = record.host.boots_with().is_systemd();
    let initramfs = record.early.as_ref().and_then(Early::maker);
    let reads = |reader: Reader| match reader {
        Kernel => true,
        Systemd => systemd,
        Dracut => matches!(initramfs, Some(Initramfs::Dracut) | None),
        InitramfsTools => matches!(initramfs, Some(Initramfs::InitramfsTools) | None),
    };
    let image = record.early.as_ref().and_then(|e| e.image.as_ref());
    let read = image.is_some_and(|image| image.made_by == Some(Initramfs::Dracut));
    let mut found: Vec<Unplayed<'_>> = Vec::new();
    for given in CommandLine::of(record).words() {
        let name = given.split('=').next().unwrap_or(given);
        if read && WITH_IMAGE.contains(&name) {
            continue;
        }
        let row = WORDS.iter().find(|row| reads(row.reader) && row.is(name));
        if let Some(NotPlayed(does)) = row.map(|row| row.effect)
            && !found.iter().any(|f| f.word == name)
        {
            found.push(Unplayed { word: name, does: does.trim_start_matches("it ") });
        }
    }
    found
}

/// The words of a line that have a say in mounts, swap or the goal, in order.
pub fn deciding(line: &str) -> Vec<&str> {
    let decides = |word: &&str| {
        let name = word.split('=').next().unwrap_or(word);
        WORDS.iter().any(|row| row.is(name) && !matches!(row.effect, Nothing(_)))
    };
    line.split_ascii_whitespace().filter(decides).collect()
}

impl Word {
    /// Whether it is called so; systemd takes `-` and `_` for the same.
    fn is(&self, name: &str) -> bool {
        let plain = |byte: u8| if byte == b'-' { b'_' } else { byte };
        let same = |a: &str, b: &str| a.bytes().map(plain).eq(b.bytes().map(plain));
        match self.name.strip_suffix('*') {
            Some(start) => name.get(..start.len()).is_some_and(|head| same(head, start)),
            None if self.reader == Systemd => name.len() == self.name.len() && same(name, self.name),
            None => name == self.name,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_not_played_is_told_once() {
        let mut record = Record::new("mooring");
        let told = |record: &Record| not_played(record).iter().map(|u| u.word.to_owned()).collect::<Vec<_>>();
        for (line, words) in [
            ("root=LABEL=hull ro quiet single", vec![]),
            (
                "systemd.factory-reset=no systemd.factory_reset=yes",
                vec!["systemd.factory-reset", "systemd.factory_reset"],
            ),
            ("roothash=ab roothash=cd rd.lvm.lv=hold/cargo", vec!["roothash", "rd.lvm.lv"]),
            ("rd.systemd.mount-extra=a:b", vec![]),
        ] {
            record.command_line = Some(line.to_owned());
            assert_eq!(told(&record), words, "{line}");
        }
        record.early.get_or_insert_default().initramfs = Some(Initramfs::InitramfsTools);
        record.command_line = Some("rd.lvm.lv=hold/cargo".to_owned());
        assert_eq!(told(&record), Vec::<String>::new());
    }

    #[test]
    fn each_word_stands_once() {
        for (n, row) in WORDS.iter().enumerate() {
            assert!(!WORDS[n + 1..].iter().any(|other| other.name == row.name), "{}", row.name);
        }
    }
}
