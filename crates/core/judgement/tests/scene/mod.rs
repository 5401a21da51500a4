//! Tables of the corpus with the hosts they lie on.
//!
//! A file of `tests/corpus` is a table; lines that begin with `#=` are not
//! part of it but say what host it is on and what is to be found:
//!
//! ```text
//! #= host kernel=6.1.0 init=systemd-252 cmdline=root=/dev/sda2,ro
//! #= device /dev/sda2 ext4 UUID=… LABEL=… PARTUUID=… subvol=… kind=partition removable state=errors feature=bigtime
//! #= device /dev/sdb holds=lvm|raid|luks|empty|table|journal|ambiguous UUID=…
//! #= device /dev/loop0 ext4 UUID=… kind=loop backing=/srv/a.img
//! #= device /dev/sdb holds=raid level=raid1 of=2
//! #= host initramfs=initramfs-tools|dracut|mkinitcpio
//! #= device /dev/sdb holds=table entry=PARTUUID     a partition the kernel does not know
//! #= earlier /dev/sda3 swap UUID=…      the device in an earlier record
//! #= path /srv/x directory|file|absent entries=3 real=/srv/y
//! #= path /swapfile file swap mode=644 uid=1000 on=/srv/x holes copied unmade
//! #= mounted /dev/sda2 / ext4 rw,relatime silent
//! #= swapped /dev/sda3 100             active now, with its priority
//! #= unit srv-x.mount what=LABEL=x where=/srv/x wanted
//! #= made unit srv-x.mount             a line of what the host's generator makes of the table
//! #= types ext4 xfs                     all that the kernel has
//! #= helpers nfs                        all that is installed
//! #= checkers ext4
//! #= quota quotaon                      programs for quotas
//! #= user tide 1001
//! #= crypttab tides LABEL=x /root/key luks   a mapping that is made, with its key and options
//! #= arrays UUID                        arrays that are declared
//! #= touched 20 10                      table changed, units made
//! #= table-mode 644
//! #= policy [[require]] …               a line of a policy
//! #= expect 3 device-unknown halt       line 0: the whole table
//! ```
//!
//! `<CR>`, `<NUL>`, `<BOM>`, `<NBSP>`, `<L1>` (a Latin-1 byte), `<LONG>` and
//! `<NOEOL>` stand for what cannot be seen.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_facts::record::{
    ActiveSwap, Backing, Content, ContentKind, CryptEntry, Device, DeviceKind, Early, FsSupport, Generated,
    Init, InitKind, LocalUnit, Memory, Mount, NextBoot, Origin, PartitionEntry, PartitionFacts, PathFacts,
    PathKind, Programs, RawBytes, Record, TableFile,
};
use std::path::Path;

/// A table, its host, and what is to be found.
pub struct Scene {
    pub name: String,
    pub record: Record,
    pub earlier: Option<Record>,
    pub policy: Option<String>,
    /// Line, rule, consequence.
    pub expected: Vec<(usize, String, String)>,
}

/// All files of the corpus.
pub fn corpus(folder: &str) -> Vec<Scene> {
    let mut paths: Vec<_> = std::fs::read_dir(folder).unwrap().map(|e| e.unwrap().path()).collect();
    paths.retain(|p| p.extension().is_some_and(|e| e == "fstab"));
    paths.sort();
    paths.iter().map(|p| read(p)).collect()
}

fn read(path: &Path) -> Scene {
    let name = path.file_stem().unwrap().to_string_lossy().into_owned();
    let text = std::fs::read_to_string(path).unwrap();
    let mut scene =
        Scene { record: host(), earlier: None, policy: None, expected: Vec::new(), name: name.clone() };
    let mut table = String::new();
    for line in text.split_inclusive('\n') {
        match line.strip_prefix("#= ") {
            Some(said) => scene.take(said.trim_end()),
            None => table.push_str(line),
        }
    }
    let file = TableFile::new("/etc/fstab", unseen(&table));
    if let Some(generated) = &mut scene.record.generated {
        generated.table = file.bytes.clone();
    }
    match scene.record.tables.first_mut() {
        Some(begun) => begun.bytes = file.bytes,
        None => scene.record.tables.push(file),
    }
    scene
}

fn host() -> Record {
    let mut record = Record::new("quayside");
    record.host.kernel = Some("6.1.0-50-amd64".to_owned());
    record.host.init = Some(Init { running: Some(true), ..Init::new(InitKind::Systemd, Some("252")) });
    record.devices = Some(Vec::new());
    record.units = Some(Vec::new());
    record
}

fn unseen(table: &str) -> Vec<u8> {
    let text = table
        .replace("<CR>", "\r")
        .replace("<NUL>", "\0")
        .replace("<BOM>", "\u{feff}")
        .replace("<NBSP>", "\u{a0}")
        .replace("<LONG>", &"long".repeat(1100))
        .replace("<NOEOL>\n", "");
    let mut bytes = Vec::new();
    for (n, part) in text.split("<L1>").enumerate() {
        if n > 0 {
            bytes.push(0xe4);
        }
        bytes.extend_from_slice(part.as_bytes());
    }
    bytes
}

