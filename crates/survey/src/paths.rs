//! The paths that tables name: targets, bind sources, swap files.

use crate::files::{Files, Stat};
use bradawl_core::path::is_within;
use bradawl_core::probe::identify;
use bradawl_core::record::{Mount, PathFacts, PathKind, TableFile};
use bradawl_core::resolve::Source;
use bradawl_core::table::Table;
use std::collections::BTreeSet;
use std::io;

/// Looks at every path the tables name.
pub(crate) fn facts(files: &mut Files, tables: &[&TableFile], mounts: Option<&[Mount]>) -> Vec<PathFacts> {
    let mut swap_files = BTreeSet::new();
    let mut paths = BTreeSet::new();
    for table in tables {
        let bytes = table.bytes.bytes().unwrap_or_default();
        for entry in Table::parse(bytes).entries() {
            if entry.is_swap() {
                if let Source::Path(path) = Source::parse(&entry.source) {
                    swap_files.insert(path);
                }
                continue;
            }
            if entry.target.starts_with('/') {
                paths.insert(entry.target.clone());
            }
            if let (Source::Path(path), true) = (Source::of(&entry), entry.is_bind()) {
                paths.insert(path);
            }
        }
    }
    let mounts = mounts.unwrap_or_default();
    let looked: Vec<_> = paths.iter().chain(&swap_files).filter(|p| !p.contains('\0')).cloned().collect();
    looked.into_iter().flat_map(|p| look(files, &p, mounts, swap_files.contains(&p))).collect()
}

fn look(files: &mut Files, path: &str, mounts: &[Mount], is_swap: bool) -> Vec<PathFacts> {
    let over = lies_on(path, mounts);
    // Touching these could start a mount or wait for a server that is gone.
    let sleeping = over.is_some_and(|m| {
        m.fstype == "autofs"
            || m.fstype.starts_with("nfs")
            || matches!(m.fstype.as_str(), "cifs" | "smb3" | "ceph" | "9p")
    });
    if sleeping {
        let mounted = over.is_some_and(|m| m.target == path);
        return mounted.then(|| PathFacts::new(path, PathKind::Directory)).into_iter().collect();
    }
    match files.stat(path) {
        Ok(stat) => vec![present(files, path, &stat, mounts, is_swap)],
        Err(e) if e.kind() == io::ErrorKind::NotFound => vec![PathFacts::new(path, PathKind::Absent)],
        Err(e) if e.kind() == io::ErrorKind::NotADirectory => {
            let absent = PathFacts::new(path, PathKind::Absent);
            [absent].into_iter().chain(in_the_way(files, path)).collect()
        }
        Err(e) => {
            files.note(path, &e);
            Vec::new()
        }
    }
}

/// The file on the way to a path, which would have to be a folder.
fn in_the_way(files: &mut Files, path: &str) -> Option<PathFacts> {
    let mut above = path;
    while let Some((folder, _)) = above.rsplit_once('/').filter(|(folder, _)| !folder.is_empty()) {
        if let Ok(stat) = files.stat(folder) {
            return (stat.kind != PathKind::Directory).then(|| PathFacts::new(folder, stat.kind));
        }
        above = folder;
    }
    None
}

fn present(files: &mut Files, path: &str, stat: &Stat, mounts: &[Mount], is_swap: bool) -> PathFacts {
    let canonical = files.canonical(path);
    let place = canonical.clone().unwrap_or_else(|| path.to_owned());
    let mounted = mounts.iter().any(|m| m.target == place);
    let mut facts = PathFacts {
        canonical,
        uid: Some(stat.uid),
        mode: Some(stat.mode),
        lies_on: lies_on(&place, mounts).map(|m| m.target.clone()),
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

/// The mount a path lies on: the longest target that leads to it, the last
/// one when several are mounted there.
fn lies_on<'a>(path: &str, mounts: &'a [Mount]) -> Option<&'a Mount> {
    mounts.iter().filter(|m| is_within(path, &m.target)).max_by_key(|m| m.target.len())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn mount(target: &str, fstype: &str) -> Mount {
        Mount {
            source: "x".into(),
            target: target.into(),
            fstype: fstype.into(),
            options: String::new(),
            root: None,
            device: None,
            free: None,
        }
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
        let mounts = [mount("/", "ext4"), mount("/srv/auto", "autofs"), mount("/srv/net", "nfs4")];
        let all = facts(&mut files, &[&table], Some(&mounts));
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
