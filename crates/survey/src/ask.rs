//! What may never answer: file systems behind a network or a program. They are
//! never touched in this process, which would hang with them; a process of
//! its own looks, and is left behind when it does not come back.

use crate::files::Files;
use crate::mounts::Mounted;
use crate::paths::look_at;
use bradawl_catalogue::fstypes::{Lives, known};
use bradawl_facts::record::{Mount, PathFacts};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use std::io::{Read as _, Write as _};
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc::{RecvTimeoutError, channel};
use std::time::{Duration, Instant};

/// So long all of them together are waited for.
const PATIENCE: Duration = Duration::from_secs(3);
/// More mounts are not asked.
const MAX_MOUNTS: usize = 64;
/// More is not believed to be an answer.
const MAX_ANSWER: u64 = 1 << 20;
/// More links on the way to a path are a circle (as in the kernel).
const MAX_LINKS: usize = 40;

/// How the process is started that looks at what may not answer. It reads a
/// request from its standard input and writes [`look_for`]'s answer.
#[derive(Debug, Clone)]
pub struct Helper {
    /// The program.
    pub program: PathBuf,
    /// Its arguments.
    pub arguments: Vec<String>,
}

/// What such a process is asked.
#[derive(Debug, Serialize, Deserialize)]
struct Request {
    root: PathBuf,
    confined: bool,
    /// Paths, and whether each is a swap file.
    paths: Vec<(String, bool)>,
    mounts: Vec<Mount>,
}

/// What it says of one path.
#[derive(Debug, Serialize, Deserialize)]
pub(crate) struct Looked {
    pub path: String,
    pub facts: Vec<PathFacts>,
    /// Why nothing is known of it.
    pub failed: Option<String>,
}

/// Whether looking at what is mounted may wait for somebody else.
pub(crate) fn may_hang(mount: &Mount) -> bool {
    known(&mount.fstype).is_none_or(|t| !matches!(t.lives, Lives::OnDevice | Lives::InKernel))
        || mount.fstype == "autofs"
}

/// The mount that may hang on the way to a path, links followed one by one so
/// that nothing on it is touched.
pub(crate) fn in_the_way<'m>(files: &Files, path: &str, mounts: &Mounted<'m>) -> Option<&'m Mount> {
    if !mounts.any_may_hang() {
        return None;
    }
    let mut open: Vec<String> = parts(path);
    let (mut at, mut links) = (String::new(), 0);
    while let Some(part) = open.pop() {
        if part == ".." {
            at.truncate(at.rfind('/').unwrap_or(0));
            continue;
        }
        let next = format!("{at}/{part}");
        if let Some(mount) = mounts.at(&next).filter(|m| may_hang(m)) {
            return Some(mount);
        }
        match files.link(&next).filter(|_| links < MAX_LINKS) {
            Some(to) => {
                links += 1;
                if to.starts_with('/') {
                    at.clear();
                }
                open.extend(parts(&to));
            }
            None => at = next,
        }
    }
    None
}

/// The parts of a path, last first.
fn parts(path: &str) -> Vec<String> {
    path.split('/').filter(|p| !matches!(*p, "" | ".")).rev().map(str::to_owned).collect()
}

/// Has the paths on each mount looked at, all mounts side by side. `None`:
/// the mount did not answer in time.
pub(crate) fn ask(
    helper: &Helper,
    files: &Files,
    mounts: &[Mount],
    asked: &BTreeMap<String, Vec<(String, bool)>>,
) -> BTreeMap<String, Option<Vec<Looked>>> {
    let Some((root, confined)) = files.folder() else { return BTreeMap::new() };
    let stop = Instant::now() + PATIENCE;
    let started: Vec<_> = asked
        .iter()
        .take(MAX_MOUNTS)
        .filter_map(|(target, paths)| {
            let mounts = mounts.iter().filter(|m| m.target == *target).cloned().collect();
            let request = Request { root: root.clone(), confined, paths: paths.clone(), mounts };
            Some((target, start(helper, &request)?))
        })
        .collect();
    let ended = started.into_iter().map(|(target, (mut child, answer))| {
        let left = stop.saturating_duration_since(Instant::now());
        let told = match answer.recv_timeout(left) {
            Ok(bytes) => serde_json::from_slice(&bytes).ok(),
            Err(RecvTimeoutError::Timeout | RecvTimeoutError::Disconnected) => None,
        };
        // One that hangs in the kernel cannot be ended, nor waited for.
        let _ = child.kill();
        let _ = child.try_wait();
        (target.clone(), told)
    });
    ended.collect()
}

