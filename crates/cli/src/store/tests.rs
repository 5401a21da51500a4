//! A write that fails, or is ended, at every one of its system calls.

use super::gate::Gate;
use super::replace::{BACKUP, Place, Written, replace_with};
use super::{StoreError, replace, undo};
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
        let result = replace_with(&path, OLD, NEW, BACKUP, &mut fault);
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
                assert_eq!(names(path.parent().unwrap()), ["fstab"]);
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
            replace(path, &now, b"# third\n").unwrap();
            assert_eq!(fs::read(path).unwrap(), b"# third\n");
            assert!(names(path.parent().unwrap()).iter().all(|n| !n.starts_with('.')), "leavings");
        });
    }
}

#[test]
fn what_changed_meanwhile_is_not_overwritten() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    assert!(matches!(replace(&path, b"other", NEW), Err(StoreError::Changed)));
    assert_eq!(fs::read(&path).unwrap(), OLD);
}

#[test]
fn only_one_writes_at_a_time() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    let place = Place::of(&path).unwrap();
    let lock = place.lock().unwrap();
    assert!(matches!(replace(&path, OLD, NEW), Err(StoreError::Locked)));
    drop(lock);
    replace(&path, OLD, NEW).unwrap();
}

#[test]
fn a_link_stays_a_link() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    let other = tempfile::tempdir().unwrap();
    let link = other.path().join("fstab");
    symlink(&path, &link).unwrap();
    let written = replace(&link, OLD, NEW).unwrap();
    assert!(link.symlink_metadata().unwrap().is_symlink());
    assert_eq!((fs::read(&path).unwrap().as_slice(), written.file.file_name()), (NEW, path.file_name()));
    assert_eq!(names(other.path()), ["fstab"]);
}

#[test]
fn undo_goes_back_one_write_at_a_time() {
    let dir = tempfile::tempdir().unwrap();
    let path = table(dir.path());
    replace(&path, OLD, NEW).unwrap();
    replace(&path, NEW, b"# third\n").unwrap();
    undo(&path).unwrap();
    assert_eq!(fs::read(&path).unwrap(), NEW);
    undo(&path).unwrap();
    assert_eq!(fs::read(&path).unwrap(), OLD);
    assert!(matches!(undo(&path), Err(StoreError::NoBackup(_))));
    assert_eq!(names(dir.path()).iter().filter(|n| n.contains(".undone-")).count(), 2);
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
    replace(&path, OLD, NEW).unwrap();
    let mut kept = [0; 100];
    let len = rustix::fs::getxattr(&path, "user.bradawl.note", &mut kept[..]).unwrap();
    assert_eq!(&kept[..len], value);
}
