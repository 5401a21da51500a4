//! Putting files in place and taking them away, with a list of what was written, so
//! that nothing else is ever touched.

use super::Piece;
use crate::believed::believed;
use crate::outcome::{CommandError, plain};
use crate::output::whole;
use crate::store::digest;
use bradawl_documents::{Done, InstalledFile, Part};
use bradawl_facts::text::visible;
use serde::{Deserialize, Serialize};
use std::fs;
use std::io;
use std::os::unix::fs::DirBuilderExt as _;
use std::path::{Component, Path, PathBuf};

/// The list, below the root.
const LIST: &str = "/var/lib/bradawl/installed.json";
const SCHEMA: &str = "bradawl.installed/1";
/// No file of ours is larger.
const MAX_BYTES: u64 = 8 << 20;

/// What was written, in the order in which it was.
#[derive(Debug, Default, Serialize, Deserialize)]
pub struct List {
    schema: String,
    files: Vec<Written>,
    /// Directories that were made for them.
    directories: Vec<String>,
}

#[derive(Debug, Clone, Serialize, Deserialize)]
struct Written {
    path: String,
    part: Part,
    sha256: String,
}

impl List {
    fn digest(&self, path: &str) -> Option<&str> {
        self.files.iter().find(|f| f.path == path).map(|f| f.sha256.as_str())
    }
}

/// The list of what was written below a root; `None`: nothing was.
///
/// # Errors
/// When it is there and cannot be read, or is no such list.
pub fn read_list(root: &Path) -> Result<Option<List>, CommandError> {
    let path = below(root, LIST)?;
    let wrong = |why: String| CommandError::input(path.display().to_string(), why);
    let Some(bytes) = read(&path).map_err(|e| wrong(plain(&e)))? else { return Ok(None) };
    if root == Path::new("/") {
        believed(&path).map_err(wrong)?;
    }
    let list: List = serde_json::from_slice(&bytes).map_err(|e| wrong(e.to_string()))?;
    match list.schema == SCHEMA {
        true => Ok(Some(list)),
        false => Err(wrong(format!("schema is {:?}, not {SCHEMA:?}", list.schema))),
    }
}

/// What will be written, once nothing is in its way.
pub struct Plan<'p> {
    root: &'p Path,
    list: List,
    pieces: Vec<(&'p Piece, PathBuf, Done)>,
}

impl<'p> Plan<'p> {
    /// Looks at every place.
    ///
    /// # Errors
    /// When a file that is not ours, or that was changed since, is in the way.
    pub fn new(root: &'p Path, pieces: &'p [Piece]) -> Result<Self, CommandError> {
        let list = read_list(root)?.unwrap_or_default();
        let mut planned = Vec::new();
        let mut in_the_way = Vec::new();
        for piece in pieces {
            let path = below(root, &piece.path)?;
            let there = read(&path).map_err(|e| CommandError::input(&piece.path, plain(&e)))?;
            let done = match there.as_deref() {
                Some(bytes) if bytes == piece.text.as_bytes() => Done::Unchanged,
                Some(bytes) if list.digest(&piece.path) != Some(digest(bytes).as_str()) => {
                    in_the_way.push(piece.path.as_str());
                    continue;
                }
                _ => Done::Written,
            };
            planned.push((piece, path, done));
        }
        match in_the_way.as_slice() {
            [] => Ok(Plan { root, list, pieces: planned }),
            all => Err(CommandError::input(
                all.join(", "),
                "is there already and was not written by install, or was changed since; nothing was written",
            )),
        }
    }

    /// What becomes of each file.
    pub fn files(&self) -> Vec<InstalledFile> {
        let told = |(piece, _, done): &(&Piece, PathBuf, Done)| InstalledFile {
            path: piece.path.clone(),
            part: piece.part,
            done: *done,
        };
        self.pieces.iter().map(told).collect()
    }

    /// Writes the files; the list first, so that whatever comes between can be taken
    /// away.
    ///
    /// # Errors
    /// When a file cannot be written.
    pub fn write(mut self) -> Result<(), CommandError> {
        for (piece, path, _) in &self.pieces {
            let written =
                Written { path: piece.path.clone(), part: piece.part, sha256: digest(piece.text.as_bytes()) };
            self.list.files.retain(|f| f.path != piece.path);
            self.list.files.push(written);
            let lacking = path.ancestors().skip(1).take_while(|folder| !folder.exists());
            for folder in lacking {
                let folder = format!("/{}", folder.strip_prefix(self.root).unwrap_or(folder).display());
                if !self.list.directories.contains(&folder) {
                    self.list.directories.push(folder);
                }
            }
        }
        write_list(self.root, &mut self.list)?;
        for (piece, path, _) in self.pieces.iter().filter(|(_, _, done)| *done == Done::Written) {
            put(path, piece.text.as_bytes(), piece.mode)?;
        }
        Ok(())
    }
}

