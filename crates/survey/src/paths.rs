//! The paths that tables name: targets, bind sources, swap files, images, the
//! layers of overlays.

use crate::ask::{Helper, ask, in_the_way};
use crate::files::{Files, Stat};
use crate::mounts::{Mounted, parse_mountinfo};
use bradawl_facts::probe::identify;
use bradawl_facts::record::{ContentAt, Mount, PathFacts, PathKind, TableFile};
use bradawl_facts::secrets;
use bradawl_facts::table::{Entry, OptionItem, Table};
use bradawl_resolve::{ByProgram, Source};
use std::collections::{BTreeMap, BTreeSet, HashMap};
use std::io;

/// Looks at every path that is [named]. Notes in the mounts which of them did
/// not answer.
pub(crate) fn facts(
    files: &mut Files,
    (paths, swap_files): &(BTreeSet<String>, BTreeSet<String>),
    mounts: &mut [Mount],
    helper: Option<&Helper>,
) -> Vec<PathFacts> {
    let all = paths.iter().chain(swap_files).filter(|p| !p.contains('\0'));
    let mounted = Mounted::new(mounts);
    let (mut facts, mut answers) = (Vec::new(), HashMap::new());
    let mut others: BTreeMap<String, Vec<(String, bool)>> = BTreeMap::new();
    for path in all {
        let is_swap = swap_files.contains(path);
        // On another host the script that looks does not wait.
        let by_script = files.collected().is_some();
        match in_the_way(files, path, &mounted).filter(|m| !by_script || m.fstype == "autofs") {
            None if by_script && is_silent(files, path) => {
                answers.extend(mounted.under(path).map(|m| (m.target.clone(), false)));
                files.note(path, &silent());
            }
            None => facts.extend(look_at(files, path, &mounted, is_swap)),
            Some(mount) => {
                // That something is mounted there is known without looking.
                let mounted = (mount.target == *path).then(|| PathFacts::new(path, PathKind::Directory));
                facts.extend(mounted);
                // Looking at these would mount them.
                if mount.fstype != "autofs" {
                    others.entry(mount.target.clone()).or_default().push((path.clone(), is_swap));
                }
            }
        }
    }
    if let Some(helper) = helper.filter(|_| !others.is_empty()) {
        answers.extend(by_helper(files, mounts, helper, &others, &mut facts));
    }
    // The automount below it answers for itself.
    for mount in mounts.iter_mut().filter(|m| m.fstype != "autofs") {
        mount.answers = answers.get(&mount.target).copied().or(mount.answers);
    }
    facts
}

/// What a process that may hang says of the paths that may keep it waiting.
fn by_helper(
    files: &mut Files,
    mounts: &[Mount],
    helper: &Helper,
    asked: &BTreeMap<String, Vec<(String, bool)>>,
    facts: &mut Vec<PathFacts>,
) -> Vec<(String, bool)> {
    let mut answers = Vec::new();
    let mut told = ask(helper, files, mounts, asked);
    for (target, paths) in asked {
        let Some(told) = told.remove(target) else {
            let why = io::Error::other("nobody could be sent to look: it may not answer");
            paths.iter().for_each(|(path, _)| files.note(path, &why));
            continue;
        };
        answers.push((target.clone(), told.is_some()));
        let Some(told) = told else {
            paths.iter().for_each(|(path, _)| files.note(path, &silent()));
            continue;
        };
        for looked in told {
            // Only what was asked is believed.
            if !paths.iter().any(|(path, _)| *path == looked.path) {
                continue;
            }
            match looked.failed {
                Some(why) => files.note(looked.path, &io::Error::other(why)),
                None => {
                    facts.retain(|f| f.path != looked.path);
                    facts.extend(looked.facts);
                }
            }
        }
    }
    answers
}

/// A swap file as this process sees it, with the mounts that it sees.
pub fn look_at_swap_file(path: &str) -> (Vec<Mount>, Option<PathFacts>) {
    let mut files = Files::own("/".into());
    let mounts = parse_mountinfo(&files.text("/proc/self/mountinfo").unwrap_or_default());
    let facts = look_at(&mut files, path, &Mounted::new(&mounts), true).into_iter().next();
    (mounts, facts)
}

