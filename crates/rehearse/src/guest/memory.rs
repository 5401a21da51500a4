//! Files without a name, which go with this process however it ends. Another
//! process opens them by this one's descriptors.

use rustix::fs::{MemfdFlags, memfd_create};
use std::fs::File;
use std::io::{self, Read as _, Seek as _, SeekFrom, Write as _};
use std::os::fd::AsRawFd as _;
use std::path::PathBuf;

/// A file in memory.
pub(super) struct Memory(File);

impl Memory {
    pub(super) fn new(content: &[u8]) -> io::Result<Self> {
        let mut file = File::from(memfd_create("bradawl-guest", MemfdFlags::CLOEXEC)?);
        file.write_all(content)?;
        Ok(Memory(file))
    }

    /// Where a child of this process finds it.
    pub(super) fn path(&self) -> PathBuf {
        format!("/proc/{}/fd/{}", std::process::id(), self.0.as_raw_fd()).into()
    }

    pub(super) fn size(&self) -> u64 {
        self.0.metadata().map_or(0, |facts| facts.len())
    }

    /// The end of it.
    pub(super) fn tail(&self, most: u64) -> Vec<u8> {
        let read = || -> io::Result<Vec<u8>> {
            let mut file = &self.0;
            file.seek(SeekFrom::Start(self.size().saturating_sub(most)))?;
            let mut bytes = Vec::new();
            file.take(most).read_to_end(&mut bytes)?;
            Ok(bytes)
        };
        read().unwrap_or_default()
    }

    /// For a child to write to.
    pub(super) fn handle(&self) -> io::Result<File> {
        self.0.try_clone()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_is_written_by_its_path_and_read_from_its_end() {
        let memory = Memory::new(b"before").unwrap();
        std::fs::write(memory.path(), b"0123456789").unwrap();
        assert_eq!((memory.size(), memory.tail(4), memory.tail(99).len()), (10, b"6789".to_vec(), 10));
    }
}
