//! Where a file's blocks lie.

use super::{BTREE, EXTENTS, Inode, Xfs};
use crate::TreeError;
use bradawl_facts::probe::Block;

/// More extents of one file than this are not read.
const MAX_EXTENTS: usize = 100_000;
/// More blocks of one file's tree than this are not read.
const MAX_NODES: usize = 2000;
/// Bytes of a record, and of a key with its pointer.
const RECORD: usize = 16;

/// A run of blocks.
pub(super) struct Extent {
    /// Its first block within the file.
    pub from: u64,
    /// Its first block in the file system.
    pub start: u64,
    /// How many.
    pub count: u64,
    /// Reserved, and read as zeros.
    pub unwritten: bool,
}

/// Unpacks a record of 128 bits.
fn extent(block: &Block, at: usize) -> Option<Extent> {
    let (high, low) = (block.u64be(at)?, block.u64be(at + 8)?);
    Some(Extent {
        unwritten: high >> 63 != 0,
        from: (high & (u64::MAX >> 1)) >> 9,
        start: ((high & 0x1ff) << 43) | (low >> 21),
        count: low & 0x1f_ffff,
    })
}

impl Xfs {
    /// All extents of a file.
    pub(super) fn extents(&self, inode: &Inode) -> Result<Vec<Extent>, TreeError> {
        let damaged = TreeError::Damaged;
        match inode.format() {
            EXTENTS => {
                // With many extents the count is 64 bits, elsewhere (nrext64).
                let many = inode.bytes.u8(4) == Some(3) && inode.bytes.u64be(120).unwrap_or(0) & 0x10 != 0;
                let count = match many {
                    true => inode.bytes.u64be(24),
                    false => inode.bytes.u32be(76).map(u64::from),
                };
                let count = count.and_then(|n| usize::try_from(n).ok()).ok_or(damaged)?;
                if count > inode.fork_len / RECORD {
                    return Err(damaged);
                }
                let one = |n| extent(&inode.bytes, inode.fork + n * RECORD).ok_or(damaged);
                (0..count).map(one).collect()
            }
            BTREE => self.tree_extents(inode),
            _ => Err(damaged),
        }
    }

    fn tree_extents(&self, inode: &Inode) -> Result<Vec<Extent>, TreeError> {
        let root = Block::from(inode.data().ok_or(TreeError::Damaged)?);
        let level = root.u16be(0).ok_or(TreeError::Damaged)?;
        let mut open = pointers(&root, 4, 2).ok_or(TreeError::Damaged)?;
        open.reverse();
        let mut open: Vec<(u64, u16)> = open.into_iter().map(|block| (block, level)).collect();
        let (mut all, mut visited) = (Vec::new(), 0);
        while let Some((block, above)) = open.pop() {
            visited += 1;
            if visited > MAX_NODES || all.len() > MAX_EXTENTS {
                return Err(TreeError::TooMuch);
            }
            let node = self.disk.at(self.place(block)?, self.block)?;
            let sound = node.has(0, b"BMAP") || node.has(0, b"BMA3");
            let level = node.u16be(4).filter(|level| sound && *level < above).ok_or(TreeError::Damaged)?;
            let header = if self.long_headers { 72 } else { 24 };
            if level > 0 {
                let mut below = pointers(&node, header, 6).ok_or(TreeError::Damaged)?;
                below.reverse();
                open.extend(below.into_iter().map(|block| (block, level)));
                continue;
            }
            let count = usize::from(node.u16be(6).ok_or(TreeError::Damaged)?);
            for n in 0..count {
                all.push(extent(&node, header + n * RECORD).ok_or(TreeError::Damaged)?);
            }
        }
        Ok(all)
    }
}

/// The blocks that a node points at: keys first, then pointers, in as many
/// places as there is room for; the count stands at `count`.
fn pointers(node: &Block, header: usize, count: usize) -> Option<Vec<u64>> {
    let count = usize::from(node.u16be(count)?);
    let room = node.all().len().checked_sub(header)? / RECORD;
    (count <= room).then(|| (0..count).map(|n| node.u64be(header + room * 8 + n * 8)).collect())?
}
