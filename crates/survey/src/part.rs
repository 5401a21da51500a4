//! Parts of files, as something to be probed.

use bradawl_facts::probe::Bytes;
use std::io;

/// The beginning of a file in an image, with the file's whole size: enough to
/// say what a swap file or an image holds.
pub(crate) struct Head {
    pub bytes: Vec<u8>,
    pub size: u64,
}

impl Bytes for Head {
    fn size(&self) -> u64 {
        self.size
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        self.bytes.read_at(offset, buffer)
    }
}

/// The bytes of a file from an offset on.
pub(crate) struct Later {
    pub whole: Box<dyn Bytes>,
    pub offset: u64,
}

impl Bytes for Later {
    fn size(&self) -> u64 {
        self.whole.size().saturating_sub(self.offset)
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        self.whole.read_at(offset.saturating_add(self.offset), buffer)
    }
}
