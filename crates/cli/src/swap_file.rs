//! Making a swap file: allocated without holes, for root alone, with its
//! header, and under its name only once it is whole.

use crate::outcome::CommandError;
use bradawl_boot::swap::header;
use rustix::fs::{CWD, FallocateFlags, IFlags, Mode, OFlags, ioctl_getflags, ioctl_setflags};
use std::fs::File;
use std::io::{self, Seek as _, SeekFrom, Write as _};
use std::os::fd::AsRawFd as _;
use std::path::Path;

/// Written at a time, where room cannot be had otherwise.
const CHUNK: usize = 1 << 20;

/// A swap file to be made.
pub struct SwapFile<'a> {
    pub path: &'a Path,
    pub size: u64,
    pub label: &'a str,
}

impl SwapFile<'_> {
    /// Makes the file; gives its UUID. A file without a name is filled and
    /// then given its name, so that nothing is left when this is interrupted.
    pub fn write(&self) -> Result<String, CommandError> {
        let failed =
            |source: io::Error| CommandError::Output { name: self.path.display().to_string(), source };
        if self.path.symlink_metadata().is_ok() {
            return Err(CommandError::input(
                self.path.display().to_string(),
                "it exists; nothing was written",
            ));
        }
        let uuid = uuid::Uuid::new_v4();
        let page = rustix::param::page_size();
        let head = header(self.size, page, *uuid.as_bytes(), self.label);
        let head = head
            .ok_or_else(|| CommandError::input(self.path.display().to_string(), "that is no size of swap"))?;
        let folder = self.path.parent().filter(|p| !p.as_os_str().is_empty()).unwrap_or(Path::new("."));
        self.filled(folder, &head).map_err(failed)?;
        Ok(uuid.to_string())
    }

    fn filled(&self, folder: &Path, head: &[u8]) -> io::Result<()> {
        let flags = OFlags::TMPFILE | OFlags::RDWR | OFlags::CLOEXEC;
        let mode = Mode::RUSR | Mode::WUSR;
        let mut file = File::from(rustix::fs::open(folder, flags, mode)?);
        let lies_on = rustix::fs::fstatfs(&file)?.f_type;
        if let Some((_, name, why)) = WITHOUT_SWAP.iter().find(|(magic, ..)| *magic == lies_on) {
            let why = format!("{name} cannot hold swap: {why}");
            return Err(io::Error::new(io::ErrorKind::Unsupported, why));
        }
        // Where blocks are copied on writing, swap has to be kept from it;
        // other file systems do not know the flag.
        let now = ioctl_getflags(&file);
        let copies = rustix::fs::fstatfs(&file)?.f_type == BTRFS;
        if let (Ok(now), true) = (now, copies) {
            ioctl_setflags(&file, now | IFlags::NOCOW)?;
        }
        self.allocate(&mut file)?;
        file.seek(SeekFrom::Start(0))?;
        file.write_all(head)?;
        file.sync_all()?;
        let own = format!("/proc/self/fd/{}", file.as_raw_fd());
        // The name is given only if nobody has it.
        rustix::fs::linkat(CWD, own, CWD, self.path, rustix::fs::AtFlags::SYMLINK_FOLLOW)?;
        File::open(folder)?.sync_all()
    }

    /// Room for all of it; written where it cannot be had otherwise.
    fn allocate(&self, file: &mut File) -> io::Result<()> {
        match rustix::fs::fallocate(&*file, FallocateFlags::empty(), 0, self.size) {
            Ok(()) => return Ok(()),
            Err(rustix::io::Errno::OPNOTSUPP) => {}
            Err(e) => return Err(e.into()),
        }
        let zeros = vec![0; CHUNK];
        let mut left = self.size;
        while left > 0 {
            let part = usize::try_from(left).unwrap_or(CHUNK).min(CHUNK);
            file.write_all(&zeros[..part])?;
            left -= part as u64;
        }
        Ok(())
    }
}

/// File systems that no swap can lie on, by the number they give themselves
/// (include/uapi/linux/magic.h), and why.
const WITHOUT_SWAP: [(rustix::fs::FsWord, &str, &str); 7] = [
    (0x0102_1994, "tmpfs", "it is memory itself"),
    (0x8584_58f6, "ramfs", "it is memory itself"),
    (0x794c_7630, "an overlay", "its files have no blocks of their own"),
    (0x6969, "NFS", "its blocks lie on another host"),
    (0xFF53_4D42, "SMB", "its blocks lie on another host"),
    (0xFE53_4D42, "SMB", "its blocks lie on another host"),
    (0x6573_5546, "a file system in a program", "the program may itself wait for memory"),
];

/// The number that Btrfs gives itself (include/uapi/linux/magic.h).
const BTRFS: rustix::fs::FsWord = 0x9123_683E;

#[cfg(test)]
mod tests {
    use super::*;
    use std::fs;
    use std::os::unix::fs::{MetadataExt as _, PermissionsExt as _};

    #[test]
    fn whole_private_and_never_over_another() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("swapfile");
        let file = SwapFile { path: &path, size: 1 << 20, label: "reserve" };
        let uuid = match file.write() {
            Ok(uuid) => uuid,
            // A file system without nameless files.
            Err(CommandError::Output { source, .. }) if source.kind() == io::ErrorKind::Unsupported => return,
            Err(e) => panic!("{e}"),
        };
        let meta = fs::metadata(&path).unwrap();
        assert_eq!((meta.len(), meta.permissions().mode() & 0o777), (1 << 20, 0o600));
        assert!(meta.blocks() * 512 >= 1 << 20, "no holes");
        let content = bradawl_facts::probe::identify(&fs::read(&path).unwrap()).unwrap();
        assert_eq!((content.uuid, content.size), (Some(uuid), Some(1 << 20)));
        assert!(file.write().is_err(), "it exists");
        let small = SwapFile { path: &dir.path().join("small"), size: 4096, label: "" };
        assert!(small.write().is_err());
        assert_eq!(fs::read_dir(dir.path()).unwrap().count(), 1);
    }
}
