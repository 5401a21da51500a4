//! XFS: inodes by number in allocation groups, files as lists or trees of
//! extents, directories in the inode or in blocks of their own.

mod directory;
mod extents;

use crate::disk::Disk;
use crate::walk::Nodes;
use crate::{FileKind, Meta, TreeError};
use bradawl_facts::probe::{Block, Bytes};
use extents::Extent;

/// The largest inode that mkfs.xfs makes.
const MAX_INODE: usize = 2048;
/// Formats of a fork.
const LOCAL: u8 = 1;
const EXTENTS: u8 = 2;
const BTREE: u8 = 3;

/// An XFS file system.
pub struct Xfs {
    disk: Disk,
    block: usize,
    inode: usize,
    ag_blocks: u64,
    ag_block_bits: u32,
    inode_bits: u32,
    folder_block: usize,
    root: u64,
    /// Version 5: blocks carry checksums and owners in longer headers.
    long_headers: bool,
    /// Directory entries say what kind of file they name.
    kinds_in_names: bool,
}

/// One inode's bytes.
struct Inode {
    bytes: Block,
    /// Where its data fork begins and how long it is.
    fork: usize,
    fork_len: usize,
}

impl Xfs {
    /// Reads the superblock.
    ///
    /// # Errors
    /// When there is none, or it does not hold together.
    pub fn open(bytes: Box<dyn Bytes + Send + Sync>) -> Result<Self, TreeError> {
        let disk = Disk::new(bytes);
        let sb = disk.at(0, 512)?;
        if !sb.has(0, b"XFSB") {
            return Err(TreeError::Damaged);
        }
        Xfs::of(&sb).and_then(|fs| fs(disk)).ok_or(TreeError::Damaged)
    }

    /// The file system that a superblock describes, wanting its disk.
    fn of(sb: &Block) -> Option<impl FnOnce(Disk) -> Option<Self>> {
        let block = usize::try_from(sb.u32be(4)?).ok().filter(|b| (512..=65536).contains(b))?;
        let inode = usize::from(sb.u16be(104)?);
        let version = sb.u16be(100)?;
        let long_headers = version & 0xf == 5;
        let kinds_in_names = match long_headers {
            true => sb.u32be(216)? & 1 != 0,
            false => version & 0x8000 != 0 && sb.u32be(200)? & 0x200 != 0,
        };
        let (ag_block_bits, inode_bits) = (u32::from(sb.u8(124)?), u32::from(sb.u8(123)?));
        let folder_bits = u32::from(sb.u8(192)?);
        let sound = block.is_power_of_two()
            && (256..=MAX_INODE).contains(&inode)
            && inode.is_power_of_two()
            && inode << inode_bits.min(16) == block
            && ag_block_bits < 32
            && folder_bits <= 7;
        let folder_block = block.checked_shl(folder_bits).filter(|b| *b <= 65536)?;
        let (ag_blocks, root) = (u64::from(sb.u32be(84)?), sb.u64be(56)?);
        sound.then_some(move |disk| {
            Some(Xfs {
                disk,
                block,
                inode,
                ag_blocks,
                ag_block_bits,
                inode_bits,
                folder_block,
                root,
                long_headers,
                kinds_in_names,
            })
        })
    }

    /// Where a block of the file system begins, in bytes.
    fn place(&self, block: u64) -> Result<u64, TreeError> {
        let (group, within) = (block >> self.ag_block_bits, block & ((1 << self.ag_block_bits) - 1));
        let block = group.checked_mul(self.ag_blocks).and_then(|b| b.checked_add(within));
        block.and_then(|b| b.checked_mul(self.block as u64)).ok_or(TreeError::Damaged)
    }

    fn inode(&self, number: u64) -> Result<Inode, TreeError> {
        let within = number & ((1 << self.inode_bits) - 1);
        let at = self.place(number >> self.inode_bits)? + within * self.inode as u64;
        let bytes = self.disk.at(at, self.inode)?;
        if !bytes.has(0, b"IN") {
            return Err(TreeError::Damaged);
        }
        let fork = if bytes.u8(4) == Some(3) { 176 } else { 100 };
        let attributes = usize::from(bytes.u8(82).unwrap_or(0)) * 8;
        let room = self.inode - fork;
        let fork_len = if attributes == 0 { room } else { attributes.min(room) };
        Ok(Inode { bytes, fork, fork_len })
    }

