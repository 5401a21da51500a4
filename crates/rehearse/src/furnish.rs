//! Directories that the boot would make, in a namespace of our own: no disk
//! learns of them.

use crate::kernel::{Refusal, plain};
use rustix::fd::OwnedFd;
use rustix::fs::CWD;
use rustix::mount::{MountFlags, MoveMountFlags, OpenTreeFlags, mount, move_mount, open_tree};
use std::collections::HashSet;
use std::fs::{self, DirEntry, FileType};
use std::io;
use std::os::unix::fs::PermissionsExt as _;
use std::path::{Path, PathBuf};

/// A directory with more in it is not copied.
const MOST: usize = 4096;
/// Where a new root is put together; one of them is on every host.
const PLACES: [&str; 3] = ["/mnt", "/run", "/tmp"];

/// The directories of the namespace that are ours to write in.
#[derive(Debug, Default)]
pub(crate) struct Furnished(HashSet<PathBuf>);

impl Furnished {
    /// Makes a directory and what lacks above it.
    pub fn make(&mut self, path: &str) -> Result<(), Refusal> {
        let failed = |why: String| Refusal { at: format!("making {path}"), why };
        let path = Path::new(path);
        let there = path.ancestors().find(|p| p.exists()).ok_or_else(|| failed("no root".to_owned()))?;
        let there = there.canonicalize().map_err(|e| failed(e.to_string()))?;
        if !there.is_dir() {
            return Err(failed(format!("{} is not a directory", there.display())));
        }
        if !self.0.contains(&there) {
            cover(&there).map_err(|e| failed(e.to_string()))?;
            self.0.insert(there);
        }
        let lacking: Vec<&Path> = path.ancestors().take_while(|p| !p.exists()).collect();
        for directory in lacking.into_iter().rev() {
            fs::create_dir(directory).map_err(|e| failed(e.to_string()))?;
            self.0.insert(directory.canonicalize().map_err(|e| failed(e.to_string()))?);
        }
        Ok(())
    }
}

/// What lies in a directory, as it is put into its stand-in.
enum Piece {
    Link(PathBuf),
    Mount(OwnedFd, FileType),
}

/// Covers a directory by one in memory that shows the same: each thing in it is
/// bound to its place.
fn cover(directory: &Path) -> io::Result<()> {
    let mut pieces = Vec::new();
    for entry in fs::read_dir(directory)?.take(MOST + 1) {
        let entry = entry?;
        pieces.push((entry.file_name(), piece(&entry)?));
    }
    if pieces.len() > MOST {
        return Err(io::Error::other(format!("{} holds more than {MOST} names", directory.display())));
    }
    let mode = fs::metadata(directory)?.permissions().mode() & 0o7777;
    let is_root = directory == Path::new("/");
    let place = match is_root {
        true => PLACES.iter().map(Path::new).find(|p| p.is_dir()).ok_or(io::ErrorKind::NotFound)?,
        false => directory,
    };
    mount("stand-in", place, c"tmpfs", MountFlags::empty(), None)?;
    fs::set_permissions(place, fs::Permissions::from_mode(mode))?;
    for (name, piece) in pieces {
        put(&place.join(name), piece)?;
    }
    if is_root {
        rustix::process::chroot(place)?;
        rustix::process::chdir("/")?;
    }
    Ok(())
}

fn piece(entry: &DirEntry) -> io::Result<Piece> {
    let kind = entry.file_type()?;
    if kind.is_symlink() {
        return Ok(Piece::Link(fs::read_link(entry.path())?));
    }
    let flags = OpenTreeFlags::OPEN_TREE_CLONE
        | OpenTreeFlags::OPEN_TREE_CLOEXEC
        | OpenTreeFlags::AT_RECURSIVE
        | OpenTreeFlags::AT_SYMLINK_NOFOLLOW;
    let tree = open_tree(CWD, entry.path(), flags).map_err(|e| io::Error::other(plain(e)))?;
    Ok(Piece::Mount(tree, kind))
}

fn put(path: &Path, piece: Piece) -> io::Result<()> {
    match piece {
        Piece::Link(to) => std::os::unix::fs::symlink(to, path),
        Piece::Mount(tree, kind) => {
            if kind.is_dir() {
                fs::create_dir(path)?;
            } else {
                fs::File::create(path)?;
            }
            let attach = MoveMountFlags::MOVE_MOUNT_F_EMPTY_PATH;
            move_mount(&tree, "", CWD, path, attach).map_err(|e| io::Error::other(plain(e)))
        }
    }
}
