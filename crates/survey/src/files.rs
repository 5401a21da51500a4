use crate::unread;
use bradawl_core::record::{RawBytes, TableFile, Unread};
use bradawl_core::table::MAX_BYTES;
use std::ffi::OsString;
use std::fs::File;
use std::io::{self, Read};
use std::os::unix::fs::MetadataExt as _;
use std::path::{Path, PathBuf};

/// No file of /proc, /sys or /etc that is read here is larger.
const MAX_TEXT: u64 = 16 << 20;

/// The files of a host, below its root folder, and what could not be read of
/// them.
pub(crate) struct Files {
    root: PathBuf,
    unread: Vec<Unread>,
}

impl Files {
    pub(crate) fn new(root: PathBuf) -> Self {
        Files { root, unread: Vec::new() }
    }

    /// Where a path of the host lies here.
    pub(crate) fn at(&self, path: &str) -> PathBuf {
        self.root.join(path.trim_start_matches('/'))
    }

    /// The path on the host of something below its root.
    pub(crate) fn on_host(&self, path: &Path) -> String {
        let inner = path.strip_prefix(&self.root).unwrap_or(path);
        format!("/{}", inner.to_string_lossy().trim_start_matches('/'))
    }

    /// A file's text; a file that is not there is simply `None`, any other
    /// failure is noted.
    pub(crate) fn text(&mut self, path: &str) -> Option<String> {
        match read(&self.at(path), MAX_TEXT) {
            Ok(bytes) => Some(String::from_utf8_lossy(&bytes).into_owned()),
            Err(e) => {
                if e.kind() != io::ErrorKind::NotFound {
                    self.note(path, &e);
                }
                None
            }
        }
    }

    /// A file's text without its line end, failures unnoted: for the many
    /// small files of /sys.
    pub(crate) fn value(&self, path: &str) -> Option<String> {
        let bytes = read(&self.at(path), 64 << 10).ok()?;
        Some(String::from_utf8_lossy(&bytes).trim_end().to_owned())
    }

    /// A table with its mode and owner.
    pub(crate) fn table(&mut self, path: &str) -> Option<TableFile> {
        let real = self.at(path);
        let read = std::fs::metadata(&real).and_then(|m| Ok((m, read(&real, MAX_BYTES as u64)?)));
        match read {
            Ok((meta, bytes)) => Some(TableFile {
                path: path.to_owned(),
                bytes: RawBytes::new(bytes),
                mode: Some(meta.mode() & 0o7777),
                uid: Some(meta.uid()),
                gid: Some(meta.gid()),
            }),
            Err(e) => {
                self.note(path, &e);
                None
            }
        }
    }

    /// Names in a folder, sorted; empty when it cannot be read.
    pub(crate) fn names(&self, path: &str) -> Vec<OsString> {
        let mut names: Vec<OsString> =
            std::fs::read_dir(self.at(path)).into_iter().flatten().flatten().map(|e| e.file_name()).collect();
        names.sort();
        names
    }

    /// Notes that something could not be read.
    pub(crate) fn note(&mut self, what: impl Into<String>, why: &io::Error) {
        self.unread.push(unread(what, why));
    }

    pub(crate) fn unread(self) -> Vec<Unread> {
        self.unread
    }
}

/// A whole file of bounded size.
fn read(path: &Path, limit: u64) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    File::open(path)?.take(limit + 1).read_to_end(&mut bytes)?;
    if bytes.len() as u64 > limit {
        return Err(io::Error::other(format!("larger than {limit} bytes")));
    }
    Ok(bytes)
}
