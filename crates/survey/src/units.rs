//! Mount, automount and swap units written by hand: systemd.unit(5), "Unit
//! File Load Path". Those made from the table are not among them.

use crate::files::Files;
use bradawl_facts::record::{CommandLine, LocalUnit, NamedUnit, TableFile};
use bradawl_facts::table::Table;
use std::borrow::Cow;
use std::collections::{BTreeMap, BTreeSet};
use std::io;

/// Directories whose units take the place of generated ones, the strongest last.
const FOLDERS: [&str; 3] = ["/usr/local/lib/systemd/system", "/run/systemd/system", "/etc/systemd/system"];
/// More units than this are not read.
const MAX_UNITS: usize = 500;

/// All of them by name; settings of drop-ins come over those of the file.
pub(crate) fn local(files: &mut Files) -> Vec<LocalUnit> {
    let mut units = BTreeMap::new();
    for folder in FOLDERS {
        let names = files.names(folder);
        let counts = |name: &String| is_ours(name) || is_of_the_boot(name) || name.ends_with(".service");
        for name in names.into_iter().filter(counts).take(MAX_UNITS) {
            let path = format!("{folder}/{name}");
            let unit = read(files, name, path);
            // Of some only that they are switched off, or what they run; of services in general
            // those that are tied to mounts.
            let of_the_boot = is_of_the_boot(&unit.name) && (unit.masked || unit.exec.is_some());
            if is_ours(&unit.name) || of_the_boot || is_tied_to_mounts(&unit) {
                units.insert(unit.name.clone(), unit);
            }
        }
    }
    for folder in FOLDERS {
        let names = files.names(folder);
        let drop_ins = names.iter().filter_map(|n| n.strip_suffix(".d"));
        let drop_ins =
            drop_ins.filter(|n| is_ours(n) || n.ends_with(".device") || is_of_the_boot(n) || is_type(n));
        for name in drop_ins.take(MAX_UNITS) {
            let path = format!("{folder}/{name}.d");
            let unit = units.entry(name.to_owned()).or_insert_with(|| LocalUnit {
                name: name.to_owned(),
                path: path.clone(),
                drop_ins: true,
                ..LocalUnit::default()
            });
            for file in files.names(&path).iter().filter(|n| n.ends_with(".conf")) {
                let text = files.text(&format!("{path}/{file}")).unwrap_or_default();
                unit.read(&text);
            }
        }
    }
    let mut units: Vec<LocalUnit> = units.into_values().collect();
    let wanted = wanted(files);
    units.iter_mut().for_each(|unit| unit.wanted = Some(wanted.contains(&unit.name)));
    units
}

/// Targets that every boot reaches.
const AT_BOOT: [&str; 6] = ["local-fs", "remote-fs", "swap", "sysinit", "basic", "multi-user"];

/// The units that those targets ask for by a link.
fn wanted(files: &Files) -> BTreeSet<String> {
    let folders = FOLDERS.iter().flat_map(|folder| {
        let kinds = ["wants", "requires"];
        AT_BOOT.iter().flat_map(move |t| kinds.map(|kind| format!("{folder}/{t}.target.{kind}")))
    });
    let names = folders.flat_map(|folder| files.names(&folder));
    names.filter(|name| is_ours(name) || name.ends_with(".service")).collect()
}

/// Where units lie, the strongest last.
const ALL_FOLDERS: [&str; 5] = [
    "/lib/systemd/system",
    "/usr/lib/systemd/system",
    "/usr/local/lib/systemd/system",
    "/run/systemd/system",
    "/etc/systemd/system",
];
/// No unit file is larger.
const MAX_UNIT: u64 = 1 << 20;
/// More units than this are not looked for.
const MAX_NAMED: usize = 200;

/// The units that entries of these tables and drop-ins of their units name,
/// beside mounts and devices.
pub(crate) fn named(
    files: &Files,
    tables: &[&TableFile],
    local: &[LocalUnit],
    line: CommandLine<'_>,
) -> Vec<NamedUnit> {
    let tied = local.iter().filter(|u| is_ours(&u.name));
    let tied = tied.flat_map(|u| u.requires.iter().chain(&u.wants).chain(&u.after));
    let mut names: BTreeSet<String> = tied.filter(|name| is_named(name)).cloned().collect();
    let asked = ["systemd.unit", "systemd.wants"].into_iter().flat_map(|name| line.values(name));
    names.extend(asked.map(Cow::into_owned).filter(|name| is_named(name)));
    for table in tables {
        let table = Table::parse(table.bytes.bytes().unwrap_or_default());
        if table.check_size().is_err() {
            continue;
        }
        for option in table.entries().iter().flat_map(|e| &e.options) {
            let asks = matches!(
                option.name.as_str(),
                "x-systemd.requires" | "x-systemd.wants" | "x-systemd.after" | "x-systemd.before"
            );
            names.extend(option.value.clone().filter(|v| asks && is_named(v)));
        }
    }
    names.into_iter().take(MAX_NAMED).filter_map(|name| look(files, name)).collect()
}

/// Whether it is the plain name of a unit that no entry makes.
fn is_named(name: &str) -> bool {
    let plain = !name.contains('/') && !name.contains('\0');
    plain && [".service", ".target", ".socket", ".path", ".timer"].iter().any(|kind| name.ends_with(kind))
}

