//! The text files of /proc about mounts, swap and memory.

use crate::ask::may_hang;
use crate::files::Files;
use crate::zram::zram;
use bradawl_catalogue::fstypes::known;
use bradawl_facts::path::folders_above;
use bradawl_facts::record::{ActiveSwap, Memory, Mount, Swapping};
use std::collections::HashMap;

/// /proc/self/mountinfo: proc_pid_mountinfo(5).
pub(crate) fn parse_mountinfo(text: &str) -> Vec<Mount> {
    text.lines().filter_map(mount).collect()
}

fn mount(line: &str) -> Option<Mount> {
    let (first, second) = line.split_once(" - ")?;
    let first: Vec<&str> = first.split(' ').collect();
    let second: Vec<&str> = second.splitn(3, ' ').collect();
    let (own, shared) = (first.get(5)?, second.get(2).unwrap_or(&""));
    Some(Mount {
        source: unescape(second.get(1)?),
        target: unescape(first.get(4)?),
        fstype: (*second.first()?).to_owned(),
        options: join_options(own, shared),
        root: Some(unescape(first.get(3)?)),
        device: Some((*first.get(2)?).to_owned()),
        free: None,
        answers: None,
    })
}

/// The mount's own options, then those of its file system that say more.
fn join_options(own: &str, shared: &str) -> String {
    let mut all: Vec<&str> = own.split(',').collect();
    for option in shared.split(',').filter(|o| !matches!(*o, "" | "rw" | "ro")) {
        if !all.contains(&option) {
            all.push(option);
        }
    }
    all.join(",")
}

/// Mounts by their targets; of several on one the last is on top.
pub(crate) struct Mounted<'m> {
    by_target: HashMap<&'m str, &'m Mount>,
    any_may_hang: bool,
}

impl<'m> Mounted<'m> {
    pub(crate) fn new(mounts: &'m [Mount]) -> Self {
        let by_target = mounts.iter().map(|m| (m.target.as_str(), m)).collect();
        Mounted { by_target, any_may_hang: mounts.iter().any(may_hang) }
    }

    /// What is mounted on a target.
    pub(crate) fn at(&self, target: &str) -> Option<&'m Mount> {
        self.by_target.get(target).copied()
    }

    /// The mount that a path lies on.
    pub(crate) fn under(&self, path: &str) -> Option<&'m Mount> {
        std::iter::once(path).chain(folders_above(path)).chain(["/"]).find_map(|p| self.at(p))
    }

    /// Whether looking at any of them may wait for somebody else.
    pub(crate) fn any_may_hang(&self) -> bool {
        self.any_may_hang
    }
}

/// The mounts of this machine below a directory that is some host's root, as that
/// host would see them; none for what is no such directory.
pub(crate) fn below(files: &Files) -> Vec<Mount> {
    let Some((root, true)) = files.folder() else { return Vec::new() };
    let root = root.to_string_lossy().into_owned();
    let text = Files::own("/".into()).value("/proc/self/mountinfo").unwrap_or_default();
    let inside = |mut mount: Mount| {
        let rest = mount.target.strip_prefix(root.trim_end_matches('/'))?;
        match rest {
            "" => mount.target = "/".to_owned(),
            rest if rest.starts_with('/') => mount.target = rest.to_owned(),
            _ => return None,
        }
        Some(mount)
    };
    parse_mountinfo(&text).into_iter().filter_map(inside).collect()
}

/// How much room the file systems on devices have; others might not answer.
pub(crate) fn add_room(files: &Files, mounts: Option<&mut Vec<Mount>>) {
    let on_device = |m: &&mut Mount| known(&m.fstype).is_some_and(|t| t.is_on_device() && !t.needs_program());
    for mount in mounts.into_iter().flatten().filter(on_device) {
        mount.free = files.room(&mount.target);
    }
}

