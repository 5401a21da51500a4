//! The files of a host, wherever its root is: here, in a directory, or in an
//! image.

use crate::collected::Collected;
use crate::open::{canonical_in, open, open_file_in, open_in, regular};
use crate::part::{Head, Later};
use crate::unread;
use crate::view::View;
use bradawl_facts::probe::Bytes;
use bradawl_facts::record::{PathKind, TableFile, Unread};
use bradawl_facts::table::MAX_BYTES;
use bradawl_filetree::{FileKind, FileTree, TreeError};
use ext4_view::{Ext4, Ext4Error, FileType};
use rustix::fs::{Mode, OFlags};
use std::fs::{File, Metadata};
use std::io::{self, BufRead, BufReader, Read};
use std::os::fd::{AsRawFd as _, OwnedFd};
use std::os::unix::fs::MetadataExt as _;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// No file of /proc, /sys or /etc that is read here is larger.
const MAX_TEXT: u64 = 16 << 20;
/// So much of a file in an image says what it holds.
const HEAD: usize = 256 << 10;
/// Within an image that lies in a file system which is not mounted, what begins
/// behind so many bytes is not looked at.
const MAX_SKIP: usize = 16 << 20;
/// Counting the entries of a directory stops here.
pub(crate) const MAX_ENTRIES: usize = 1000;

/// Where a host's root is.
pub(crate) enum Root {
    /// A directory whose links lead where they say: this host's own root.
    Own(PathBuf),
    /// A directory that no link leads out of.
    Confined(OwnedFd),
    /// An ext2, ext3 or ext4 file system in an image.
    Ext(Ext4),
    /// An XFS or Btrfs file system that is not mounted.
    Tree(Box<dyn FileTree>),
    /// What was collected on another host.
    Collected(Arc<Collected>),
}

/// What is known of a path.
pub(crate) struct Stat {
    pub kind: PathKind,
    pub uid: u32,
    pub mode: u32,
    pub size: u64,
    /// Bytes that have room on the disk, where that is known.
    pub allocated: Option<u64>,
    /// When it was last changed, in seconds since 1970 UTC.
    pub modified_s: Option<u64>,
}

/// The files below a root, and what could not be read of them.
pub(crate) struct Files {
    root: Root,
    unread: Vec<Unread>,
}

impl Files {
    pub(crate) fn new(root: Root) -> Self {
        Files { root, unread: Vec::new() }
    }

    /// This host's files, or those of a directory that stands for it.
    pub(crate) fn own(root: PathBuf) -> Self {
        Files::new(Root::Own(root))
    }

    /// The files of a directory that is some host's root.
    pub(crate) fn confined(root: &Path) -> io::Result<Self> {
        let flags = OFlags::PATH | OFlags::DIRECTORY | OFlags::CLOEXEC;
        let fd = rustix::fs::open(root, flags, Mode::empty())?;
        Ok(Files::new(Root::Confined(fd)))
    }

    /// Where a path of this host lies: meaningful only for its own root.
    fn at(&self, path: &str) -> PathBuf {
        match &self.root {
            Root::Own(root) => root.join(path.trim_start_matches('/')),
            _ => PathBuf::from("/nonexistent"),
        }
    }

    /// The path on the host of something below its root.
    fn on_host(&self, path: &Path) -> String {
        let inner = match &self.root {
            Root::Own(root) => path.strip_prefix(root).unwrap_or(path),
            _ => path,
        };
        format!("/{}", inner.to_string_lossy().trim_start_matches('/'))
    }

    /// Whether this process is known to see other mounts than the init system: a
    /// service with file systems of its own, a namespace made by hand.
    pub(crate) fn is_apart(&self) -> bool {
        let namespace = |who: &str| std::fs::read_link(self.at(&format!("/proc/{who}/ns/mnt"))).ok();
        let both = namespace("self").zip(namespace("1"));
        matches!(self.root, Root::Own(_)) && both.is_some_and(|(own, init)| own != init)
    }

