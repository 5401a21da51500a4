//! What the kernel can mount, and the programs that help.

use crate::files::Files;
use bradawl_facts::record::{FsSupport, Programs, TableFile};
use bradawl_facts::table::Table;
use bradawl_resolve::ByProgram;
use std::collections::{BTreeMap, BTreeSet};
use std::io::ErrorKind;

const PROGRAM_FOLDERS: [&str; 4] = ["/sbin", "/usr/sbin", "/bin", "/usr/bin"];

/// File system types of the running kernel and of its modules.
pub(crate) fn filesystems(files: &mut Files, kernel: Option<&str>) -> Option<FsSupport> {
    let text = files.text("/proc/filesystems")?;
    let mut support = FsSupport::default();
    for line in text.lines() {
        match line.split_once('\t') {
            Some(("nodev", name)) => support.without_device.push(name.to_owned()),
            Some((_, name)) => support.on_devices.push(name.to_owned()),
            None => {}
        }
    }
    support.modules = modules(files, kernel);
    Some(support)
}

/// Types whose module can be loaded. A kernel built without modules has no
/// /proc/modules; where the directory of modules is not visible (in a container)
/// nothing is known.
fn modules(files: &mut Files, kernel: Option<&str>) -> Option<Vec<String>> {
    if !files.exists("/proc/modules") && files.exists("/proc/filesystems") {
        return Some(Vec::new());
    }
    let folders =
        ["/lib/modules", "/usr/lib/modules"].map(|base| format!("{base}/{}", kernel.unwrap_or("?")));
    let aliases = folders.iter().find_map(|f| files.text(&format!("{f}/modules.alias")))?;
    let mut types: Vec<String> = aliases
        .lines()
        .filter_map(|l| l.strip_prefix("alias fs-")?.split(' ').next().map(str::to_owned))
        .collect();
    types.sort();
    types.dedup();
    Some(types)
}

/// The installed `mount.TYPE` and `fsck.TYPE` programs.
pub(crate) fn programs(files: &Files) -> Option<Programs> {
    let mut programs = Programs::default();
    let mut quota = Vec::new();
    let mut seen = false;
    let mut looked = Vec::new();
    for folder in PROGRAM_FOLDERS {
        // /bin is often a link to /usr/bin, and /usr/sbin to that.
        let real = files.canonical(folder).unwrap_or_else(|| folder.to_owned());
        if looked.contains(&real) {
            continue;
        }
        looked.push(real);
        let names = files.list(folder, usize::MAX).unwrap_or_default();
        seen |= !names.is_empty();
        for name in names {
            if let Some(fstype) = name.strip_prefix("mount.") {
                programs.mount_helpers.push(fstype.to_owned());
            } else if let Some(fstype) = name.strip_prefix("fsck.") {
                programs.checkers.push(fstype.to_owned());
            } else if matches!(name.as_str(), "quotacheck" | "quotaon") {
                quota.push(name);
            }
        }
    }
    for list in [&mut programs.mount_helpers, &mut programs.checkers, &mut quota] {
        list.sort();
        list.dedup();
    }
    programs.quota = Some(quota);
    seen.then_some(programs)
}

/// The programs that entries name behind FUSE, and whether they are installed.
pub(crate) fn behind_fuse(files: &Files, tables: &[&TableFile]) -> BTreeMap<String, bool> {
    let mut named = BTreeSet::new();
    for table in tables {
        let table = Table::parse(table.bytes.bytes().unwrap_or_default());
        if table.check_size().is_err() {
            continue;
        }
        for entry in table.entries() {
            let by = ByProgram::of(&entry).filter(|by| by.is_looked_for(&entry));
            named.extend(by.map(|by| by.program.to_owned()));
        }
    }
    let local = ["/usr/local/sbin", "/usr/local/bin"];
    let folders = local.into_iter().chain(PROGRAM_FOLDERS);
    // Where one could not be looked at, nothing is known.
    let is_there = |name: &String| {
        let mut missed = false;
        for folder in folders.clone() {
            match files.stat(&format!("{folder}/{name}")) {
                Ok(_) => return Some(true),
                Err(e) => missed |= !matches!(e.kind(), ErrorKind::NotFound | ErrorKind::NotADirectory),
            }
        }
        (!missed).then_some(false)
    };
    named
        .into_iter()
        .filter_map(|name| Some((is_there(&name)?, name)))
        .map(|(there, name)| (name, there))
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn programs_behind_fuse_are_looked_for() {
        let dir = tempfile::tempdir().unwrap();
        std::fs::create_dir_all(dir.path().join("usr/bin")).unwrap();
        std::fs::write(dir.path().join("usr/bin/mergerfs"), "").unwrap();
        let lines = "/srv/a:/srv/b /srv/c fuse.mergerfs nofail 0 0\nbindfs#/srv/a /srv/d fuse nofail 0 0\n\
                     /usr/bin/x#/srv/a /srv/e fuse nofail 0 0\nnas:tides /srv/f rclone nofail 0 0\n";
        let table = TableFile::new("/etc/fstab", lines.as_bytes().to_vec());
        let found = behind_fuse(&Files::own(dir.path().to_owned()), &[&table]);
        let found: Vec<_> = found.iter().map(|(name, there)| (name.as_str(), *there)).collect();
        assert_eq!(found, [("bindfs", false), ("mergerfs", true)]);
    }
    use bradawl_facts::record::Support;

    #[test]
    fn tells_built_in_from_module_from_unknown() {
        let dir = tempfile::tempdir().unwrap();
        let put = |path: &str, text: &str| {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        };
        put("proc/filesystems", "nodev\ttmpfs\n\text4\n");
        put("sbin/mount.nfs", "");
        put("sbin/fsck.ext4", "");
        put("usr/sbin/quotaon", "");
        let mut files = Files::own(dir.path().to_owned());
        assert_eq!(filesystems(&mut files, Some("6.1")).unwrap().modules, Some(vec![]));
        put("proc/modules", "");
        assert_eq!(filesystems(&mut files, Some("6.1")).unwrap().modules, None);
        put("lib/modules/6.1/modules.alias", "alias pci:v1 e1000\nalias fs-xfs xfs\n");
        let support = filesystems(&mut files, Some("6.1")).unwrap();
        assert_eq!(
            (support.of("ext4"), support.of("xfs"), support.of("jfs")),
            (Some(Support::Present), Some(Support::Module), None)
        );
        let programs = programs(&files).unwrap();
        assert_eq!(programs.quota, Some(vec!["quotaon".to_owned()]));
        assert_eq!(
            (programs.mount_helpers, programs.checkers),
            (vec!["nfs".to_owned()], vec!["ext4".to_owned()])
        );
    }
}
