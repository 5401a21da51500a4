//! A write that fails, or is ended, at every one of its system calls.

use super::gate::Gate;
use super::history::History;
use super::place::Place;
use super::replace::{BACKUP, Why, Written, replace_with};
use super::{StoreError, Target, create, history, past, replace};
use std::fs;
use std::io;
use std::os::unix::fs::{PermissionsExt as _, symlink};
use std::path::{Path, PathBuf};

const OLD: &[u8] = b"LABEL=tides /srv/tides xfs defaults 0 0\n";
const NEW: &[u8] = b"LABEL=tides /srv/tides xfs defaults,nofail 0 0\nLABEL=more /srv/more xfs nofail 0 0\n";

/// Lets so many calls pass; what happens at the next.
struct Fault {
    left: usize,
    /// Whether the process ends there: nothing passes any more.
    ends: bool,
    /// Whether a write fills the disk halfway.
    full: bool,
    reached: bool,
}

impl Gate for Fault {
    fn pass(&mut self, _: &'static str, bytes: usize) -> io::Result<usize> {
        match (self.left, self.reached) {
            (0, false) => self.reached = true,
            (0, true) if self.ends => {}
            (0, true) => return Ok(bytes),
            _ => {
                self.left -= 1;
                return Ok(bytes);
            }
        }
        if self.full && bytes > 0 {
            return Ok(bytes / 2);
        }
        Err(io::Error::other("as the test wants it"))
    }
}

fn table(dir: &Path) -> PathBuf {
    let path = dir.join("fstab");
    fs::write(&path, OLD).unwrap();
    fs::set_permissions(&path, fs::Permissions::from_mode(0o640)).unwrap();
    path
}

fn why() -> Why {
    Why { command: "mend --write".to_owned(), undoes: Vec::new() }
}

fn put(path: &Path, old: &[u8], new: &[u8]) -> Result<Written, StoreError> {
    replace(Target::File(path), old, new, &why())
}

/// Takes the last write back, as the command does.
fn undo(path: &Path) -> Result<Written, StoreError> {
    let past = past(Target::File(path), None)?;
    let why = Why { command: "mend --undo".to_owned(), undoes: past.undoes };
    replace(Target::File(path), &past.now, &past.before, &why)
}

const HISTORY: &str = "fstab.bradawl-history";

fn names(dir: &Path) -> Vec<String> {
    let mut names: Vec<String> =
        fs::read_dir(dir).unwrap().map(|e| e.unwrap().file_name().to_string_lossy().into_owned()).collect();
    names.sort();
    names
}

/// Lets the write fail at each call in turn; how many calls there are.
fn at_every_call(ends: bool, full: bool, check: impl Fn(&Path, &Result<Written, StoreError>)) -> usize {
    for n in 0.. {
        let dir = tempfile::tempdir().unwrap();
        let path = table(dir.path());
        let mut fault = Fault { left: n, ends, full, reached: false };
        let result = replace_with(Target::File(&path), OLD, NEW, &why(), &mut fault);
        let now = fs::read(&path).unwrap();
        assert!(now == OLD || now == NEW, "a third table after {n} calls");
        assert_eq!(fs::metadata(&path).unwrap().permissions().mode() & 0o777, 0o640, "mode after {n} calls");
        if !fault.reached {
            assert_eq!(now, NEW);
            return n;
        }
        check(&path, &result);
    }
    unreachable!("the write ends")
}

#[test]
fn a_write_that_fails_leaves_the_old_table_and_nothing_else() {
    for full in [false, true] {
        let calls = at_every_call(false, full, |path, result| match result {
            Err(StoreError::Call(..)) => {
                assert_eq!(fs::read(path).unwrap(), OLD);
                assert_eq!(names(path.parent().unwrap()), ["fstab", HISTORY]);
                assert_eq!(history(Target::File(path)).unwrap(), (Vec::new(), false));
            }
            Err(StoreError::Late(..)) => assert_eq!(fs::read(path).unwrap(), NEW),
            other => panic!("{other:?}"),
        });
        assert!(calls >= 12, "only {calls} calls are watched");
    }
}

#[test]
fn a_process_that_is_ended_leaves_one_of_two_tables_and_the_next_write_works() {
    for full in [false, true] {
        at_every_call(true, full, |path, _| {
            let now = fs::read(path).unwrap();
            let backups = names(path.parent().unwrap()).into_iter().filter(|n| n.contains(BACKUP));
            for backup in backups {
                assert_eq!(fs::read(path.with_file_name(backup)).unwrap(), OLD);
            }
            put(path, &now, b"# third\n").unwrap();
            assert_eq!(fs::read(path).unwrap(), b"# third\n");
            assert!(names(path.parent().unwrap()).iter().all(|n| !n.starts_with('.')), "leavings");
        });
    }
}

#[test]
fn what_changed_meanwhile_is_not_overwritten() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    assert!(matches!(put(&path, b"other", NEW), Err(StoreError::Changed)));
    assert_eq!(fs::read(&path).unwrap(), OLD);
}

#[test]
fn only_one_writes_at_a_time_and_no_stranger_holds_it_up() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    let ours = History::open(&Place::of(Target::File(&path)).unwrap()).unwrap();
    assert!(matches!(put(&path, OLD, NEW), Err(StoreError::Locked)));
    drop(ours);
    // What any local user can do: lock what they may read.
    let locks = [dir.path(), path.as_path()].map(|p| fs::File::open(p).unwrap());
    for lock in &locks {
        rustix::fs::flock(lock, rustix::fs::FlockOperation::LockExclusive).unwrap();
    }
    put(&path, OLD, NEW).unwrap();
    assert_eq!(fs::metadata(dir.path().join(HISTORY)).unwrap().permissions().mode() & 0o777, 0o600);
}