/// What images hold from the offsets on at which entries mount them. What lies
/// where it may not answer is left alone.
pub(crate) fn add_later(files: &Files, tables: &[&TableFile], facts: &mut [PathFacts], mounts: &[Mount]) {
    let mounted = Mounted::new(mounts);
    let asked = offsets(tables, "");
    let waits = |f: &PathFacts| files.collected().is_none() && in_the_way(files, &f.path, &mounted).is_some();
    facts.iter_mut().filter(|f| !waits(f)).for_each(|f| look_later(files, &asked, f));
}

/// The same, on a file system of which these are files and which entries mount at
/// `target`.
pub(crate) fn add_later_inside(files: &Files, tables: &[&TableFile], target: &str, facts: &mut [PathFacts]) {
    let asked = offsets(tables, target);
    facts.iter_mut().for_each(|f| look_later(files, &asked, f));
}

/// The images that entries mount from an offset on, as paths below `target`.
fn offsets(tables: &[&TableFile], target: &str) -> BTreeMap<String, BTreeSet<u64>> {
    let mut asked: BTreeMap<String, BTreeSet<u64>> = BTreeMap::new();
    for table in tables {
        let table = Table::parse(table.bytes.bytes().unwrap_or_default());
        if table.check_size().is_err() {
            continue;
        }
        for entry in table.entries().iter().filter(|e| !e.is_swap() && !e.is_bind()) {
            if let (Source::Path(path), Some(offset)) = (Source::of(entry), entry.image_offset())
                && let Some(rest) = path.strip_prefix(target)
            {
                asked.entry(rest.to_owned()).or_default().insert(offset);
            }
        }
    }
    asked
}

fn look_later(files: &Files, asked: &BTreeMap<String, BTreeSet<u64>>, facts: &mut PathFacts) {
    let Some((offsets, size)) = asked.get(&facts.path).zip(facts.size) else { return };
    for offset in offsets.iter().copied().filter(|o| facts.kind == PathKind::File && *o < size) {
        let content = files.from(&facts.path, size, offset).and_then(|bytes| identify(bytes.as_ref()));
        facts.later.extend(content.map(|content| ContentAt { offset, content }));
    }
}

/// What is said of a path that did not answer.
fn silent() -> io::Error {
    io::Error::other("the file system did not answer in time")
}

fn is_silent(files: &Files, path: &str) -> bool {
    files.stat(path).is_err_and(|e| e.kind() == io::ErrorKind::TimedOut)
}

/// The paths that tables name, with the key files of encrypted containers, and
/// those whose content is read: swap files and images.
pub(crate) fn named<'k>(
    tables: &[&TableFile],
    keys: impl Iterator<Item = &'k str>,
) -> (BTreeSet<String>, BTreeSet<String>) {
    let mut paths: BTreeSet<String> = keys.filter(|k| k.starts_with('/')).map(str::to_owned).collect();
    let mut read = BTreeSet::new();
    for table in tables {
        let bytes = table.bytes.bytes().unwrap_or_default();
        let table = Table::parse(bytes);
        // What is too large to be judged is not looked at either.
        if table.check_size().is_err() {
            continue;
        }
        for entry in table.entries() {
            if entry.is_swap() {
                if let Source::Path(path) = Source::parse(&entry.source) {
                    read.insert(path);
                }
                continue;
            }
            if entry.target.starts_with('/') {
                paths.insert(entry.target.clone());
            }
            match Source::of(&entry) {
                Source::Path(path) if entry.is_bind() => drop(paths.insert(path)),
                // An image: what it holds is read as a swap file's header is.
                Source::Path(path) if !is_of_many(&entry) => drop(read.insert(path)),
                _ => {}
            }
            paths.extend(entry.options.iter().flat_map(layers));
            paths.extend(entry.options.iter().filter_map(secret_file));
            if let Some(by) = ByProgram::of(&entry) {
                paths.extend(of_program(&entry, by));
            }
        }
    }
    (paths, read)
}

/// Whether its source is none, or several directories.
fn is_of_many(entry: &Entry) -> bool {
    let many = |by: ByProgram<'_>| matches!(by.name(), "mergerfs" | "unionfs" | "unionfs-fuse");
    entry.fstype == "overlay" || ByProgram::of(entry).is_some_and(many)
}

