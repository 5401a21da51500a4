//! VHD: a footer; of images that grow a table of blocks, each with a bitmap of
//! its sectors before it (Virtual Hard Disk Image Format Specification 1.0).

use crate::blocks::{Block, BlockMap, Blocks, be32, be64, exactly};
use crate::{DiskImage, DiskImageError, SharedBytes};
use std::io;
use std::sync::Arc;

const NAME: &str = "VHD";
const SECTOR: u64 = 512;

struct Table {
    at: u64,
    entries: u64,
    /// Bytes of the bitmap before each block.
    bitmap: u64,
}

/// An image of full size: the disk, with a footer behind it.
struct Fixed;

pub(super) fn open(file: &SharedBytes, _head: &[u8; 1024]) -> Result<Option<DiskImage>, DiskImageError> {
    let end = file.size().saturating_sub(SECTOR);
    let Ok(footer) = exactly::<512>(file, end) else { return Ok(None) };
    if !footer.starts_with(b"conectix") {
        return Ok(None);
    }
    let size = be64(&footer, 48);
    let bytes: SharedBytes = match be32(&footer, 60) {
        2 => Arc::new(Blocks::new(file, size.min(end), 1 << 20, Box::new(Fixed))),
        3 => {
            let header: [u8; 1024] = exactly(file, be64(&footer, 16))?;
            let block = u64::from(be32(&header, 32));
            if !header.starts_with(b"cxsparse")
                || !(4096..=256 << 20).contains(&block)
                || !block.is_power_of_two()
            {
                return Err(DiskImageError::Damaged { format: NAME, why: "its header is none" });
            }
            let bitmap = (block / SECTOR / 8).next_multiple_of(SECTOR);
            let table = Table { at: be64(&header, 16), entries: be32(&header, 28).into(), bitmap };
            Arc::new(Blocks::new(file, size, block, Box::new(table)))
        }
        _ => {
            let why = "it is a layer over another file; make one image of them first".to_owned();
            return Err(DiskImageError::NotRead { format: NAME, why });
        }
    };
    Ok(Some(DiskImage { format: Some(NAME), bytes }))
}

impl BlockMap for Table {
    fn block(&self, file: &SharedBytes, n: u64) -> io::Result<Block> {
        if n >= self.entries {
            return Ok(Block::Zeros);
        }
        let entry = u32::from_be_bytes(exactly(file, self.at.saturating_add(n * 4))?);
        Ok(if entry == u32::MAX { Block::Zeros } else { Block::At(u64::from(entry) * SECTOR + self.bitmap) })
    }
}

impl BlockMap for Fixed {
    fn block(&self, _file: &SharedBytes, n: u64) -> io::Result<Block> {
        Ok(Block::At(n << 20))
    }
}