    /// The bytes of a file that lies in extents; what has none is zeros.
    fn read(&self, inode: &Inode, from: u64, len: usize) -> Result<Vec<u8>, TreeError> {
        let mut out = vec![0; len];
        for extent in self.extents(inode)? {
            self.copy(&extent, from, &mut out)?;
        }
        Ok(out)
    }

    /// The part of an extent that falls into a window of a file.
    fn copy(&self, extent: &Extent, from: u64, out: &mut [u8]) -> Result<(), TreeError> {
        let block = self.block as u64;
        let (Some(begin), Some(len)) = (extent.from.checked_mul(block), extent.count.checked_mul(block))
        else {
            return Err(TreeError::Damaged);
        };
        let (to, end) = (from.saturating_add(out.len() as u64), begin.saturating_add(len));
        let (first, last) = (begin.max(from), end.min(to));
        if extent.unwritten || first >= last {
            return Ok(());
        }
        let at = self.place(extent.start)?.checked_add(first - begin).ok_or(TreeError::Damaged)?;
        let size = usize::try_from(last - first).map_err(|_| TreeError::TooMuch)?;
        let into = usize::try_from(first - from).map_err(|_| TreeError::TooMuch)?;
        out[into..into + size].copy_from_slice(self.disk.at(at, size)?.all());
        Ok(())
    }

    /// A link too long for its inode: blocks, with headers in version 5.
    fn far_link(&self, inode: &Inode, size: usize) -> Result<Vec<u8>, TreeError> {
        let header = if self.long_headers { 56 } else { 0 };
        let blocks = size.div_ceil(self.block - header);
        let stored = self.read(inode, 0, blocks * self.block)?;
        let parts = stored.chunks(self.block).filter_map(|block| block.get(header..));
        let mut out: Vec<u8> = parts.flatten().copied().collect();
        out.truncate(size);
        Ok(out)
    }
}

impl Inode {
    fn format(&self) -> u8 {
        self.bytes.u8(5).unwrap_or(0)
    }

    fn size(&self) -> u64 {
        self.bytes.u64be(56).unwrap_or(0)
    }

    fn kind(&self) -> FileKind {
        FileKind::of_mode(u32::from(self.bytes.u16be(2).unwrap_or(0)))
    }

    /// Its data fork.
    fn data(&self) -> Option<&[u8]> {
        self.bytes.bytes(self.fork, self.fork_len)
    }
}

impl Nodes for Xfs {
    type Node = u64;

    fn root(&self) -> u64 {
        self.root
    }

    fn meta(&self, node: u64) -> Result<Meta, TreeError> {
        let inode = self.inode(node)?;
        let mode = u32::from(inode.bytes.u16be(2).unwrap_or(0)) & 0o7777;
        let uid = inode.bytes.u32be(8).unwrap_or(0);
        Ok(Meta { kind: inode.kind(), mode, uid, size: inode.size() })
    }

    fn child(&self, folder: u64, name: &[u8]) -> Result<Option<u64>, TreeError> {
        let mut found = None;
        self.entries(folder, &mut |entry, number| {
            found = (entry == name).then_some(number);
            found.is_none()
        })?;
        Ok(found)
    }

    fn names(&self, folder: u64, limit: usize) -> Result<Vec<Vec<u8>>, TreeError> {
        let mut names = Vec::new();
        self.entries(folder, &mut |name, _| {
            if name != b"." && name != b".." {
                names.push(name.to_vec());
            }
            names.len() < limit
        })?;
        names.truncate(limit);
        Ok(names)
    }

    fn bytes(&self, node: u64, size: usize) -> Result<Vec<u8>, TreeError> {
        let inode = self.inode(node)?;
        if inode.bytes.u16be(90).unwrap_or(0) & 1 != 0 {
            return Err(TreeError::NotRead("its data lie in the real-time section"));
        }
        match inode.format() {
            LOCAL => inode.data().and_then(|d| d.get(..size)).map(<[u8]>::to_vec).ok_or(TreeError::Damaged),
            _ if inode.kind() == FileKind::Link => self.far_link(&inode, size),
            _ => self.read(&inode, 0, size),
        }
    }
}
