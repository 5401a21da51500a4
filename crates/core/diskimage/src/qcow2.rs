//! qcow2, versions 2 and 3: two levels of tables over clusters
//! (docs/interop/qcow2.rst of the format's own project).

use crate::blocks::{Block, BlockMap, Blocks, Packing, be32, be64, exactly};
use crate::{DiskImage, DiskImageError, SharedBytes};
use std::io;
use std::sync::Arc;

const NAME: &str = "qcow2";
/// Bits of a table entry that are a place in the file.
const PLACE: u64 = 0x00ff_ffff_ffff_fe00;

struct Tables {
    first: u64,
    entries: u64,
    cluster_bits: u32,
    packing: Packing,
    /// Entries of the second table are of 16 bytes, for clusters in 32 parts.
    extended: bool,
}

pub(super) fn open(file: &SharedBytes, head: &[u8; 1024]) -> Result<Option<DiskImage>, DiskImageError> {
    if !head.starts_with(b"QFI\xfb") {
        return Ok(None);
    }
    let not_read = |why: &str| Err(DiskImageError::NotRead { format: NAME, why: why.to_owned() });
    let damaged = |why| Err(DiskImageError::Damaged { format: NAME, why });
    let (version, cluster_bits, size) = (be32(head, 4), be32(head, 20), be64(head, 24));
    if !matches!(version, 2 | 3) {
        return not_read("its version is neither 2 nor 3");
    }
    if be64(head, 8) != 0 {
        return not_read("it is a layer over another file; make one image of them first");
    }
    if be32(head, 32) != 0 {
        return not_read("it is encrypted");
    }
    let incompatible = if version == 3 { be64(head, 72) } else { 0 };
    if incompatible & 0b100 != 0 {
        return not_read("its data lies in another file");
    }
    if incompatible >> 5 != 0 {
        return not_read("it has features that are not known here");
    }
    if !(9..=21).contains(&cluster_bits) {
        return damaged("its clusters have no possible size");
    }
    let packing = match (incompatible & 0b1000 != 0, head[104]) {
        (false, _) | (true, 0) => Packing::Deflate,
        (true, 1) => Packing::Zstd,
        _ => return not_read("it is packed in a way that is not known here"),
    };
    let extended = incompatible & 0b1_0000 != 0;
    let tables =
        Tables { first: be64(head, 40), entries: be32(head, 36).into(), cluster_bits, packing, extended };
    // An extended entry tells of each of 32 parts of a cluster.
    let block = (1u64 << cluster_bits) >> if extended { 5 } else { 0 };
    let bytes = Arc::new(Blocks::new(file, size, block, Box::new(tables)));
    Ok(Some(DiskImage { format: Some(NAME), bytes }))
}

impl BlockMap for Tables {
    fn block(&self, file: &SharedBytes, n: u64) -> io::Result<Block> {
        let (cluster, part) = if self.extended { (n / 32, n % 32) } else { (n, 0) };
        let entry_bits = if self.extended { 4 } else { 3 };
        let per_table = 1u64 << (self.cluster_bits - entry_bits);
        let (first, second) = (cluster / per_table, cluster % per_table);
        if first >= self.entries {
            return Ok(Block::Zeros);
        }
        let table = u64::from_be_bytes(exactly(file, self.first.saturating_add(first * 8))?) & PLACE;
        if table == 0 {
            return Ok(Block::Zeros);
        }
        let at = table.saturating_add(second << entry_bits);
        let entry = u64::from_be_bytes(exactly(file, at)?);
        if entry >> 62 & 1 == 1 {
            let place_bits = 62 - (self.cluster_bits - 8);
            let start = entry & ((1 << place_bits) - 1);
            let sectors = (entry >> place_bits) & ((1 << (self.cluster_bits - 8)) - 1);
            let length = (sectors + 1) * 512 - start % 512;
            return Ok(if self.extended {
                return Err(io::Error::other("packed clusters in parts are not read"));
            } else {
                Block::Packed(start, length, self.packing)
            });
        }
        if self.extended {
            let bits = u64::from_be_bytes(exactly(file, at + 8)?);
            let allocated = bits >> part & 1 == 1;
            let part_size = (1u64 << self.cluster_bits) / 32;
            return Ok(if allocated { Block::At((entry & PLACE) + part * part_size) } else { Block::Zeros });
        }
        // Bit 0: the cluster reads as zeros, whatever lies there.
        let place = entry & PLACE;
        Ok(if place == 0 || entry & 1 == 1 { Block::Zeros } else { Block::At(place) })
    }
}