/// The paths that a program behind FUSE is given, or looks for by itself.
fn of_program(entry: &Entry, by: ByProgram<'_>) -> Vec<String> {
    let mut paths: Vec<String> = by.folders().map(str::to_owned).collect();
    if by.name() == "gocryptfs" {
        let sealed = |folder: &String| format!("{}/gocryptfs.conf", folder.trim_end_matches('/'));
        paths.extend(paths.first().map(sealed));
    }
    let config = entry.option("config").and_then(|o| o.value.clone());
    paths.extend(config.filter(|path| path.starts_with('/')));
    paths
}

/// The path that a condition of a unit is about: `ConditionPathExists=|!/srv/key`.
pub(crate) fn of_condition(line: &str) -> Option<&str> {
    let path = line.split_once('=')?.1.trim_start_matches(['|', '!', ' ']);
    path.starts_with('/').then_some(path)
}

/// The directories that an overlay is made of, where an option names them.
fn layers(option: &OptionItem) -> Vec<String> {
    let named =
        matches!(option.name.as_str(), "lowerdir" | "lowerdir+" | "datadir+" | "upperdir" | "workdir");
    let folders = option.value.iter().filter(|_| named).flat_map(|v| v.split(':'));
    folders.filter(|f| f.starts_with('/')).map(str::to_owned).collect()
}

/// The file with secrets that an option names.
fn secret_file(option: &OptionItem) -> Option<String> {
    let path = option.value.as_deref().filter(|v| v.starts_with('/'))?;
    secrets::FILES.contains(&option.name.as_str()).then(|| path.to_owned())
}

/// Looks at a path that cannot keep anybody waiting, or in a process that may
/// wait.
pub(crate) fn look_at(files: &mut Files, path: &str, mounts: &Mounted<'_>, is_swap: bool) -> Vec<PathFacts> {
    match files.stat(path) {
        Ok(stat) => vec![present(files, path, &stat, mounts, is_swap)],
        Err(e) if e.kind() == io::ErrorKind::NotFound => {
            let canonical = canonical_of_absent(files, path);
            vec![PathFacts { canonical, ..PathFacts::new(path, PathKind::Absent) }]
        }
        Err(e) if e.kind() == io::ErrorKind::NotADirectory => {
            let absent = PathFacts::new(path, PathKind::Absent);
            [absent].into_iter().chain(file_above(files, path)).collect()
        }
        Err(e) => {
            files.note(path, &e);
            Vec::new()
        }
    }
}

/// Where a path that is not there would lie, when links lead elsewhere on the way.
fn canonical_of_absent(files: &Files, path: &str) -> Option<String> {
    let mut above = path;
    while let Some((folder, _)) = above.rsplit_once('/').filter(|(folder, _)| !folder.is_empty()) {
        if files.exists(folder) {
            let real = files.canonical(folder)?;
            return Some(format!("{}{}", real.trim_end_matches('/'), &path[folder.len()..]));
        }
        above = folder;
    }
    None
}

/// The file on the way to a path, which would have to be a directory.
fn file_above(files: &mut Files, path: &str) -> Option<PathFacts> {
    let mut above = path;
    while let Some((folder, _)) = above.rsplit_once('/').filter(|(folder, _)| !folder.is_empty()) {
        if let Ok(stat) = files.stat(folder) {
            return (stat.kind != PathKind::Directory).then(|| PathFacts::new(folder, stat.kind));
        }
        above = folder;
    }
    None
}

