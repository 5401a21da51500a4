//! Versions of the packages whose programs mount a type, from the lists that packages
//! are kept in: of dpkg, apk and pacman. Others are not read.

use crate::files::Files;
use bradawl_catalogue::packages::named;
use std::collections::BTreeMap;

/// No list of packages is longer.
const MAX_BYTES: u64 = 64 << 20;
/// Directories of pacman beyond this many are not looked at.
const MAX_PACKAGES: usize = 100_000;

/// How a list of packages in paragraphs names what is in it.
struct Paragraphs {
    path: &'static str,
    name: &'static str,
    version: &'static str,
    /// A line without which it is not installed.
    installed: Option<&'static str>,
}

const LISTS: [Paragraphs; 2] = [
    Paragraphs {
        path: "/var/lib/dpkg/status",
        name: "Package: ",
        version: "Version: ",
        installed: Some("Status: install ok installed"),
    },
    Paragraphs { path: "/lib/apk/db/installed", name: "P:", version: "V:", installed: None },
];

const PACMAN: &str = "/var/lib/pacman/local";

/// The versions by package; `None` where no list is there that is read.
pub(crate) fn versions(files: &Files) -> Option<BTreeMap<String, String>> {
    for list in LISTS {
        if let Ok(bytes) = files.read(list.path, MAX_BYTES) {
            return Some(in_paragraphs(&list, &String::from_utf8_lossy(&bytes)));
        }
    }
    let folders = files.list(PACMAN, MAX_PACKAGES).ok()?;
    Some(folders.iter().filter_map(|folder| of_folder(folder)).collect())
}

fn in_paragraphs(list: &Paragraphs, text: &str) -> BTreeMap<String, String> {
    let mut versions = BTreeMap::new();
    for paragraph in text.split("\n\n") {
        let mut lines = paragraph.lines();
        let Some(name) = lines.clone().find_map(|line| line.strip_prefix(list.name)) else { continue };
        if !named().any(|package| package == name) {
            continue;
        }
        let installed = list.installed.is_none_or(|wanted| lines.clone().any(|line| line == wanted));
        let version = lines.find_map(|line| line.strip_prefix(list.version)).filter(|_| installed);
        versions.extend(version.map(|version| (name.to_owned(), version.to_owned())));
    }
    versions
}

/// `mergerfs-2.40.2-1`: name, version, release.
fn of_folder(folder: &str) -> Option<(String, String)> {
    let (rest, release) = folder.rsplit_once('-')?;
    let (name, version) = rest.rsplit_once('-')?;
    named().any(|package| package == name).then(|| (name.to_owned(), format!("{version}-{release}")))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(put: impl Fn(&std::path::Path)) -> Option<BTreeMap<String, String>> {
        let dir = tempfile::tempdir().unwrap();
        put(dir.path());
        versions(&Files::own(dir.path().to_owned()))
    }

    fn write(path: &std::path::Path, text: &str) {
        std::fs::create_dir_all(path.parent().unwrap()).unwrap();
        std::fs::write(path, text).unwrap();
    }

    #[test]
    fn each_list_is_read() {
        let dpkg = "Package: adduser\nStatus: install ok installed\nVersion: 3.134\n\n\
                    Package: mergerfs\nStatus: install ok installed\nConffiles:\n /etc/x 0\nVersion: 2.33.5-1\n\n\
                    Package: sshfs\nStatus: deinstall ok config-files\nVersion: 3.7.3-1.1\n";
        let apk = "C:Q1\nP:musl\nV:1.2.5-r0\n\nC:Q2\nP:davfs2\nV:1.7.0-r1\nF:usr/sbin\nR:mount.davfs\n";
        let told = |versions: Option<BTreeMap<String, String>>| {
            versions
                .map(|v| v.into_iter().map(|(name, version)| format!("{name} {version}")).collect::<Vec<_>>())
        };
        for (path, text, expected) in [
            ("var/lib/dpkg/status", dpkg, &["mergerfs 2.33.5-1"][..]),
            ("lib/apk/db/installed", apk, &["davfs2 1.7.0-r1"]),
            ("var/lib/pacman/local/mergerfs-2.40.2-1/desc", "", &["mergerfs 2.40.2-1"]),
            ("var/lib/pacman/local/linux-6.12.1-1/desc", "", &[]),
        ] {
            assert_eq!(told(of(|dir| write(&dir.join(path), text))).unwrap(), expected, "{path}");
        }
        assert_eq!(of(|dir| write(&dir.join("etc/fstab"), "")), None);
    }
}
