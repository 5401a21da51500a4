//! VMDK in one file: sparse, with a table over tables of grains, or packed as a
//! stream (Virtual Disk Format 5.0).

use crate::blocks::{Block, BlockMap, Blocks, Packing, exactly, le32, le64};
use crate::{DiskImage, DiskImageError, SharedBytes};
use std::io;
use std::sync::Arc;

const NAME: &str = "VMDK";
const SECTOR: u64 = 512;
/// The table lies at the end of a file that was written as a stream.
const AT_END: u64 = u64::MAX;

struct Grains {
    directory: u64,
    per_table: u64,
    tables: u64,
    packed: bool,
}

pub(super) fn open(file: &SharedBytes, head: &[u8; 1024]) -> Result<Option<DiskImage>, DiskImageError> {
    let not_read = |why: &str| Err(DiskImageError::NotRead { format: NAME, why: why.to_owned() });
    if head.starts_with(b"# Disk DescriptorFile") {
        return not_read("it only names other files that hold the disk; give the flat one of them");
    }
    if !head.starts_with(b"KDMV") {
        return Ok(None);
    }
    let damaged = |why| Err(DiskImageError::Damaged { format: NAME, why });
    let footer = if le64(head, 56) == AT_END {
        let at = file.size().saturating_sub(1024);
        Some(exactly::<512>(file, at)?)
    } else {
        None
    };
    let header: &[u8] = footer.as_ref().map_or(head, |f| f);
    if !header.starts_with(b"KDMV") {
        return damaged("it has no table at its end: it was cut off");
    }
    let (flags, capacity, grain) = (le32(head, 8), le64(head, 12), le64(head, 20));
    let (per_table, directory) = (u64::from(le32(head, 44)), le64(header, 56));
    if !(1..=4096).contains(&grain) || !grain.is_power_of_two() || !(1..=65_536).contains(&per_table) {
        return damaged("its grains have no possible size");
    }
    if names_a_parent(file, head)? {
        return not_read("it is a layer over another file; make one image of them first");
    }
    let tables = capacity.div_ceil(grain * per_table);
    let size = capacity.saturating_mul(SECTOR);
    let grains = Grains { directory, per_table, tables, packed: flags & 0x1_0000 != 0 };
    let bytes = Arc::new(Blocks::new(file, size, grain * SECTOR, Box::new(grains)));
    Ok(Some(DiskImage { format: Some(NAME), bytes }))
}

/// Whether the descriptor inside names a parent.
fn names_a_parent(file: &SharedBytes, head: &[u8]) -> io::Result<bool> {
    let (start, length) = (le64(head, 28).saturating_mul(SECTOR), le64(head, 36).saturating_mul(SECTOR));
    let length = usize::try_from(length.min(65_536)).unwrap_or(0);
    let mut text = vec![0; length];
    let got = file.read_at(start, &mut text)?;
    let text = String::from_utf8_lossy(&text[..got]).to_lowercase();
    let parent = text.lines().find_map(|l| l.trim().strip_prefix("parentcid="));
    Ok(start > 0 && parent.is_some_and(|cid| cid.trim() != "ffffffff"))
}

impl BlockMap for Grains {
    fn block(&self, file: &SharedBytes, n: u64) -> io::Result<Block> {
        let (table, entry) = (n / self.per_table, n % self.per_table);
        if table >= self.tables {
            return Ok(Block::Zeros);
        }
        let at = self.directory.saturating_mul(SECTOR).saturating_add(table * 4);
        let table = u64::from(u32::from_le_bytes(exactly(file, at)?)) * SECTOR;
        if table == 0 {
            return Ok(Block::Zeros);
        }
        let grain = u64::from(u32::from_le_bytes(exactly(file, table + entry * 4)?));
        // 1: a grain of zeros.
        if grain <= 1 {
            return Ok(Block::Zeros);
        }
        let start = grain * SECTOR;
        if !self.packed {
            return Ok(Block::At(start));
        }
        // Before a packed grain stand its place on the disk and its length.
        let mark: [u8; 12] = exactly(file, start)?;
        Ok(Block::Packed(start + 12, le32(&mark, 8).into(), Packing::Zlib))
    }
}
