use crate::TreeError;
use bradawl_facts::probe::{Block, Bytes};

/// The bytes of a device, in blocks that are checked.
pub(crate) struct Disk {
    bytes: Box<dyn Bytes + Send + Sync>,
}

impl Disk {
    pub fn new(bytes: Box<dyn Bytes + Send + Sync>) -> Self {
        Disk { bytes }
    }

    /// `len` bytes from an offset.
    pub fn at(&self, offset: u64, len: usize) -> Result<Block, TreeError> {
        let end = offset.checked_add(len as u64).ok_or(TreeError::Damaged)?;
        if end > self.bytes.size() {
            return Err(TreeError::Damaged);
        }
        let mut buffer = vec![0; len];
        let mut done = 0;
        while done < len {
            match self.bytes.read_at(offset + done as u64, &mut buffer[done..]) {
                Ok(0) | Err(_) => return Err(TreeError::Damaged),
                Ok(n) => done += n,
            }
        }
        Ok(Block::from(buffer))
    }
}
