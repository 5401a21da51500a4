//! Writing what a user named a file for: a file whole or not at all, anything
//! that is no file written into, and what holds other things refused.

use crate::outcome::CommandError;
use rustix::fs::{Mode, OFlags};
use std::fs::{self, File, Metadata, OpenOptions, Permissions};
use std::io::{self, Write as _};
use std::os::fd::AsRawFd as _;
use std::os::unix::fs::{FileTypeExt as _, MetadataExt as _, OpenOptionsExt as _, PermissionsExt as _};
use std::os::unix::net::UnixStream;
use std::path::{Path, PathBuf};

/// Who may read a new file.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Readers {
    /// Its owner: it says much about a host.
    Owner,
    /// All.
    All,
}

impl Readers {
    fn mode(self) -> u32 {
        match self {
            Readers::Owner => 0o600,
            Readers::All => 0o644,
        }
    }
}

/// What a path names, links followed.
enum Place {
    /// A regular file, or the name of one to be.
    File(PathBuf),
    /// A character device, FIFO, or open file of this process.
    Stream,
    Socket,
}

/// Writes the bytes to what the path names.
pub fn write(path: &Path, bytes: &[u8], readers: Readers) -> Result<(), CommandError> {
    let failed = |source| CommandError::Output { name: path.display().to_string(), source };
    match place(path).map_err(failed)? {
        Place::File(real) => whole(&real, bytes, readers.mode()),
        Place::Stream => {
            let open = OpenOptions::new().append(true).custom_flags(OFlags::NOCTTY.bits() as i32).open(path);
            open.and_then(|mut file| file.write_all(bytes))
        }
        Place::Socket => UnixStream::connect(path).and_then(|mut socket| socket.write_all(bytes)),
    }
    .map_err(failed)
}

fn place(path: &Path) -> io::Result<Place> {
    let link = match fs::symlink_metadata(path) {
        Ok(meta) => meta.is_symlink().then_some(meta),
        Err(e) if e.kind() == io::ErrorKind::NotFound => return Ok(Place::File(path.to_owned())),
        Err(e) => return Err(e),
    };
    if let Some(link) = &link {
        ours(link)?;
        let to = fs::read_link(path)?;
        if to.starts_with("/proc") {
            return Ok(Place::Stream);
        }
    }
    // The kernel follows the links, with all its own caution.
    let found =
        rustix::fs::open(path, OFlags::PATH | OFlags::CLOEXEC, Mode::empty()).map_err(io::Error::from);
    let found = File::from(found.map_err(|e| match (e.kind(), &link) {
        (io::ErrorKind::NotFound, Some(_)) => io::Error::new(e.kind(), "it is a link to what does not exist"),
        _ => e,
    })?);
    let kind = found.metadata()?.file_type();
    let real = || fs::read_link(format!("/proc/self/fd/{}", found.as_raw_fd()));
    match () {
        () if kind.is_file() && path.starts_with("/proc") => Ok(Place::Stream),
        () if kind.is_file() => Ok(Place::File(real().unwrap_or_else(|_| path.to_owned()))),
        () if kind.is_char_device() || kind.is_fifo() => Ok(Place::Stream),
        () if kind.is_socket() => Ok(Place::Socket),
        () if kind.is_dir() => Err(io::Error::other("it is a directory")),
        () => Err(io::Error::other("it is a block device, and what is on it would be lost")),
    }
}

/// A link that another user put there leads where that user wants.
fn ours(link: &Metadata) -> io::Result<()> {
    let own = rustix::process::geteuid().as_raw();
    match link.uid() == own || link.uid() == 0 {
        true => Ok(()),
        false => Err(io::Error::other(format!("it is a link that belongs to another user ({})", link.uid()))),
    }
}

/// Writes the bytes under a temporary name in the same directory, brings them
/// to disk, and gives them their name.
pub fn whole(path: &Path, bytes: &[u8], mode: u32) -> io::Result<()> {
    let directory = match path.parent() {
        Some(parent) if !parent.as_os_str().is_empty() => parent,
        _ => Path::new("."),
    };
    let mut file = tempfile::NamedTempFile::new_in(directory)?;
    file.write_all(bytes)?;
    file.as_file().set_permissions(Permissions::from_mode(mode))?;
    file.as_file().sync_all()?;
    file.persist(path).map_err(|e| e.error)?;
    File::open(directory).and_then(|f| f.sync_all())
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Read as _;
    use std::os::unix::fs::symlink;
    use std::os::unix::net::UnixListener;

    fn mode(path: &Path) -> u32 {
        fs::metadata(path).unwrap().permissions().mode() & 0o777
    }

    #[test]
    fn replaces_whole_and_private() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("kelp.json");
        fs::write(&path, "old").unwrap();
        write(&path, b"new", Readers::Owner).unwrap();
        assert_eq!((fs::read(&path).unwrap(), mode(&path)), (b"new".to_vec(), 0o600));
        assert_eq!(fs::read_dir(dir.path()).unwrap().count(), 1);
        assert!(write(&dir.path().join("no/such/folder"), b"x", Readers::All).is_err());
    }

    #[test]
    fn a_link_stays_a_link() {
        let dir = tempfile::tempdir().unwrap();
        let (path, link) = (dir.path().join("real"), dir.path().join("link"));
        fs::write(&path, "old").unwrap();
        symlink("real", &link).unwrap();
        write(&link, b"new", Readers::All).unwrap();
        assert!(fs::symlink_metadata(&link).unwrap().is_symlink());
        assert_eq!((fs::read(&path).unwrap(), mode(&path)), (b"new".to_vec(), 0o644));
        fs::remove_file(&path).unwrap();
        assert!(write(&link, b"new", Readers::All).unwrap_err().to_string().contains("does not exist"));
    }

    #[test]
    fn what_is_no_file_is_written_into_and_stays() {
        let dir = tempfile::tempdir().unwrap();
        let fifo = dir.path().join("fifo");
        rustix::fs::mknodat(rustix::fs::CWD, &fifo, rustix::fs::FileType::Fifo, Mode::RUSR | Mode::WUSR, 0)
            .unwrap();
        let link = dir.path().join("link");
        symlink("fifo", &link).unwrap();
        for path in [&fifo, &link] {
            let reader = std::thread::spawn({
                let fifo = fifo.clone();
                move || fs::read_to_string(fifo).unwrap()
            });
            write(path, b"tide", Readers::Owner).unwrap();
            assert_eq!(reader.join().unwrap(), "tide");
        }
        assert!(fs::metadata(&fifo).unwrap().file_type().is_fifo());
        let socket = dir.path().join("socket");
        let listener = UnixListener::bind(&socket).unwrap();
        write(&socket, b"ebb", Readers::Owner).unwrap();
        let mut heard = String::new();
        listener.accept().unwrap().0.read_to_string(&mut heard).unwrap();
        assert_eq!(heard, "ebb");
        write(Path::new("/dev/null"), b"x", Readers::Owner).unwrap();
        assert!(fs::metadata("/dev/null").unwrap().file_type().is_char_device());
        assert!(write(dir.path(), b"x", Readers::Owner).unwrap_err().to_string().contains("directory"));
    }
}
