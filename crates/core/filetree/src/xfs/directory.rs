//! The names in a directory.

use super::extents::Extent;
use super::{Inode, LOCAL, Xfs};
use crate::{FileKind, TreeError};
use bradawl_facts::probe::Block;

/// Where the hashes of names begin within a directory's file; names lie before.
const HASHES: u64 = 1 << 35;
/// Directories larger than this are not read.
const MAX_FOLDER: u64 = 64 << 20;

/// Gets each name with its inode; false ends the search.
type See<'s> = &'s mut dyn FnMut(&[u8], u64) -> bool;

impl Xfs {
    /// Shows all names of a directory.
    pub(super) fn entries(&self, folder: u64, see: See<'_>) -> Result<(), TreeError> {
        let inode = self.inode(folder)?;
        if inode.kind() != FileKind::Directory {
            return Err(TreeError::NotADirectory);
        }
        if inode.format() == LOCAL {
            return self.in_inode(&inode, see).ok_or(TreeError::Damaged);
        }
        let size = inode.size().min(HASHES);
        if size > MAX_FOLDER {
            return Err(TreeError::TooMuch);
        }
        let extents = self.extents(&inode)?;
        let step = self.folder_block as u64;
        for from in (0..size).step_by(self.folder_block) {
            let mut block = vec![0; self.folder_block];
            let overlaps = |e: &&Extent| {
                e.from.saturating_mul(self.block as u64) < from + step
                    && e.from.saturating_add(e.count).saturating_mul(self.block as u64) > from
            };
            for extent in extents.iter().filter(overlaps) {
                self.copy(extent, from, &mut block)?;
            }
            if !self.in_block(&Block::from(block), see).ok_or(TreeError::Damaged)? {
                break;
            }
        }
        Ok(())
    }

    /// Names that fit into the inode.
    fn in_inode(&self, inode: &Inode, see: See<'_>) -> Option<()> {
        let data = Block::from(inode.data()?);
        let (count, wide) = (usize::from(data.u8(0)?), data.u8(1)? > 0);
        let number = |at| if wide { data.u64be(at) } else { data.u32be(at).map(u64::from) };
        let width = if wide { 8 } else { 4 };
        let mut at = 2 + width;
        for _ in 0..count {
            let len = usize::from(data.u8(at)?);
            let name = data.bytes(at + 3, len)?;
            let behind = at + 3 + len + usize::from(self.kinds_in_names);
            if !see(name, number(behind)?) {
                break;
            }
            at = behind + width;
        }
        Some(())
    }

    /// Names in a block of their own; whether the search goes on.
    fn in_block(&self, block: &Block, see: See<'_>) -> Option<bool> {
        let header = if self.long_headers { 64 } else { 16 };
        // A directory of one block has its hashes at the block's end.
        let end = match block.bytes(0, 4)? {
            b"XD2B" | b"XDB3" => {
                let tail = self.folder_block - 8;
                tail.checked_sub(usize::try_from(block.u32be(tail)?).ok()?.checked_mul(8)?)?
            }
            b"XD2D" | b"XDD3" => self.folder_block,
            // A hole.
            [0, 0, 0, 0] => return Some(true),
            _ => return None,
        };
        let mut at = header;
        while at + 16 <= end {
            if block.u16be(at)? == 0xffff {
                at += usize::from(block.u16be(at + 2)?).max(8);
                continue;
            }
            let len = usize::from(block.u8(at + 8)?);
            if !see(block.bytes(at + 9, len)?, block.u64be(at)?) {
                return Some(false);
            }
            at += (9 + len + usize::from(self.kinds_in_names) + 2).next_multiple_of(8);
        }
        Some(true)
    }
}
