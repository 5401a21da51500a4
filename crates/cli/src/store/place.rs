use super::{StoreError, call};
use rustix::fs::{Mode, OFlags, ResolveFlags};
use std::fs::{self, File};
use std::io;
use std::os::fd::AsRawFd as _;
use std::path::{Path, PathBuf};

/// A table to be written, as it was asked for.
#[derive(Debug, Clone, Copy)]
pub enum Target<'a> {
    /// A file of this host.
    File(&'a Path),
    /// The table of a directory that is another host's root: no link leads out
    /// of it, as when it is read.
    Tree(&'a Path),
}

/// Where a tree has its table.
const IN_TREE: &str = "etc/fstab";

/// A table and the directory it lies in, links followed. The directory is held
/// open: whatever becomes of its name, all is written there.
pub struct Place {
    /// The table, for messages.
    pub file: PathBuf,
    /// The directory, for messages.
    pub folder: PathBuf,
    pub name: String,
    held: File,
}

impl Place {
    /// Whether anything has the name already, a link that leads nowhere too.
    pub fn is_taken(target: Target<'_>) -> bool {
        let found = find(target, OFlags::PATH | OFlags::NOFOLLOW);
        !found.is_err_and(|e| e.kind() == io::ErrorKind::NotFound)
    }

    /// Where a table is; it has to be a regular file.
    pub fn of(target: Target<'_>) -> Result<Self, StoreError> {
        let found = find(target, OFlags::PATH).map_err(call("find it"))?;
        if !found.metadata().map_err(call("look at it"))?.is_file() {
            return Err(StoreError::NoFile);
        }
        let real = match (path_of(&found), target) {
            (Ok(real), _) => real,
            // Without /proc only the links of this host can be followed.
            (Err(_), Target::File(path)) => fs::canonicalize(path).map_err(call("find it"))?,
            (Err(e), Target::Tree(_)) => return Err(call("follow the links in the tree without /proc")(e)),
        };
        Place::in_directory(&real)
    }

    /// Where a table is to be that is not there yet.
    pub fn fresh(target: Target<'_>) -> Result<Self, StoreError> {
        let path = match target {
            Target::File(path) => path.to_owned(),
            Target::Tree(root) => {
                let (folder, name) = IN_TREE.split_once('/').unwrap_or_default();
                let folder = in_tree(root, folder, OFlags::PATH | OFlags::DIRECTORY);
                let folder = folder.and_then(|f| path_of(&f)).map_err(call("open its directory"))?;
                folder.join(name)
            }
        };
        Place::in_directory(&path)
    }

    fn in_directory(path: &Path) -> Result<Self, StoreError> {
        let folder = match path.parent() {
            Some(parent) if !parent.as_os_str().is_empty() => parent,
            _ => Path::new("."),
        };
        let held = open_at(None, folder, OFlags::RDONLY | OFlags::DIRECTORY);
        let held = held.map_err(call("open its directory"))?;
        let name = path.file_name().map(|n| n.to_string_lossy().into_owned()).unwrap_or_default();
        Ok(Place { file: path.to_owned(), folder: folder.to_owned(), name, held })
    }

    /// A name in the directory, for system calls.
    pub fn at(&self, name: &str) -> PathBuf {
        let held = PathBuf::from(format!("/proc/self/fd/{}", self.held.as_raw_fd()));
        if held.exists() { held.join(name) } else { self.folder.join(name) }
    }

    /// A file of the directory as it is, no link followed and nothing waited
    /// for.
    pub fn open(&self, name: &str) -> io::Result<File> {
        let flags = OFlags::RDONLY | OFlags::NOFOLLOW | OFlags::NONBLOCK;
        open_at(Some(&self.held), Path::new(name), flags)
    }

    /// The directory itself.
    pub fn held(&self) -> &File {
        &self.held
    }

    /// Brings the directory to the disk.
    pub fn sync(&self) -> io::Result<()> {
        self.held.sync_all()
    }
}

fn find(target: Target<'_>, flags: OFlags) -> io::Result<File> {
    match target {
        Target::File(path) => open_at(None, path, flags),
        Target::Tree(root) => in_tree(root, IN_TREE, flags),
    }
}

fn open_at(folder: Option<&File>, path: &Path, flags: OFlags) -> io::Result<File> {
    let flags = flags | OFlags::CLOEXEC;
    let opened = match folder {
        Some(folder) => rustix::fs::openat(folder, path, flags, Mode::empty()),
        None => rustix::fs::open(path, flags, Mode::empty()),
    };
    Ok(File::from(opened?))
}

/// Opens a path as if the tree were the root of all.
fn in_tree(root: &Path, path: &str, flags: OFlags) -> io::Result<File> {
    let root = open_at(None, root, OFlags::PATH | OFlags::DIRECTORY)?;
    let flags = flags | OFlags::CLOEXEC;
    Ok(File::from(rustix::fs::openat2(&root, path, flags, Mode::empty(), ResolveFlags::IN_ROOT)?))
}

fn path_of(file: &File) -> io::Result<PathBuf> {
    fs::read_link(format!("/proc/self/fd/{}", file.as_raw_fd()))
}