/// /proc/swaps: sizes are in KiB.
pub(crate) fn parse_swaps(text: &str) -> Vec<ActiveSwap> {
    let area = |line: &str| {
        let mut words = line.split_whitespace();
        let path = unescape(words.next()?);
        let kib = |w: Option<&str>| Some(w?.parse::<u64>().ok()?.saturating_mul(1024));
        let _kind = words.next()?;
        let (size, used) = (kib(words.next())?, kib(words.next())?);
        Some(ActiveSwap { path, size, used, priority: words.next()?.parse().ok()? })
    };
    text.lines().skip(1).filter_map(area).collect()
}

/// The kernel's settings for swapping.
pub(crate) fn swapping(files: &Files) -> Swapping {
    let memory = files.value("/proc/meminfo").and_then(|text| parse_meminfo(&text));
    let zswap = files.value("/sys/module/zswap/parameters/enabled");
    Swapping {
        swappiness: files.value("/proc/sys/vm/swappiness").and_then(|v| v.parse().ok()),
        zswap: zswap.map(|v| v == "Y"),
        hibernates: files.value("/sys/power/state").map(|v| v.split_whitespace().any(|w| w == "disk")),
        ..compressed(files, memory)
    }
}

/// What is known of swapping without the running kernel.
pub(crate) fn compressed(files: &Files, memory: Option<Memory>) -> Swapping {
    let devices = zram(files, memory.map(|m| m.total));
    let names = devices.as_ref().map(|all| all.iter().map(|d| d.name.clone()).collect());
    Swapping { zram: names, zram_devices: devices, ..Swapping::default() }
}

/// /proc/meminfo: sizes are in KiB.
pub(crate) fn parse_meminfo(text: &str) -> Option<Memory> {
    let value = |key: &str| {
        let line = text.lines().find_map(|l| l.strip_prefix(key)?.strip_prefix(':'))?;
        Some(line.split_whitespace().next()?.parse::<u64>().ok()?.saturating_mul(1024))
    };
    Some(Memory { total: value("MemTotal")?, swap_total: value("SwapTotal"), swap_free: value("SwapFree") })
}

/// The octal escapes of /proc.
fn unescape(text: &str) -> String {
    String::from_utf8_lossy(&bradawl_facts::table::decode_octal(text.as_bytes())).into_owned()
}

#[cfg(test)]
pub(crate) mod tests {
    use super::*;

    pub(crate) fn mount(target: &str, fstype: &str) -> Mount {
        let line = format!("1 1 0:1 / {target} rw - {fstype} x rw");
        parse_mountinfo(&line).remove(0)
    }

    #[test]
    fn reads_mountinfo() {
        let text = "36 35 98:0 / /srv/tide\\040log rw,noatime shared:1 master:2 - ext4 /dev/vdb rw,errors=continue\n\
                    garbage\n37 35 0:5 / /dev rw - devtmpfs dev rw\n";
        let mounts = parse_mountinfo(text);
        assert_eq!(mounts.len(), 2);
        assert_eq!((mounts[0].target.as_str(), mounts[0].fstype.as_str()), ("/srv/tide log", "ext4"));
        assert_eq!(mounts[0].options, "rw,noatime,errors=continue");
        assert_eq!(mounts[0].device.as_deref(), Some("98:0"));
    }

    #[test]
    fn reads_swaps_and_memory() {
        let swaps = parse_swaps("Filename Type Size Used Priority\n/dev/vdc partition 49148 12 -2\n");
        assert_eq!(
            swaps[0],
            ActiveSwap { path: "/dev/vdc".into(), size: 50_327_552, used: 12_288, priority: -2 }
        );
        let memory = parse_meminfo("MemTotal:  1024 kB\nSwapTotal: 0 kB\n").unwrap();
        assert_eq!((memory.total, memory.swap_total, memory.swap_free), (1 << 20, Some(0), None));
        assert_eq!(parse_meminfo(""), None);
    }
}