    /// What was collected, if that is where the files are.
    pub(crate) fn collected(&self) -> Option<&Collected> {
        match &self.root {
            Root::Collected(collected) => Some(collected),
            _ => None,
        }
    }

    /// Whether a file is kept from being copied on writing; `None`: its file
    /// system does not tell, or it is not a running host's.
    pub(crate) fn nocow(&self, path: &str) -> Option<bool> {
        match &self.root {
            Root::Own(_) => {
                let file = File::open(self.at(path)).ok()?;
                let flags = rustix::fs::ioctl_getflags(&file).ok()?;
                Some(flags.contains(rustix::fs::IFlags::NOCOW))
            }
            Root::Collected(collected) => collected.nocow(path),
            _ => None,
        }
    }

    /// Whether a file has blocks that are another's too; `None` as above.
    pub(crate) fn shared(&self, path: &str) -> Option<bool> {
        match &self.root {
            Root::Own(_) => bradawl_ioctl::shares_blocks(File::open(self.at(path)).ok()?).ok(),
            Root::Collected(collected) => collected.shared(path),
            _ => None,
        }
    }

    /// Bytes that are free for all on the file system mounted at a path.
    pub(crate) fn room(&self, path: &str) -> Option<u64> {
        match &self.root {
            Root::Own(_) => {
                let stat = rustix::fs::statvfs(self.at(path)).ok()?;
                stat.f_bavail.checked_mul(stat.f_frsize)
            }
            Root::Collected(collected) => collected.room(path),
            _ => None,
        }
    }

    /// Where a link, or a path over links, leads in the end.
    pub(crate) fn real(&self, path: &str) -> Option<String> {
        match &self.root {
            Root::Own(_) => Some(self.on_host(&std::fs::canonicalize(self.at(path)).ok()?)),
            Root::Collected(collected) => collected.real(path),
            _ => None,
        }
    }

    /// The links in a directory and below it, so many directories deep, with where
    /// they lead; not into directories of these names.
    pub(crate) fn links(&self, folder: &str, depth: usize, but: &[&str]) -> Vec<(String, String)> {
        let mut found = Vec::new();
        match &self.root {
            Root::Own(_) => self.walk(&self.at(folder), depth, but, &mut found),
            Root::Collected(collected) => found = collected.dev_links(),
            _ => {}
        }
        found
    }

    fn walk(&self, folder: &Path, depth: usize, but: &[&str], found: &mut Vec<(String, String)>) {
        for entry in std::fs::read_dir(folder).into_iter().flatten().flatten() {
            let Ok(kind) = entry.file_type() else { continue };
            if kind.is_symlink() {
                if let Ok(target) = std::fs::canonicalize(entry.path()) {
                    found.push((self.on_host(&entry.path()), self.on_host(&target)));
                }
            } else if kind.is_dir() && depth > 1 && !but.iter().any(|name| entry.file_name() == *name) {
                self.walk(&entry.path(), depth - 1, but, found);
            }
        }
    }

