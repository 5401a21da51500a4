//! What systemd's generator for compressed memory is told to make: the files of
//! zram-generator.conf(5), merged as that merges them (recorded by running it, 1.1.2).

use crate::files::Files;
use bradawl_facts::record::ZramDevice;
use std::collections::BTreeMap;

/// Where its files are; of equal names the first counts.
const FOLDERS: [&str; 4] = ["/run/systemd", "/etc/systemd", "/usr/local/lib/systemd", "/usr/lib/systemd"];
const MAIN: &str = "zram-generator.conf";
/// Of swap, as the kernel has it.
const MAX_PRIORITY: i32 = 32767;
const DROP_INS: &str = "zram-generator.conf.d";

/// The devices it makes with so many bytes of main memory; `None`: it has no settings.
pub(crate) fn zram(files: &Files, memory: Option<u64>) -> Option<Vec<ZramDevice>> {
    let main = FOLDERS.iter().find_map(|folder| files.value(&format!("{folder}/{MAIN}")));
    let mut drop_ins = BTreeMap::new();
    for folder in FOLDERS.map(|folder| format!("{folder}/{DROP_INS}")) {
        for name in files.names(&folder).into_iter().filter(|n| n.ends_with(".conf")) {
            let path = format!("{folder}/{name}");
            drop_ins.entry(name).or_insert_with(|| files.value(&path).unwrap_or_default());
        }
    }
    if main.is_none() && drop_ins.is_empty() {
        return None;
    }
    Some(made(main.into_iter().chain(drop_ins.into_values()), memory).unwrap_or_default())
}

/// The devices of these texts, later ones over earlier ones; `None`: a value ends the
/// generator, and it makes nothing.
fn made(texts: impl Iterator<Item = String>, memory: Option<u64>) -> Option<Vec<ZramDevice>> {
    let mut sections: BTreeMap<u32, BTreeMap<String, String>> = BTreeMap::new();
    for text in texts {
        let mut open = None;
        for line in text.lines().map(str::trim) {
            if let Some(name) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
                open = name.trim().strip_prefix("zram").and_then(|n| n.parse().ok());
                if let Some(n) = open {
                    sections.entry(n).or_default();
                }
            } else if let (Some(n), Some((key, value))) = (open, line.split_once('=')) {
                let section = sections.entry(n).or_default();
                section.insert(key.trim().to_owned(), value.trim().to_owned());
            }
        }
    }
    let mut devices = Vec::new();
    for (n, set) in sections {
        let limit = match set.get("host-memory-limit").map(String::as_str) {
            None | Some("none") => None,
            Some(text) => Some(text.parse::<u64>().ok()?),
        };
        let priority = match set.get("swap-priority") {
            None => ZramDevice::PRIORITY,
            Some(text) => text.parse().ok().filter(|p| (-1..=MAX_PRIORITY).contains(p))?,
        };
        let above = |limit: u64| memory.is_some_and(|bytes| bytes >> 20 > limit);
        if limit.is_some_and(above) || set.get("zram-size").is_some_and(|size| size == "0") {
            continue;
        }
        let mount_point = set.get("mount-point").filter(|path| path.starts_with('/')).cloned();
        let fstype = set.get("fs-type").map_or("swap", String::as_str);
        let is_swap = mount_point.is_none() && fstype == "swap";
        let priority = is_swap.then_some(priority);
        devices.push(ZramDevice { name: format!("zram{n}"), priority, mount_point });
    }
    Some(devices)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// What the generator made of these files, in short.
    fn short(files: &[(&str, &str)]) -> Option<String> {
        let dir = tempfile::tempdir().unwrap();
        for (path, text) in files {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        }
        let made = zram(&Files::own(dir.path().to_owned()), Some(8_000_000 << 10))?;
        let one = |d: &ZramDevice| match (d.priority, &d.mount_point) {
            (Some(priority), _) => format!("{} swap {priority}", d.name),
            (None, Some(path)) => format!("{} on {path}", d.name),
            (None, None) => d.name.clone(),
        };
        Some(made.iter().map(one).collect::<Vec<_>>().join(", "))
    }

    #[test]
    fn files_are_merged_as_the_generator_does() {
        const ETC: &str = "etc/systemd/zram-generator.conf";
        const USR: &str = "usr/lib/systemd/zram-generator.conf";
        let of = |files: &[(&str, &str)]| short(files).unwrap();
        assert_eq!(short(&[]), None);
        assert_eq!(of(&[(ETC, "[zram0]\n")]), "zram0 swap 100");
        let two = "[zram0]\nswap-priority=5\nzram-size=ram/4\n[zram1]\nmount-point=/var/tmp\nfs-type=ext4\n";
        assert_eq!(of(&[(ETC, two)]), "zram0 swap 5, zram1 on /var/tmp");
        assert_eq!(of(&[(ETC, "[zram0]\nzram-size=0\n")]), "");
        assert_eq!(
            of(&[(ETC, ""), ("etc/systemd/zram-generator.conf.d/10.conf", "[zram1]\n"), (USR, "[zram2]\n")]),
            "zram1 swap 100"
        );
        assert_eq!(
            of(&[(ETC, "[zram1]\n"), ("run/systemd/zram-generator.conf", "[zram2]\n")]),
            "zram2 swap 100"
        );
        let (low, high) =
            ("usr/lib/systemd/zram-generator.conf.d/20.conf", "etc/systemd/zram-generator.conf.d/10.conf");
        assert_eq!(
            of(&[(low, "[zram2]\nswap-priority=7\n"), (high, "[zram2]\nswap-priority=9\n")]),
            "zram2 swap 7"
        );
        let hidden =
            [(USR, "[zram1]\n"), ("usr/lib/systemd/zram-generator.conf.d/10.conf", "[zram2]\n"), (high, "")];
        assert_eq!(of(&hidden), "zram1 swap 100");
        assert_eq!(of(&[(ETC, "[zramx]\n[other]\n[ zram3 ]\nbogus=1\n")]), "zram3 swap 100");
        assert_eq!(of(&[(ETC, "[zram0]\nfs-type=ext4\n")]), "zram0");
        let limits = "[zram0]\nhost-memory-limit=7812\n[zram1]\nhost-memory-limit=7811\n[zram2]\nhost-memory-limit=none\n";
        assert_eq!(of(&[(ETC, limits)]), "zram0 swap 100, zram2 swap 100");
        for value in ["swap-priority=40000", "swap-priority=-2", "swap-priority=x", "host-memory-limit=x"] {
            assert_eq!(of(&[(ETC, &format!("[zram0]\n{value}\n[zram1]\n"))]), "", "{value}");
        }
    }
}
