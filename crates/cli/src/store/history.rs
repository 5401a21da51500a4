//! What was written of a table: a line of JSON for each write, in a file
//! beside it that only its owner may read. It is the lock too: nobody else can
//! open it, so nobody else can hold it.

use super::StoreError;
use super::place::Place;
use rustix::fs::{FlockOperation, Mode, OFlags, flock, openat};
use serde::{Deserialize, Serialize};
use sha2::{Digest as _, Sha256};
use std::fs::File;
use std::io::{self, Read as _, Write as _};
use std::os::unix::fs::MetadataExt as _;

/// What stands behind the name of a table.
const END: &str = ".bradawl-history";
/// Longer histories are not read to their end.
const MAX_BYTES: u64 = 4 << 20;

/// One write of a table.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Entry {
    /// When, in UTC: `2026-11-23T173000Z`.
    pub at: String,
    /// Who ran it: the user's number.
    pub uid: u32,
    /// For whom, where sudo says so.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sudo_uid: Option<u32>,
    /// The command, secrets masked.
    pub command: String,
    /// SHA-256 of the table before and after.
    pub before: String,
    pub after: String,
    /// The file with what was there before, in the table's directory.
    pub backup: String,
    /// The backups of the writes that this one took back.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub undoes: Vec<String>,
}

/// SHA-256, in hexadecimal digits.
pub fn digest(bytes: &[u8]) -> String {
    Sha256::digest(bytes).iter().map(|b| format!("{b:02x}")).collect()
}

/// The history of a table, open and locked.
pub struct History {
    file: File,
}

impl History {
    /// The name of a table's history.
    pub fn name(place: &Place) -> String {
        format!("{}{END}", place.name)
    }

    /// Opens it, made if need be, and keeps others of our kind out until it is
    /// dropped.
    ///
    /// # Errors
    /// [`StoreError::History`] when another user can have written it: nothing
    /// is believed of it then, nor can it serve as a lock.
    pub fn open(place: &Place) -> Result<Self, StoreError> {
        let failed = |why: String| StoreError::History(History::name(place), why);
        let flags = OFlags::RDWR | OFlags::CREATE | OFlags::APPEND | OFlags::NOFOLLOW | OFlags::NONBLOCK;
        let mode = Mode::RUSR | Mode::WUSR;
        let opened = openat(place.held(), History::name(place), flags | OFlags::CLOEXEC, mode);
        let file = match opened {
            Ok(file) => File::from(file),
            // What the directory itself refuses is told of the table.
            Err(e @ (rustix::io::Errno::ROFS | rustix::io::Errno::NOSPC | rustix::io::Errno::NOENT)) => {
                return Err(super::call("create its history")(e.into()));
            }
            Err(e) => return Err(failed(crate::input::plain(&e.into()))),
        };
        believed(&file).map_err(failed)?;
        match flock(&file, FlockOperation::NonBlockingLockExclusive) {
            Err(rustix::io::Errno::WOULDBLOCK) => Err(StoreError::Locked),
            // A file system without locks: the comparison is what is left.
            _ => Ok(History { file }),
        }
    }

    /// Reads it without making or locking it; none is an empty one.
    pub fn read(place: &Place) -> Result<Vec<Entry>, StoreError> {
        match place.open(&History::name(place)) {
            Ok(file) => {
                believed(&file).map_err(|why| StoreError::History(History::name(place), why))?;
                entries(&file).map_err(super::call("read its history"))
            }
            Err(e) if e.kind() == io::ErrorKind::NotFound => Ok(Vec::new()),
            Err(e) => Err(super::call("read its history")(e)),
        }
    }

    /// Adds an entry and brings it to the disk.
    pub fn add(&self, entry: &Entry) -> io::Result<()> {
        // A line that was cut off must not spoil this one.
        let line = format!("\n{}\n", serde_json::to_string(entry)?);
        (&self.file).write_all(line.as_bytes())?;
        self.file.sync_all()
    }
}

/// Only root and the caller can have written it.
fn believed(file: &File) -> Result<(), String> {
    let meta = file.metadata().map_err(|e| crate::input::plain(&e))?;
    let own = rustix::process::geteuid().as_raw();
    match () {
        () if !meta.is_file() => Err("it is no regular file".to_owned()),
        () if meta.uid() != own && meta.uid() != 0 => {
            Err(format!("it belongs to another user ({})", meta.uid()))
        }
        () if meta.mode() & 0o022 != 0 => Err("others may write it".to_owned()),
        () => Ok(()),
    }
}

fn entries(file: &File) -> io::Result<Vec<Entry>> {
    let mut text = Vec::new();
    file.take(MAX_BYTES).read_to_end(&mut text)?;
    Ok(text.split(|b| *b == b'\n').filter_map(|line| serde_json::from_slice(line).ok()).collect())
}