/// What is known of a unit; `None`: the collecting script has not looked yet.
fn look(files: &Files, name: String) -> Option<NamedUnit> {
    let mut unit = NamedUnit { name, ..NamedUnit::default() };
    let mut open = false;
    for folder in ALL_FOLDERS {
        let path = format!("{folder}/{}", unit.name);
        match files.stat(&path).and_then(|_| files.read(&path, MAX_UNIT)) {
            Ok(bytes) => {
                let text = String::from_utf8_lossy(&bytes);
                let no = |line: &str| {
                    let (key, value) = line.split_once('=').unwrap_or_default();
                    key.trim() == "DefaultDependencies"
                        && matches!(value.trim(), "no" | "false" | "0" | "off")
                };
                unit.masked = text.trim().is_empty();
                (unit.found, unit.early) = (true, text.lines().any(no));
            }
            Err(e) if e.kind() == io::ErrorKind::NotFound => {}
            // What is no regular file masks it, or cannot be read: it is there.
            Err(_) if files.collected().is_none() && files.exists(&path) => {
                unit.masked = files.canonical(&path).as_deref() == Some("/dev/null");
                (unit.found, unit.early) = (true, false);
            }
            Err(_) => open |= files.collected().is_some(),
        }
    }
    (!open).then_some(unit)
}

/// Whether it is a target that every boot reaches, or a service by which entries are
/// checked and remounted.
fn is_of_the_boot(name: &str) -> bool {
    const SERVICES: [&str; 3] =
        ["systemd-fsck@.service", "systemd-fsck-root.service", "systemd-remount-fs.service"];
    SERVICES.contains(&name)
        || name.starts_with("systemd-fsck@")
        || name.strip_suffix(".target").is_some_and(|t| AT_BOOT.contains(&t))
}

/// Whether drop-ins of this name hold for all units of a type.
fn is_type(name: &str) -> bool {
    matches!(name, "mount" | "automount" | "swap" | "device")
}

/// Whether a service asks for mounts, or cannot be there together with one.
fn is_tied_to_mounts(unit: &LocalUnit) -> bool {
    let ties = unit.requires.iter().chain(&unit.wants).chain(&unit.conflicts).chain(&unit.before);
    !unit.mounts_for.is_empty() || ties.into_iter().any(|name| is_ours(name))
}

fn is_ours(name: &str) -> bool {
    [".mount", ".automount", ".swap"].iter().any(|kind| name.ends_with(kind))
}

/// Whether the timer that tells disks what is free is switched on; `None`
/// when the host has no such directory.
pub(crate) fn trims(files: &Files) -> Option<bool> {
    let wanted = files.names("/etc/systemd/system/timers.target.wants");
    (!wanted.is_empty()).then(|| wanted.iter().any(|n| n == "fstrim.timer"))
}

fn read(files: &mut Files, name: String, path: String) -> LocalUnit {
    let off = files.canonical(&path).as_deref() == Some("/dev/null");
    let text = if off { String::new() } else { files.text(&path).unwrap_or_default() };
    let masked = off || text.trim().is_empty();
    let mut unit = LocalUnit { name, path, masked, ..LocalUnit::default() };
    unit.read(&text);
    unit
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_strongest_folder_counts() {
        let dir = tempfile::tempdir().unwrap();
        let put = |path: &str, text: &str| {
            let path = dir.path().join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        };
        put("run/systemd/system/srv-tide.mount", "[Mount]\nWhat=/dev/vdz\n");
        put(
            "etc/systemd/system/srv-tide.mount",
            "[Unit]\nWhat=no\n[Mount]\nWhat=LABEL=tide\nWhere=/srv/tide\n",
        );
        put("etc/systemd/system/srv-off.mount", "");
        put("etc/systemd/system/sshd.service", "[Service]\n");
        put("etc/systemd/system/srv-more.mount.d/10-ro.conf", "[Mount]\nOptions=ro\n");
        put("etc/systemd/system/srv-tide.mount.d/10-what.conf", "[Mount]\nWhat=LABEL=ebb\n");
        put("etc/systemd/system/timers.target.wants/fstrim.timer", "");
        assert_eq!(trims(&Files::own(dir.path().to_owned())), Some(true));
        let units = local(&mut Files::own(dir.path().to_owned()));
        let seen: Vec<_> = units.iter().map(|u| (u.name.as_str(), u.what.as_deref(), u.masked)).collect();
        let expected = [
            ("srv-more.mount", None, false),
            ("srv-off.mount", None, true),
            ("srv-tide.mount", Some("LABEL=ebb"), false),
        ];
        assert_eq!(seen, expected);
        assert!(units[0].drop_ins && units[0].options.as_deref() == Some("ro") && !units[2].drop_ins);
    }

    #[test]
    fn what_holds_for_many_units_and_services_of_mounts_are_kept() {
        let dir = tempfile::tempdir().unwrap();
        let put = |path: &str, text: &str| {
            let path = dir.path().join("etc/systemd/system").join(path);
            std::fs::create_dir_all(path.parent().unwrap()).unwrap();
            std::fs::write(path, text).unwrap();
        };
        put("mount.d/own.conf", "[Unit]\nAssertPathExists=/a\n");
        put("srv-.mount.d/own.conf", "[Unit]\nConflicts=srv-b.mount\n");
        put(
            "gate.service",
            "[Unit]\nRequiresMountsFor=/srv/tide\nDefaultDependencies=no\n[Service]\nExecStart=/bin/true\n",
        );
        put("plain.service", "[Service]\nExecStart=/bin/true\n");
        put("multi-user.target.wants/gate.service", "");
        let units = local(&mut Files::own(dir.path().to_owned()));
        let names: Vec<_> = units.iter().map(|u| (u.name.as_str(), u.drop_ins, u.wanted)).collect();
        let expected = [
            ("gate.service", false, Some(true)),
            ("mount", true, Some(false)),
            ("srv-.mount", true, Some(false)),
        ];
        assert_eq!(names, expected);
        assert!(units[0].early && units[0].mounts_for == ["/srv/tide"]);
    }
}