impl Scene {
    fn take(&mut self, said: &str) {
        let (what, rest) = said.split_once(' ').unwrap_or((said, ""));
        let words: Vec<&str> = rest.split_whitespace().collect();
        let list = || words.iter().map(|w| (*w).to_owned()).collect::<Vec<_>>();
        let record = &mut self.record;
        match what {
            "about" => {}
            "host" => words.iter().for_each(|w| host_fact(record, w)),
            "device" => record.devices.as_mut().unwrap().push(device(&words)),
            "earlier" => {
                let earlier = self.earlier.get_or_insert_with(host);
                earlier.devices.as_mut().unwrap().push(device(&words));
            }
            "path" => record.paths.push(path(&words)),
            "swapped" => {
                let (path, priority) = (words[0].to_owned(), words[1].parse().unwrap());
                let area = ActiveSwap { path, size: 1 << 30, used: 0, priority };
                record.swaps.get_or_insert_default().push(area);
            }
            "mounted" => record.mounts.get_or_insert_default().push(mounted(&words)),
            "unit" => record.units.as_mut().unwrap().push(unit(&words)),
            "types" => {
                record.filesystems =
                    Some(FsSupport { on_devices: list(), modules: Some(Vec::new()), ..FsSupport::default() });
            }
            "helpers" => programs(record).mount_helpers = list(),
            "quota" => programs(record).quota = Some(list()),
            "crypttab" => {
                let (name, source) = (words[0].to_owned(), words[1].to_owned());
                let key = words.get(2).map(|key| (*key).to_owned());
                let options = words.get(3).map(|options| (*options).to_owned()).unwrap_or_default();
                let entry = CryptEntry { name, source, key, options };
                early(record).crypttab.get_or_insert_default().push(entry);
            }
            "arrays" => early(record).arrays = Some(list()),
            "user" => {
                let accounts = record.accounts.get_or_insert_default();
                accounts.users.insert(words[0].to_owned(), words[1].parse().unwrap());
            }
            "made" => {
                let none = || Generated { table: RawBytes::new(""), made: Vec::new() };
                record.generated.get_or_insert_with(none).made.push(rest.to_owned());
            }
            "checkers" => programs(record).checkers = list(),
            "table-mode" => {
                let mode = u32::from_str_radix(words[0], 8).ok();
                record.tables.push(TableFile { mode, ..TableFile::new("/etc/fstab", "") });
            }
            "touched" => {
                let second = |n: usize| words[n].parse().ok();
                let table = TableFile { modified_s: second(0), ..TableFile::new("/etc/fstab", "") };
                record.tables.push(table);
                record.host.init.as_mut().unwrap().table_read_s = second(1);
            }
            "policy" => {
                let policy = self.policy.get_or_insert_default();
                policy.push_str(rest);
                policy.push('\n');
            }
            "expect" => {
                let [line, rule, consequence] = words.as_slice() else { panic!("{}: {said}", self.name) };
                self.expected.push((line.parse().unwrap(), (*rule).to_owned(), (*consequence).to_owned()));
            }
            other => panic!("{}: unknown word {other}", self.name),
        }
    }
}

fn programs(record: &mut Record) -> &mut Programs {
    let checkers = ["ext2", "ext3", "ext4", "vfat", "msdos", "exfat", "xfs", "btrfs"].map(str::to_owned);
    record.programs.get_or_insert_with(|| Programs { checkers: checkers.to_vec(), ..Programs::default() })
}

fn early(record: &mut Record) -> &mut Early {
    record.early.get_or_insert_default()
}

fn host_fact(record: &mut Record, word: &str) {
    let (key, value) = word.split_once('=').unwrap_or((word, ""));
    match key {
        "name" => record.host.name = value.to_owned(),
        "calls-itself" => record.host.own_name = Some(value.to_owned()),
        "kernel" => record.host.kernel = Some(value.to_owned()),
        "memory" => {
            let total = value.parse().unwrap();
            record.memory = Some(Memory { total, swap_total: Some(0), swap_free: None });
        }
        "page" => record.host.page_size = value.parse().ok(),
        "live" => record.host.origin = Some(Origin::Live),
        "container" => record.host.container = Some(true),
        "initramfs" => early(record).initramfs = serde_json::from_value(value.into()).unwrap(),
        "image" => early(record).image = serde_json::from_str(value).unwrap(),
        "cmdline" => record.command_line = Some(value.replace(',', " ")),
        // `alone`: the kernel, without an initramfs.
        "next" | "alone" => {
            let (command_line, from) = (value.replace(',', " "), "/boot/grub/grub.cfg".to_owned());
            let kernel = (key == "alone").then(|| "/vmlinuz".to_owned());
            early(record).next = Some(NextBoot { command_line, from, kernel, ..NextBoot::default() });
        }
        "init" => {
            let (kind, version) = value.split_once('-').map_or((value, None), |(k, v)| (k, Some(v)));
            let kind = if kind == "sysvinit" { InitKind::Sysvinit } else { InitKind::Systemd };
            record.host.init = Some(Init { running: Some(true), ..Init::new(kind, version) });
        }
        other => panic!("unknown fact {other}"),
    }
}