fn present(files: &mut Files, path: &str, stat: &Stat, mounts: &Mounted<'_>, is_swap: bool) -> PathFacts {
    let canonical = files.canonical(path);
    let place = canonical.clone().unwrap_or_else(|| path.to_owned());
    let mounted = mounts.at(&place).is_some();
    let mut facts = PathFacts {
        canonical,
        uid: Some(stat.uid),
        mode: Some(stat.mode),
        lies_on: mounts.under(&place).map(|m| m.target.clone()),
        ..PathFacts::new(path, stat.kind)
    };
    match stat.kind {
        PathKind::Directory if !mounted => facts.entries = files.count(path),
        PathKind::File => (facts.size, facts.allocated) = (Some(stat.size), stat.allocated),
        _ => {}
    }
    if stat.kind == PathKind::File && is_swap {
        (facts.nocow, facts.shared) = (files.nocow(path), files.shared(path));
        let start = files.start(path, stat.size).and_then(|opened| identify(opened.as_ref()));
        match start {
            Ok(content) => facts.content = Some(content),
            Err(e) => files.note(path, &e),
        }
    }
    facts
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mounts::tests::mount;

    #[test]
    fn an_image_is_read_from_its_offset_on() {
        let dir = tempfile::tempdir().unwrap();
        let root = dir.path().canonicalize().unwrap();
        let mut image = vec![0; 1 << 20];
        image[65_536 + 4086..65_536 + 4096].copy_from_slice(b"SWAPSPACE2");
        // Version 1, 200 pages.
        image[65_536 + 1024..65_536 + 1032].copy_from_slice(&[1, 0, 0, 0, 200, 0, 0, 0]);
        std::fs::write(root.join("disk.img"), image).unwrap();
        let line = b"/disk.img /srv/a ext4 loop,offset=64K 0 0\n/disk.img /srv/b ext4 loop,offset=8M 0 0\n";
        let table = TableFile::new("/etc/fstab", line.to_vec());
        let files = Files::own(root);
        let mut facts = [PathFacts { size: Some(1 << 20), ..PathFacts::new("/disk.img", PathKind::File) }];
        add_later(&files, &[&table], &mut facts, &[]);
        let found: Vec<u64> = facts[0].later.iter().map(|l| l.offset).collect();
        assert_eq!(found, [65_536]);
        assert_eq!(facts[0].later[0].content.fstype.as_deref(), Some("swap"));
    }

    #[test]
    fn links_on_the_way_to_what_is_not_there_are_followed() {
        let dir = tempfile::tempdir().unwrap();
        let root = dir.path().canonicalize().unwrap();
        std::fs::create_dir_all(root.join("run")).unwrap();
        std::fs::create_dir_all(root.join("var")).unwrap();
        std::os::unix::fs::symlink("../run", root.join("var/run")).unwrap();
        let table = TableFile::new("t", "tmpfs /var/run/a/b tmpfs\ntmpfs /var/a tmpfs\n");
        let mut files = Files::own(root);
        let all = facts(&mut files, &named(&[&table], std::iter::empty()), &mut [], None);
        let real: Vec<_> = all.iter().map(|f| (f.path.as_str(), f.canonical.as_deref())).collect();
        assert_eq!(real, [("/var/a", None), ("/var/run/a/b", Some("/run/a/b"))]);
    }

    #[test]
    fn looks_at_targets_sources_and_swap_files() {
        let dir = tempfile::tempdir().unwrap();
        let root = dir.path().canonicalize().unwrap();
        std::fs::create_dir_all(root.join("srv/full/inner")).unwrap();
        std::fs::write(root.join("swapfile"), vec![0; 8192]).unwrap();
        std::os::unix::fs::symlink("full", root.join("srv/link")).unwrap();
        let text = "LABEL=a /srv/full ext4\nLABEL=b /srv/link ext4\nLABEL=c /srv/none ext4\n\
                    /srv/full /srv/auto none bind\n/swapfile none swap\nh:/x /srv/net nfs\n";
        let table = TableFile::new("t", text);
        let mut files = Files::own(root);
        let mut mounts = [mount("/", "ext4"), mount("/srv/auto", "autofs"), mount("/srv/net", "nfs4")];
        let all = facts(&mut files, &named(&[&table], std::iter::empty()), &mut mounts, None);
        let kinds: Vec<_> = all.iter().map(|f| (f.path.as_str(), f.kind)).collect();
        assert_eq!(
            kinds,
            [
                ("/srv/auto", PathKind::Directory),
                ("/srv/full", PathKind::Directory),
                ("/srv/link", PathKind::Directory),
                ("/srv/net", PathKind::Directory),
                ("/srv/none", PathKind::Absent),
                ("/swapfile", PathKind::File),
            ]
        );
        assert_eq!(all[1].entries, Some(1));
        assert_eq!(all[2].canonical.as_deref(), Some("/srv/full"));
        assert_eq!(all[0].entries, None);
        assert_eq!(all[5].size, Some(8192));
        assert_eq!(all[1].lies_on.as_deref(), Some("/"));
    }
}