/// Takes away what was written and is as it was written; tells what became of each
/// file.
///
/// # Errors
/// When a file cannot be read or removed.
pub fn uninstall(root: &Path, list: &List, dry_run: bool) -> Result<Vec<InstalledFile>, CommandError> {
    let mut told = Vec::new();
    // All of it before any of it.
    for file in &list.files {
        if !OURS.iter().any(|place| Path::new(&file.path).starts_with(place)) {
            return Err(not_ours(&file.path));
        }
        below(root, &file.path)?;
    }
    for file in &list.files {
        let path = below(root, &file.path)?;
        let failed = |source| CommandError::Output { name: file.path.clone(), source };
        let done = match read(&path).map_err(failed)? {
            None => Done::Gone,
            Some(bytes) if digest(&bytes) != file.sha256 => Done::Kept,
            Some(_) => Done::Removed,
        };
        if done == Done::Removed && !dry_run {
            fs::remove_file(&path).map_err(failed)?;
        }
        told.push(InstalledFile { path: file.path.clone(), part: file.part, done });
    }
    if !dry_run {
        let list_path = below(root, LIST)?;
        fs::remove_file(&list_path)
            .map_err(|source| CommandError::Output { name: LIST.to_owned(), source })?;
        // The deepest first; what is not empty stays.
        let mut folders: Vec<&String> = list.directories.iter().collect();
        folders.sort_by_key(|folder| std::cmp::Reverse(folder.len()));
        for folder in folders {
            if let Ok(folder) = below(root, folder) {
                let _ = fs::remove_dir(folder);
            }
        }
    }
    Ok(told)
}

fn write_list(root: &Path, list: &mut List) -> Result<(), CommandError> {
    let path = below(root, LIST)?;
    list.schema = SCHEMA.to_owned();
    for folder in path.ancestors().skip(1).take_while(|folder| !folder.exists()) {
        let folder = format!("/{}", folder.strip_prefix(root).unwrap_or(folder).display());
        if !list.directories.contains(&folder) {
            list.directories.push(folder);
        }
    }
    let mut json = serde_json::to_string_pretty(list).map_err(io::Error::from)?;
    json.push('\n');
    put(&path, json.as_bytes(), 0o644)
}

/// Where files of ours lie: whatever a list says, no other is touched.
const OURS: [&str; 4] = ["/usr/local", "/etc/apt/apt.conf.d", "/etc/dnf/plugins", "/var/lib/bradawl"];

/// The path below a root. Below another root than / no link is followed: it would
/// lead to this host's own files.
fn below(root: &Path, path: &str) -> Result<PathBuf, CommandError> {
    let named = |part: Component<'_>| matches!(part, Component::Normal(_) | Component::RootDir);
    if !path.starts_with('/') || !Path::new(path).components().all(named) {
        return Err(not_ours(path));
    }
    let full = root.join(path.trim_start_matches('/'));
    if root != Path::new("/") {
        let on_the_way = full.ancestors().take_while(|at| *at != root);
        for at in on_the_way {
            if fs::symlink_metadata(at).is_ok_and(|m| m.is_symlink()) {
                let why = "it is a link, which below another root than / is not followed";
                return Err(CommandError::input(at.display().to_string(), why));
            }
        }
    }
    Ok(full)
}

fn not_ours(path: &str) -> CommandError {
    CommandError::input(LIST, format!("{} is no place for files of ours", visible(path)))
}

/// A regular file's bytes; `None`: there is none.
fn read(path: &Path) -> io::Result<Option<Vec<u8>>> {
    match fs::symlink_metadata(path) {
        Err(error) if error.kind() == io::ErrorKind::NotFound => Ok(None),
        Err(error) => Err(error),
        Ok(meta) if !meta.is_file() => Err(io::Error::other("it is no regular file")),
        Ok(meta) if meta.len() > MAX_BYTES => Err(io::Error::other("it is larger than any file of ours")),
        Ok(_) => fs::read(path).map(Some),
    }
}

/// Writes a file whole or not at all.
fn put(path: &Path, bytes: &[u8], mode: u32) -> Result<(), CommandError> {
    let failed = |source| CommandError::Output { name: path.display().to_string(), source };
    let folder = path.parent().unwrap_or(Path::new("/"));
    fs::DirBuilder::new().recursive(true).mode(0o755).create(folder).map_err(failed)?;
    whole(path, bytes, mode).map_err(failed)
}