    /// A file's text; a file that is not there is simply `None`, any other
    /// failure is noted.
    pub(crate) fn text(&mut self, path: &str) -> Option<String> {
        match self.read(path, MAX_TEXT) {
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
        let bytes = self.read(path, 64 << 10).ok()?;
        Some(String::from_utf8_lossy(&bytes).trim_end().to_owned())
    }

    /// A table with its mode and owner.
    pub(crate) fn table(&mut self, path: &str) -> Option<TableFile> {
        let read = self.read(path, MAX_BYTES as u64).and_then(|bytes| Ok((bytes, self.stat(path)?)));
        match read {
            Ok((bytes, stat)) => Some(TableFile {
                mode: Some(stat.mode),
                uid: Some(stat.uid),
                modified_s: stat.modified_s,
                ..TableFile::new(path, bytes)
            }),
            Err(e) => {
                self.note(path, &e);
                None
            }
        }
    }

    /// Names in a directory, sorted; empty when it cannot be read.
    pub(crate) fn names(&self, path: &str) -> Vec<String> {
        let mut names = self.list(path, usize::MAX).unwrap_or_default();
        names.sort();
        names
    }

    /// How many entries a directory has; counting stops at [`MAX_ENTRIES`].
    pub(crate) fn count(&self, path: &str) -> Option<u32> {
        if let Root::Collected(collected) = &self.root {
            return collected.count(path);
        }
        u32::try_from(self.list(path, MAX_ENTRIES).ok()?.len()).ok()
    }

    /// Whether anything has this name in the directory, a link that leads nowhere
    /// too.
    pub(crate) fn is_named(&self, path: &str) -> bool {
        match &self.root {
            Root::Confined(fd) => open_in(fd, path, OFlags::PATH | OFlags::NOFOLLOW).is_ok(),
            _ => self.exists(path),
        }
    }

    /// Where the link of this name leads, as it stands; `None`: it is no link.
    /// Only its name is looked at, not what it leads to.
    pub(crate) fn link(&self, path: &str) -> Option<String> {
        let to = match &self.root {
            Root::Own(_) => std::fs::read_link(self.at(path)).ok()?,
            Root::Confined(fd) => {
                let found = open_in(fd, path, OFlags::PATH | OFlags::NOFOLLOW).ok()?;
                let to = rustix::fs::readlinkat(&found, "", Vec::new()).ok()?;
                PathBuf::from(to.to_string_lossy().into_owned())
            }
            Root::Tree(fs) => return Some(String::from_utf8_lossy(&fs.link(path).ok()?).into_owned()),
            _ => return None,
        };
        Some(to.to_string_lossy().into_owned())
    }

    /// The directory on this machine that stands for the host's root, if one does,
    /// and whether no link leads out of it.
    pub(crate) fn folder(&self) -> Option<(PathBuf, bool)> {
        match &self.root {
            Root::Own(root) => Some((root.clone(), false)),
            Root::Confined(fd) => {
                let real = std::fs::read_link(format!("/proc/self/fd/{}", fd.as_raw_fd()));
                Some((real.ok()?, true))
            }
            _ => None,
        }
    }

    pub(crate) fn exists(&self, path: &str) -> bool {
        self.stat(path).is_ok()
    }

    /// What is at a path, links followed.
    pub(crate) fn stat(&self, path: &str) -> io::Result<Stat> {
        match &self.root {
            Root::Own(_) => std::fs::metadata(self.at(path)).map(|m| of_metadata(&m)),
            Root::Confined(fd) => open_in(fd, path, OFlags::PATH)?.metadata().map(|m| of_metadata(&m)),
            Root::Ext(fs) => {
                let meta = fs.metadata(path).map_err(of_ext)?;
                let kind = match meta.file_type() {
                    FileType::Directory => PathKind::Directory,
                    FileType::Regular => PathKind::File,
                    _ => PathKind::Other,
                };
                let (uid, mode) = (meta.uid(), u32::from(meta.mode()) & 0o7777);
                Ok(Stat { kind, uid, mode, size: meta.len(), allocated: None, modified_s: None })
            }
            Root::Tree(fs) => {
                let meta = fs.stat(path).map_err(of_tree)?;
                let kind = match meta.kind {
                    FileKind::Directory => PathKind::Directory,
                    FileKind::Regular => PathKind::File,
                    FileKind::Link | FileKind::Other => PathKind::Other,
                };
                let (uid, mode, size) = (meta.uid, meta.mode, meta.size);
                Ok(Stat { kind, uid, mode, size, allocated: None, modified_s: None })
            }
            Root::Collected(collected) => collected.stat(path),
        }
    }

    /// The path with links followed, when that changes it.
    pub(crate) fn canonical(&self, path: &str) -> Option<String> {
        let real = match &self.root {
            Root::Own(_) | Root::Collected(_) => self.real(path)?,
            Root::Confined(fd) => canonical_in(fd, path).ok()?,
            Root::Ext(fs) => String::from_utf8_lossy(fs.canonicalize(path).ok()?.as_ref()).into_owned(),
            Root::Tree(fs) => fs.canonical(path).ok()?,
        };
        (real != path).then_some(real)
    }

    /// A whole file of bounded size.
    pub(crate) fn read(&self, path: &str, limit: u64) -> io::Result<Vec<u8>> {
        let too_large = || io::Error::other(format!("larger than {limit} bytes"));
        let file = match &self.root {
            Root::Own(_) => regular(open(&self.at(path))?)?,
            Root::Confined(fd) => open_file_in(fd, path)?,
            Root::Ext(fs) => {
                let size = fs.metadata(path).map_err(of_ext)?.len();
                return if size > limit { Err(too_large()) } else { fs.read(path).map_err(of_ext) };
            }
            Root::Tree(fs) => return fs.read(path, limit).map_err(of_tree),
            Root::Collected(collected) => {
                let bytes = collected.read_file(path)?;
                return if bytes.len() as u64 > limit { Err(too_large()) } else { Ok(bytes) };
            }
        };
        let mut bytes = Vec::new();
        file.take(limit + 1).read_to_end(&mut bytes)?;
        if bytes.len() as u64 > limit { Err(too_large()) } else { Ok(bytes) }
    }

    /// A file of bounded size from start to end: in pieces where the system reads it,
    /// whole where it is read out of an image.
    pub(crate) fn stream(&self, path: &str, limit: u64) -> io::Result<Box<dyn BufRead>> {
        let file = match &self.root {
            Root::Own(_) => regular(open(&self.at(path))?)?,
            Root::Confined(fd) => open_file_in(fd, path)?,
            _ => return Ok(Box::new(io::Cursor::new(self.read(path, limit)?))),
        };
        if file.metadata()?.len() > limit {
            return Err(io::Error::other(format!("larger than {limit} bytes")));
        }
        Ok(Box::new(BufReader::with_capacity(1 << 16, file)))
    }

    /// A file from an offset on, as something to be probed.
    pub(crate) fn from(&self, path: &str, size: u64, offset: u64) -> io::Result<Box<dyn Bytes>> {
        let left = size.saturating_sub(offset);
        let far = || io::Error::other("too far behind the beginning of the file");
        match &self.root {
            Root::Ext(fs) => {
                let mut bytes = vec![0; HEAD.min(usize::try_from(left).unwrap_or(HEAD))];
                let mut file = fs.open(path).map_err(of_ext)?;
                file.seek_to(offset).map_err(of_ext)?;
                file.read_exact(&mut bytes)?;
                Ok(Box::new(Head { bytes, size: left }))
            }
            // Read from its beginning: so far, and no further.
            Root::Tree(fs) => {
                let skip = usize::try_from(offset).ok().filter(|o| *o <= MAX_SKIP).ok_or_else(far)?;
                let mut bytes = fs.head(path, skip + HEAD).map_err(of_tree)?;
                bytes.drain(..skip.min(bytes.len()));
                Ok(Box::new(Head { bytes, size: left }))
            }
            _ => Ok(Box::new(Later { whole: self.start(path, size)?, offset })),
        }
    }

    /// A device or a file as something to be probed.
    pub(crate) fn start(&self, path: &str, size: u64) -> io::Result<Box<dyn Bytes + Send + Sync>> {
        let file = match &self.root {
            Root::Own(_) => File::open(self.at(path))?,
            Root::Confined(fd) => open_file_in(fd, path)?,
            Root::Ext(fs) => {
                let mut bytes = vec![0; HEAD.min(usize::try_from(size).unwrap_or(HEAD))];
                let mut file = fs.open(path).map_err(of_ext)?;
                file.read_exact(&mut bytes)?;
                return Ok(Box::new(Head { bytes, size }));
            }
            Root::Tree(fs) => {
                let bytes = fs.head(path, HEAD).map_err(of_tree)?;
                return Ok(Box::new(Head { bytes, size }));
            }
            Root::Collected(collected) => return collected.start(path, size),
        };
        Ok(Box::new(View::whole(file, size)))
    }

    pub(crate) fn list(&self, path: &str, limit: usize) -> io::Result<Vec<String>> {
        let text = |bytes: &[u8]| String::from_utf8_lossy(bytes).into_owned();
        let visible = |name: &String| name != "." && name != "..";
        Ok(match &self.root {
            Root::Own(_) => {
                let entries = std::fs::read_dir(self.at(path))?.flatten();
                entries.map(|e| e.file_name().to_string_lossy().into_owned()).take(limit).collect()
            }
            Root::Confined(fd) => {
                let folder = open_in(fd, path, OFlags::RDONLY | OFlags::DIRECTORY)?;
                let entries = rustix::fs::Dir::read_from(folder)?.flatten();
                entries.map(|e| text(e.file_name().to_bytes())).filter(visible).take(limit).collect()
            }
            Root::Ext(fs) => {
                let entries = fs.read_dir(path).map_err(of_ext)?.filter_map(Result::ok);
                entries.map(|e| text(e.file_name().as_ref())).filter(visible).take(limit).collect()
            }
            Root::Tree(fs) => {
                let names = fs.list(path, limit).map_err(of_tree)?;
                names.iter().map(|name| text(name)).collect()
            }
            Root::Collected(collected) => collected.list(path)?,
        })
    }

    /// Notes that something could not be read.
    pub(crate) fn note(&mut self, what: impl Into<String>, why: &io::Error) {
        self.unread.push(unread(what, why));
    }

    /// The notes so far, which are then forgotten.
    pub(crate) fn take_unread(&mut self) -> Vec<Unread> {
        std::mem::take(&mut self.unread)
    }

    pub(crate) fn unread(self) -> Vec<Unread> {
        self.unread
    }
}

fn of_metadata(meta: &Metadata) -> Stat {
    let kind = match meta.file_type() {
        t if t.is_dir() => PathKind::Directory,
        t if t.is_file() => PathKind::File,
        _ => PathKind::Other,
    };
    let allocated = Some(meta.blocks().saturating_mul(512));
    let modified_s = u64::try_from(meta.mtime()).ok();
    Stat { kind, uid: meta.uid(), mode: meta.mode() & 0o7777, size: meta.size(), allocated, modified_s }
}

fn of_tree(e: TreeError) -> io::Error {
    match e {
        TreeError::NotFound => rustix::io::Errno::NOENT.into(),
        TreeError::NotADirectory => io::Error::from(io::ErrorKind::NotADirectory),
        other => io::Error::other(other.to_string()),
    }
}

fn of_ext(e: Ext4Error) -> io::Error {
    match e {
        Ext4Error::NotFound => rustix::io::Errno::NOENT.into(),
        other => io::Error::other(other.to_string()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn no_link_leads_out_of_a_tree() {
        let dir = tempfile::tempdir().unwrap();
        std::fs::create_dir_all(dir.path().join("tree/etc")).unwrap();
        std::fs::write(dir.path().join("secret"), "outside").unwrap();
        std::fs::write(dir.path().join("tree/secret"), "inside").unwrap();
        for (link, to) in [("up", "../../secret"), ("whole", "/secret")] {
            std::os::unix::fs::symlink(to, dir.path().join("tree/etc").join(link)).unwrap();
        }
        let files = Files::confined(&dir.path().join("tree")).unwrap();
        assert_eq!(files.value("/etc/up").as_deref(), Some("inside"));
        assert_eq!(files.value("/etc/whole").as_deref(), Some("inside"));
        assert_eq!(files.names("/etc"), ["up", "whole"]);
        assert!(files.stat("/etc").unwrap().kind == PathKind::Directory && !files.exists("/etc/none"));
    }

    #[test]
    fn large_files_are_refused() {
        let dir = tempfile::tempdir().unwrap();
        std::fs::write(dir.path().join("big"), vec![b'x'; 100]).unwrap();
        let files = Files::own(dir.path().to_owned());
        assert!(files.read("/big", 99).unwrap_err().to_string().contains("larger"));
        assert_eq!(files.read("/big", 100).unwrap().len(), 100);
    }
}
