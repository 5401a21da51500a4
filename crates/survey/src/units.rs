//! Mount, automount and swap units written by hand: systemd.unit(5), "Unit
//! File Load Path". Those made from the table are not among them.

use crate::files::Files;
use bradawl_core::record::LocalUnit;
use std::collections::BTreeMap;

/// Folders whose units take the place of generated ones, the strongest last.
const FOLDERS: [&str; 2] = ["/run/systemd/system", "/etc/systemd/system"];
/// More units than this are not read.
const MAX_UNITS: usize = 500;

/// All of them by name.
pub(crate) fn local(files: &mut Files) -> Vec<LocalUnit> {
    let mut units = BTreeMap::new();
    for folder in FOLDERS {
        let names = files.names(folder);
        let kinds = [".mount", ".automount", ".swap"];
        for name in names.into_iter().filter(|n| kinds.iter().any(|k| n.ends_with(k))).take(MAX_UNITS) {
            let path = format!("{folder}/{name}");
            units.insert(name.clone(), read(files, name, path));
        }
    }
    units.into_values().collect()
}

fn read(files: &mut Files, name: String, path: String) -> LocalUnit {
    let off = files.canonical(&path).as_deref() == Some("/dev/null");
    let text = if off { String::new() } else { files.text(&path).unwrap_or_default() };
    let masked = off || text.trim().is_empty();
    parse(LocalUnit { name, path, masked, ..LocalUnit::default() }, &text)
}

/// The settings that say what is mounted where; the last of several counts.
fn parse(mut unit: LocalUnit, text: &str) -> LocalUnit {
    let mut wanted = false;
    for line in text.lines().map(str::trim) {
        if let Some(section) = line.strip_prefix('[').and_then(|l| l.strip_suffix(']')) {
            wanted = matches!(section, "Mount" | "Swap" | "Automount");
            continue;
        }
        let Some((key, value)) = line.split_once('=').filter(|_| wanted) else { continue };
        let value = Some(value.trim().to_owned()).filter(|v| !v.is_empty());
        match key.trim() {
            "What" => unit.what = value,
            "Where" => unit.target = value,
            "Type" => unit.fstype = value,
            "Options" => unit.options = value,
            _ => {}
        }
    }
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
        let units = local(&mut Files::own(dir.path().to_owned()));
        let seen: Vec<_> = units.iter().map(|u| (u.name.as_str(), u.what.as_deref(), u.masked)).collect();
        assert_eq!(seen, [("srv-off.mount", None, true), ("srv-tide.mount", Some("LABEL=tide"), false)]);
    }
}
