//! VDI: one table of blocks.

use crate::blocks::{Block, BlockMap, Blocks, exactly, le32, le64};
use crate::{DiskImage, DiskImageError, SharedBytes};
use std::io;
use std::sync::Arc;

const NAME: &str = "VDI";
const MAGIC: u32 = 0xbeda_107f;

struct Table {
    map: u64,
    data: u64,
    blocks: u64,
    block: u64,
}

pub(super) fn open(file: &SharedBytes, head: &[u8; 1024]) -> Result<Option<DiskImage>, DiskImageError> {
    if le32(head, 0x40) != MAGIC {
        return Ok(None);
    }
    // 1 and 2: an image that grows, and one of full size.
    if !matches!(le32(head, 0x4c), 1 | 2) {
        let why = "it is a layer over another file; make one image of them first".to_owned();
        return Err(DiskImageError::NotRead { format: NAME, why });
    }
    let (size, block) = (le64(head, 0x170), u64::from(le32(head, 0x178)));
    if !(4096..=64 << 20).contains(&block) || !block.is_power_of_two() {
        return Err(DiskImageError::Damaged { format: NAME, why: "its blocks have no possible size" });
    }
    let (map, data, blocks) = (le32(head, 0x154).into(), le32(head, 0x158).into(), le32(head, 0x180).into());
    let table = Table { map, data, blocks, block };
    Ok(Some(DiskImage {
        format: Some(NAME),
        bytes: Arc::new(Blocks::new(file, size, block, Box::new(table))),
    }))
}

impl BlockMap for Table {
    fn block(&self, file: &SharedBytes, n: u64) -> io::Result<Block> {
        if n >= self.blocks {
            return Ok(Block::Zeros);
        }
        let entry = u32::from_le_bytes(exactly(file, self.map + n * 4)?);
        // The two highest numbers: never written, and written with zeros.
        Ok(if entry >= u32::MAX - 1 {
            Block::Zeros
        } else {
            Block::At(self.data + u64::from(entry) * self.block)
        })
    }
}