#[test]
fn a_link_stays_a_link() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    let other = tempfile::tempdir().unwrap();
    let link = other.path().join("fstab");
    symlink(&path, &link).unwrap();
    let written = put(&link, OLD, NEW).unwrap();
    assert!(link.symlink_metadata().unwrap().is_symlink());
    assert_eq!((fs::read(&path).unwrap().as_slice(), written.file.file_name()), (NEW, path.file_name()));
    assert_eq!(names(other.path()), ["fstab"]);
}

#[test]
fn undo_goes_back_one_write_at_a_time() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    put(&path, OLD, NEW).unwrap();
    put(&path, NEW, b"# third\n").unwrap();
    undo(&path).unwrap();
    assert_eq!(fs::read(&path).unwrap(), NEW);
    undo(&path).unwrap();
    assert_eq!(fs::read(&path).unwrap(), OLD);
    assert!(matches!(undo(&path), Err(StoreError::NothingWritten(_))));
    assert_eq!(names(dir.path()).iter().filter(|n| n.contains(".undone-")).count(), 2);
    let (entries, changed) = history(Target::File(&path)).unwrap();
    assert_eq!((entries.len(), changed), (4, false));
    // Any moment of the history can be had again.
    let third = past(Target::File(&path), Some(3)).unwrap();
    assert_eq!(third.before, b"# third\n");
    assert!(matches!(past(Target::File(&path), Some(5)), Err(StoreError::NoEntry(5))));
}

#[test]
fn only_what_was_written_here_is_brought_back() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    let own = dir.path().join("fstab.before-upgrade");
    fs::write(&own, "# made by hand\n").unwrap();
    let fifo = dir.path().join("fstab.before-9999");
    rustix::fs::mknodat(rustix::fs::CWD, &fifo, rustix::fs::FileType::Fifo, 0o600.into(), 0).unwrap();
    let none = undo(&path).unwrap_err().to_string();
    assert!(none.contains("left alone"), "{none}");
    let written = put(&path, OLD, NEW).unwrap();
    assert_eq!(fs::read(&own).unwrap(), b"# made by hand\n");
    fs::write(&written.backup, "# tampered with\n").unwrap();
    assert!(matches!(undo(&path), Err(StoreError::Backup(_))));
    fs::remove_file(&written.backup).unwrap();
    symlink("/etc/passwd", &written.backup).unwrap();
    assert!(matches!(undo(&path), Err(StoreError::Backup(_))));
    assert_eq!(fs::read(&path).unwrap(), NEW);
}

#[test]
fn a_change_by_hand_is_seen() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    put(&path, OLD, NEW).unwrap();
    assert!(!past(Target::File(&path), None).unwrap().changed);
    fs::write(&path, "# by hand\n").unwrap();
    let past = past(Target::File(&path), None).unwrap();
    assert!(past.changed && past.before == OLD && past.now == b"# by hand\n");
}

#[test]
fn a_history_that_others_may_write_is_not_believed() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    fs::write(dir.path().join(HISTORY), "").unwrap();
    fs::set_permissions(dir.path().join(HISTORY), fs::Permissions::from_mode(0o666)).unwrap();
    assert!(matches!(past(Target::File(&path), None), Err(StoreError::History(..))));
    let written = put(&path, OLD, NEW).unwrap();
    assert!(written.unrecorded.unwrap().contains("others may write it"));
    assert_eq!(fs::read(dir.path().join(HISTORY)).unwrap(), b"");
}

#[test]
fn a_tree_is_written_inside_only() {
    let dir = tempfile::tempdir().unwrap();
    let tree = dir.path().join("tree");
    for folder in ["tree/etc", "tree/data", "data"] {
        fs::create_dir_all(dir.path().join(folder)).unwrap();
    }
    let inner = table(&tree.join("data"));
    let outer = table(&dir.path().join("data"));
    symlink("../../data/fstab", tree.join("etc/fstab")).unwrap();
    replace(Target::Tree(&tree), OLD, NEW, &why()).unwrap();
    assert_eq!((fs::read(&inner).unwrap().as_slice(), fs::read(&outer).unwrap().as_slice()), (NEW, OLD));
    assert_eq!(names(&dir.path().join("data")), ["fstab"]);
    fs::remove_file(tree.join("etc/fstab")).unwrap();
    symlink(outer.canonicalize().unwrap(), tree.join("etc/fstab")).unwrap();
    assert!(replace(Target::Tree(&tree), OLD, NEW, &why()).is_err());
    fs::remove_dir_all(tree.join("etc")).unwrap();
    symlink("/data", tree.join("etc")).unwrap();
    fs::remove_file(&inner).unwrap();
    assert_eq!(create(Target::Tree(&tree), NEW).unwrap(), inner.canonicalize().unwrap());
    assert!(create(Target::Tree(&tree), NEW).is_err(), "it is there now");
}

#[test]
fn extended_attributes_are_kept() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    let value = b"system_u:object_r:etc_t:s0";
    let flags = rustix::fs::XattrFlags::empty();
    if rustix::fs::setxattr(&path, "user.bradawl.note", value, flags).is_err() {
        return; // a file system without them
    }
    put(&path, OLD, NEW).unwrap();
    let mut kept = [0; 100];
    let len = rustix::fs::getxattr(&path, "user.bradawl.note", &mut kept[..]).unwrap();
    assert_eq!(&kept[..len], value);
}
