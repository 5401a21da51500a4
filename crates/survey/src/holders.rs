//! Who uses what is mounted: the directories and open files of processes, as
//! /proc lists them (proc_pid_fd(5)).

use bradawl_facts::path::is_within;
use std::collections::BTreeMap;
use std::path::Path;

/// More of them are not named for one target.
const MAX_NAMED: usize = 8;

/// The programs, with their process numbers, that have something open on each
/// of these targets; as far as the caller may look.
pub fn holders(targets: &[&str]) -> BTreeMap<String, Vec<String>> {
    holders_in(Path::new("/proc"), targets)
}

fn holders_in(proc: &Path, targets: &[&str]) -> BTreeMap<String, Vec<String>> {
    let mut held: BTreeMap<String, Vec<String>> = BTreeMap::new();
    let folders = std::fs::read_dir(proc).into_iter().flatten().flatten();
    let numbered = folders.filter_map(|e| e.file_name().to_str()?.parse::<u32>().ok());
    for pid in numbered {
        let folder = proc.join(pid.to_string());
        let open = opened(&folder);
        for target in targets {
            let named = held.get(*target).map_or(0, Vec::len);
            if named < MAX_NAMED && open.iter().any(|path| is_within(path, target)) {
                let name = std::fs::read_to_string(folder.join("comm")).unwrap_or_default();
                held.entry((*target).to_owned()).or_default().push(format!("{} ({pid})", name.trim_end()));
            }
        }
    }
    held
}

/// Working directory, root, program and open files of a process.
fn opened(folder: &Path) -> Vec<String> {
    let files = std::fs::read_dir(folder.join("fd")).into_iter().flatten().flatten().map(|e| e.path());
    let own = ["cwd", "root", "exe"].map(|name| folder.join(name));
    let links = own.into_iter().chain(files).filter_map(|link| std::fs::read_link(link).ok());
    links.map(|path| path.to_string_lossy().into_owned()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::os::unix::fs::symlink;

    #[test]
    fn names_programs_with_open_files() {
        let dir = tempfile::tempdir().unwrap();
        for (pid, comm, link, to) in
            [("7", "tide-log\n", "fd/3", "/srv/tides/now"), ("9", "sh\n", "cwd", "/srv/tidesmore")]
        {
            let folder = dir.path().join(pid);
            std::fs::create_dir_all(folder.join("fd")).unwrap();
            std::fs::write(folder.join("comm"), comm).unwrap();
            symlink(to, folder.join(link)).unwrap();
        }
        std::fs::create_dir(dir.path().join("sys")).unwrap();
        let held = holders_in(dir.path(), &["/srv/tides", "/srv/empty"]);
        assert_eq!(held, BTreeMap::from([("/srv/tides".to_owned(), vec!["tide-log (7)".to_owned()])]));
    }
}