fn device(words: &[&str]) -> Device {
    let mut device = Device::new(words[0], DeviceKind::Disk);
    device.size = Some(64 << 30);
    let mut content = Content::default();
    let mut part = PartitionFacts::default();
    for word in &words[1..] {
        let (key, value) = word.split_once('=').unwrap_or((word, ""));
        let text = Some(value.replace("\\040", " "));
        match key {
            "UUID" => content.uuid = text,
            "LABEL" => content.label = text,
            "state" => content.state = text,
            "page" => content.block_size = value.parse().ok(),
            "area" => content.size = value.parse().ok(),
            "feature" => content.features.push(value.to_owned()),
            "subvol" => content.subvolumes.get_or_insert_default().push(value.to_owned()),
            "level" => content.level = text,
            "of" => content.raid_devices = value.parse().ok(),
            "truncated" => content.truncated = Some(true),
            "holds" => content = held(value),
            "PARTUUID" => part.uuid = text,
            "PARTLABEL" => part.label = text,
            "parttype" => part.type_id = text,
            "number" => part.number = value.parse().ok(),
            "parent" => device.parents.push(value.to_owned()),
            "child" => device.children.push(value.to_owned()),
            "links" => device.links = Some(value.split(',').map(str::to_owned).collect()),
            "entry" => content.partitions.push(PartitionEntry {
                number: 9,
                start: 1 << 20,
                size: 1 << 30,
                uuid: text,
                label: None,
                type_id: "0x83".to_owned(),
                extended: false,
                out_of_range: false,
                no_auto: false,
            }),
            "removable" => device.removable = Some(true),
            "kind" => device.kind = serde_json::from_value(value.into()).unwrap(),
            "backing" => {
                device.backing = Some(Backing { file: value.to_owned(), ..Backing::default() });
            }
            "unread" => {}
            "swap" => {
                content = Content { uuid: content.uuid, ..Content::new(ContentKind::Swap, Some("swap")) }
            }
            fstype => content = Content::new(ContentKind::Filesystem, Some(fstype)),
        }
    }
    if part != PartitionFacts::default() {
        device.kind = DeviceKind::Partition;
        device.partition = Some(part);
    }
    if !words.contains(&"unread") {
        device.content = Some(content);
    }
    device
}

fn held(word: &str) -> Content {
    let (kind, fstype) = match word {
        "lvm" => (ContentKind::LvmPv, Some("LVM2 PV")),
        "raid" => (ContentKind::RaidMember, Some("Linux RAID")),
        "luks" => (ContentKind::Encrypted, Some("LUKS2")),
        "table" => (ContentKind::PartitionTable, Some("gpt")),
        "extended" => (ContentKind::PartitionTable, Some("mbr")),
        "journal" => (ContentKind::Journal, Some("ext4 journal")),
        "ambiguous" => (ContentKind::Ambiguous, Some("ext4+ntfs")),
        _ => (ContentKind::Empty, None),
    };
    Content::new(kind, fstype)
}

fn path(words: &[&str]) -> PathFacts {
    let kind = serde_json::from_value(words[1].into()).unwrap();
    let mut facts = PathFacts::new(words[0], kind);
    for word in &words[2..] {
        match word.split_once('=').unwrap_or((word, "")) {
            ("entries", n) => facts.entries = n.parse().ok(),
            ("real", real) => facts.canonical = Some(real.to_owned()),
            ("swap", _) => {
                facts.content = Some(Content::new(ContentKind::Swap, Some("swap")));
                (facts.size, facts.allocated) = (Some(1 << 30), Some(1 << 30));
            }
            ("mode", octal) => facts.mode = u32::from_str_radix(octal, 8).ok(),
            ("uid", uid) => facts.uid = uid.parse().ok(),
            ("on", folder) => facts.lies_on = Some(folder.to_owned()),
            ("holes", _) => facts.allocated = Some(4096),
            ("copied", _) => facts.nocow = Some(false),
            ("unmade", _) => facts.content = Some(Content::new(ContentKind::Unknown, None)),
            (other, _) => panic!("unknown fact {other}"),
        }
    }
    if kind == PathKind::Directory {
        facts.entries = facts.entries.or(Some(0));
    }
    facts
}

fn mounted(words: &[&str]) -> Mount {
    Mount {
        source: words[0].to_owned(),
        target: words[1].to_owned(),
        fstype: words[2].to_owned(),
        options: words.get(3).unwrap_or(&"rw,relatime").to_string(),
        root: Some("/".to_owned()),
        device: None,
        free: None,
        answers: words.contains(&"silent").then_some(false),
    }
}

fn unit(words: &[&str]) -> LocalUnit {
    let value = |key: &str| words.iter().find_map(|w| w.strip_prefix(key)).map(str::to_owned);
    LocalUnit {
        name: words[0].to_owned(),
        path: format!("/etc/systemd/system/{}", words[0]),
        what: value("what="),
        target: value("where="),
        wanted: words.contains(&"wanted").then_some(true),
        ..LocalUnit::default()
    }
}