type Answer = std::sync::mpsc::Receiver<Vec<u8>>;

fn start(helper: &Helper, request: &Request) -> Option<(Child, Answer)> {
    let mut command = Command::new(&helper.program);
    command.args(&helper.arguments).current_dir("/");
    // Whoever reads our output must not wait for one that hangs.
    command.stdin(Stdio::piped()).stdout(Stdio::piped()).stderr(Stdio::null());
    let mut child = command.spawn().ok()?;
    let text = serde_json::to_vec(request).ok()?;
    let (mut to, from) = (child.stdin.take()?, child.stdout.take()?);
    let (send, receive) = channel();
    std::thread::spawn(move || {
        let mut bytes = Vec::new();
        let sent = to.write_all(&text);
        drop(to);
        if sent.and_then(|()| from.take(MAX_ANSWER).read_to_end(&mut bytes)).is_ok() {
            let _ = send.send(bytes);
        }
    });
    Some((child, receive))
}

/// The answer of the process that may hang, to the request on its standard
/// input; nothing for what is no request.
pub fn look_for(request: &[u8]) -> Vec<u8> {
    let Ok(Request { root, confined, paths, mounts }) = serde_json::from_slice(request) else {
        return Vec::new();
    };
    let files = if confined { Files::confined(&root).ok() } else { Some(Files::own(root)) };
    let Some(mut files) = files else { return Vec::new() };
    let looked: Vec<Looked> = paths
        .into_iter()
        .map(|(path, is_swap)| {
            let facts = look_at(&mut files, &path, &Mounted::new(&mounts), is_swap);
            let failed = files.take_unread().pop().map(|u| u.why);
            Looked { path, facts, failed }
        })
        .collect();
    serde_json::to_vec(&looked).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mounts::tests::mount;
    use std::os::unix::fs::symlink;

    #[test]
    fn what_may_hang_is_found_behind_links_and_not_touched() {
        let dir = tempfile::tempdir().unwrap();
        let root = dir.path().canonicalize().unwrap();
        std::fs::create_dir_all(root.join("srv/deep")).unwrap();
        symlink("/srv/net/inner", root.join("srv/absolute")).unwrap();
        symlink("../net", root.join("srv/deep/up")).unwrap();
        symlink("round", root.join("srv/round")).unwrap();
        let mounts = [mount("/", "ext4"), mount("/srv/net", "nfs4"), mount("/srv/tmp", "tmpfs")];
        let on = |confined: bool, path: &str| {
            let files = if confined { Files::confined(&root).unwrap() } else { Files::own(root.clone()) };
            in_the_way(&files, path, &Mounted::new(&mounts)).map(|m| m.target.clone())
        };
        for confined in [false, true] {
            for path in ["/srv/net", "/srv/net/a/b", "/srv/absolute", "/srv/deep/up/x", "/srv/./tmp/../net"] {
                assert_eq!(on(confined, path).as_deref(), Some("/srv/net"), "{path}");
            }
            for path in ["/", "/srv", "/srv/network", "/srv/tmp/a", "/srv/net/..", "/srv/round/x", "/none"] {
                let expected = (path == "/srv/net/..").then_some("/srv/net");
                assert_eq!(on(confined, path).as_deref(), expected, "{path}");
            }
        }
        for fstype in ["autofs", "fuse.sshfs", "fuseblk", "cifs", "nfs", "9p", "novel"] {
            assert!(may_hang(&mount("/x", fstype)), "{fstype}");
        }
        for fstype in ["ext4", "tmpfs", "proc", "overlay", "btrfs", "vfat"] {
            assert!(!may_hang(&mount("/x", fstype)), "{fstype}");
        }
    }

    #[test]
    fn a_helper_that_hangs_is_left_behind() {
        let files = Files::own("/".into());
        let helper = |script: &str| Helper {
            program: "/bin/sh".into(),
            arguments: vec!["-c".to_owned(), script.to_owned()],
        };
        let asked = BTreeMap::from([("/srv/net".to_owned(), vec![("/srv/net".to_owned(), false)])]);
        let told = |script: &str| ask(&helper(script), &files, &[], &asked).remove("/srv/net").unwrap();
        assert!(told("sleep 60").is_none());
        assert!(told("echo nonsense").is_none());
        assert_eq!(told("cat >/dev/null; echo '[]'").unwrap().len(), 0);
    }
}
