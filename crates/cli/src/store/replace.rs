use super::StoreError;
use super::dress::Dress;
use super::gate::{Gate, Open};
use super::stamp::stamp;
use rustix::fs::{FlockOperation, flock};
use std::fs::{self, File, OpenOptions};
use std::io::{self, Write as _};
use std::os::unix::fs::OpenOptionsExt as _;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

/// What stands between the name of a table and the time of its backup.
pub const BACKUP: &str = ".before-";

/// What was written.
#[derive(Debug)]
pub struct Written {
    /// The file itself, where the path given is a link.
    pub file: PathBuf,
    /// The backup of what was there.
    pub backup: PathBuf,
}

/// Puts new bytes in place of a table's old ones, which are kept in a backup
/// beside it. At every moment the table is the old one or the new one, whole.
///
/// # Errors
/// When it cannot be done, or `expected` is no longer what is there; the table
/// is then as it was, unless the error is [`StoreError::Late`].
pub fn replace(path: &Path, expected: &[u8], new: &[u8]) -> Result<Written, StoreError> {
    replace_with(path, expected, new, BACKUP, &mut Open)
}

pub(super) fn replace_with(
    path: &Path,
    expected: &[u8],
    new: &[u8],
    backup: &str,
    gate: &mut dyn Gate,
) -> Result<Written, StoreError> {
    let place = Place::of(path)?;
    let _lock = place.lock()?;
    let old = File::open(&place.file).map_err(call("open it"))?;
    if fs::read(&place.file).map_err(call("read it"))? != expected {
        return Err(StoreError::Changed);
    }
    let dress = Dress::of(&old).map_err(call("read its attributes"))?;
    let backup = place.free_name(backup);
    let before = place.beside(".old");
    let after = place.beside(".new");
    let mut work = Work { gate, dress: &dress };
    let prepared = work
        .file(&before, expected)
        .and_then(|()| work.file(&after, new))
        .and_then(|()| work.rename(&before, &backup, "write the backup"))
        .and_then(|()| work.sync_folder(&place.folder))
        .and_then(|()| work.rename(&after, &place.file, "put the new table in its place"));
    if let Err(e) = prepared {
        // What was prepared is of no use to anybody.
        for path in [&before, &after, &backup] {
            work.remove(path);
        }
        return Err(e);
    }
    work.sync_folder(&place.folder).map_err(|e| match e {
        StoreError::Call(what, why) => StoreError::Late(what, why),
        other => other,
    })?;
    Ok(Written { file: place.file, backup })
}

/// A table and the folder it lies in, links followed.
pub(super) struct Place {
    pub file: PathBuf,
    pub folder: PathBuf,
    pub name: String,
}

impl Place {
    pub fn of(path: &Path) -> Result<Self, StoreError> {
        let file = fs::canonicalize(path).map_err(call("find it"))?;
        let folder = file.parent().unwrap_or(Path::new("/")).to_path_buf();
        let name = file.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
        Ok(Place { file, folder, name })
    }

    /// Keeps others of our kind out until it is dropped.
    pub fn lock(&self) -> Result<File, StoreError> {
        let folder = File::open(&self.folder).map_err(call("open its folder"))?;
        match flock(&folder, FlockOperation::NonBlockingLockExclusive) {
            Err(rustix::io::Errno::WOULDBLOCK) => Err(StoreError::Locked),
            // A file system without locks: the comparison is what is left.
            _ => Ok(folder),
        }
    }

    fn beside(&self, end: &str) -> PathBuf {
        self.folder.join(format!(".{}.bradawl{end}", self.name))
    }

    fn free_name(&self, between: &str) -> PathBuf {
        let base = format!("{}{between}{}", self.name, stamp(SystemTime::now()));
        let mut path = self.folder.join(&base);
        let mut n = 1;
        while path.symlink_metadata().is_ok() {
            n += 1;
            path = self.folder.join(format!("{base}.{n}"));
        }
        path
    }
}

struct Work<'a> {
    gate: &'a mut dyn Gate,
    dress: &'a Dress,
}

impl Work<'_> {
    /// A file with these bytes, on the disk, dressed as the table is.
    fn file(&mut self, path: &Path, bytes: &[u8]) -> Result<(), StoreError> {
        // One that a process left which was ended here; we hold the lock.
        if path.symlink_metadata().is_ok() {
            self.gate.pass("remove what was left", 0).map_err(call("remove what was left"))?;
            fs::remove_file(path).map_err(call("remove what was left"))?;
        }
        self.gate.pass("create a file beside it", 0).map_err(call("create a file beside it"))?;
        let options = OpenOptions::new().write(true).create_new(true).mode(0o600).clone();
        let mut file = options.open(path).map_err(call("create a file beside it"))?;
        self.fill(&mut file, bytes).map_err(call("write the new text"))?;
        self.dress.put_on(&file, self.gate).map_err(call("give it owner, mode and attributes"))?;
        self.gate.pass("bring it to the disk", 0).map_err(call("bring it to the disk"))?;
        file.sync_all().map_err(call("bring it to the disk"))
    }

    fn fill(&mut self, file: &mut File, bytes: &[u8]) -> io::Result<()> {
        let len = self.gate.pass("write the new text", bytes.len())?;
        file.write_all(&bytes[..len])?;
        match len < bytes.len() {
            true => Err(io::ErrorKind::StorageFull.into()),
            false => Ok(()),
        }
    }

    fn rename(&mut self, from: &Path, to: &Path, what: &'static str) -> Result<(), StoreError> {
        self.gate.pass(what, 0).map_err(call(what))?;
        fs::rename(from, to).map_err(call(what))
    }

    fn sync_folder(&mut self, folder: &Path) -> Result<(), StoreError> {
        const WHAT: &str = "bring its folder to the disk";
        self.gate.pass(WHAT, 0).map_err(call(WHAT))?;
        File::open(folder).and_then(|f| f.sync_all()).map_err(call(WHAT))
    }

    fn remove(&mut self, path: &Path) {
        if self.gate.pass("remove what was prepared", 0).is_ok() {
            // Often it is not there.
            let _ = fs::remove_file(path);
        }
    }
}

pub(super) fn call(what: &'static str) -> impl Fn(io::Error) -> StoreError {
    move |e| {
        let text = e.to_string();
        StoreError::Call(what, text.split(" (os error").next().unwrap_or(&text).to_owned())
    }
}
