//! Files opened so that nothing is waited for, and below a root that no link leads
//! out of.

use rustix::fs::{Mode, OFlags, ResolveFlags};
use std::fs::File;
use std::io;
use std::os::fd::{AsRawFd as _, OwnedFd};
use std::os::unix::fs::FileTypeExt as _;
use std::path::Path;

/// Opens a file without waiting for anything.
pub(crate) fn open(path: &Path) -> io::Result<File> {
    let flags = OFlags::RDONLY | OFlags::CLOEXEC | OFlags::NONBLOCK | OFlags::NOCTTY;
    Ok(File::from(rustix::fs::open(path, flags, Mode::empty())?))
}

/// The file, if it is one: nothing is read from devices, FIFOs and sockets.
pub(crate) fn regular(file: File) -> io::Result<File> {
    let kind = file.metadata()?.file_type();
    let what = match () {
        () if kind.is_file() => return Ok(file),
        () if kind.is_dir() => "it is a directory",
        () if kind.is_fifo() => "it is a FIFO, no regular file",
        () if kind.is_socket() => "it is a socket, no regular file",
        () => "it is a device, no regular file",
    };
    Err(io::Error::other(what))
}

/// Opens a regular file below a directory. Anything else is not even opened:
/// opening a device can do things.
pub(crate) fn open_file_in(root: &OwnedFd, path: &str) -> io::Result<File> {
    let found = regular(open_in(root, path, OFlags::PATH)?)?;
    let again = open(Path::new(&format!("/proc/self/fd/{}", found.as_raw_fd())));
    match again {
        // Without /proc it is opened by its name again.
        Err(e) if e.kind() == io::ErrorKind::NotFound => regular(open_in(root, path, OFlags::RDONLY)?),
        opened => opened,
    }
}

/// Opens a path as if the directory were the root of all.
pub(crate) fn open_in(root: &OwnedFd, path: &str, flags: OFlags) -> io::Result<File> {
    let flags = flags | OFlags::CLOEXEC | OFlags::NONBLOCK;
    let flags = if flags.contains(OFlags::PATH) { flags - OFlags::NONBLOCK } else { flags };
    let fd = rustix::fs::openat2(root, path, flags, Mode::empty(), ResolveFlags::IN_ROOT)?;
    Ok(File::from(fd))
}

/// Where a path below a directory leads in the end, as a path from there: what the
/// kernel calls it, without the way to the directory itself.
pub(crate) fn canonical_in(root: &OwnedFd, path: &str) -> io::Result<String> {
    let name = |fd: i32| std::fs::read_link(format!("/proc/self/fd/{fd}"));
    let found = open_in(root, path, OFlags::PATH)?;
    let inner = name(found.as_raw_fd())?;
    let inner = inner.strip_prefix(name(root.as_raw_fd())?).map_err(io::Error::other)?;
    Ok(format!("/{}", inner.to_string_lossy()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn links_are_followed_and_never_lead_out() {
        let dir = tempfile::tempdir().unwrap();
        for folder in ["srv/grain", "etc"] {
            std::fs::create_dir_all(dir.path().join(folder)).unwrap();
        }
        for (name, to) in [("srv/link", "grain"), ("srv/whole", "/srv/grain"), ("srv/out", "../../../etc")] {
            std::os::unix::fs::symlink(to, dir.path().join(name)).unwrap();
        }
        let flags = OFlags::PATH | OFlags::DIRECTORY | OFlags::CLOEXEC;
        let root = rustix::fs::open(dir.path(), flags, Mode::empty()).unwrap();
        for (path, leads_to) in [
            ("/srv/link", "/srv/grain"),
            ("/srv/whole", "/srv/grain"),
            ("/srv/out", "/etc"),
            ("/srv/../srv", "/srv"),
            ("/", "/"),
        ] {
            assert_eq!(canonical_in(&root, path).unwrap(), leads_to, "{path}");
        }
        assert!(canonical_in(&root, "/srv/none").is_err());
    }
}
