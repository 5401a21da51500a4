//! Btrfs: trees of items by key. The system chunks of the superblock lead to
//! the chunk tree, that to the tree of tree roots, that to a tree of files for
//! each subvolume.

mod chunks;
mod extents;
mod items;

use crate::disk::Disk;
use crate::walk::{Nodes, walk};
use crate::{FileKind, Meta, TreeError};
use bradawl_facts::probe::{Block, Bytes};
use chunks::Chunks;
use items::{Item, Range};

const SUPERBLOCK: u64 = 64 << 10;
/// The tree of files at the top, and the root directory of each tree of files.
const TOP: u64 = 5;
const ROOT_FOLDER: u64 = 256;
/// Where the tree of roots names the default subvolume.
const ROOT_TREE_FOLDER: u64 = 6;
/// Types of items.
const INODE_ITEM: u8 = 1;
const DIR_ITEM: u8 = 84;
const DIR_INDEX: u8 = 96;
const ROOT_ITEM: u8 = 132;
const ROOT_REF: u8 = 156;
/// The directory that a snapshot shows where a subvolume was below.
const EMPTY: u64 = 2;
/// Names in one directory beyond this many are not read.
const MAX_NAMES: usize = 100_000;

/// A file within a subvolume.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Place {
    /// The subvolume's number, and where its tree begins.
    subvolume: u64,
    tree: u64,
    inode: u64,
}

/// A Btrfs file system, seen from one of its subvolumes.
pub struct Btrfs {
    disk: Disk,
    node_size: usize,
    chunks: Chunks,
    /// The tree of tree roots.
    roots: u64,
    root: Place,
}

impl Btrfs {
    /// Reads the superblock and the chunks; the root is the default subvolume.
    ///
    /// # Errors
    /// When there is none, or it does not hold together.
    pub fn open(bytes: Box<dyn Bytes + Send + Sync>) -> Result<Self, TreeError> {
        let disk = Disk::new(bytes);
        let sb = disk.at(SUPERBLOCK, 4096)?;
        if !sb.has(0x40, b"_BHRfS_M") {
            return Err(TreeError::Damaged);
        }
        let size = |at| sb.u32le(at).and_then(|n| usize::try_from(n).ok());
        let sound = |n: &usize| n.is_power_of_two() && (4096..=65536).contains(n);
        let damaged = TreeError::Damaged;
        let mut fs = Btrfs {
            node_size: size(0x94).filter(sound).ok_or(damaged)?,
            chunks: Chunks::of_superblock(&sb).ok_or(damaged)?,
            roots: sb.u64le(0x50).ok_or(damaged)?,
            root: Place { subvolume: TOP, tree: 0, inode: ROOT_FOLDER },
            disk,
        };
        let chunk_root = sb.u64le(0x58).ok_or(damaged)?;
        for chunk in fs.items(chunk_root, Range::all_of_type(chunks::CHUNK_ITEM))? {
            fs.chunks.add(chunk.offset, &chunk.data).ok_or(damaged)?;
        }
        fs.root = fs.subvolume(fs.default_subvolume()?)?;
        Ok(fs)
    }

    /// The same file system seen from the subvolume at this path, which counts
    /// from the top.
    ///
    /// # Errors
    /// When there is no directory at the path.
    pub fn from_subvolume(mut self, path: &str) -> Result<Self, TreeError> {
        self.root = self.subvolume(TOP)?;
        self.root = walk(&self, path, true)?.0;
        match self.meta(self.root)?.kind {
            FileKind::Directory => Ok(self),
            _ => Err(TreeError::NotADirectory),
        }
    }

    /// The same seen from the subvolume with this number.
    ///
    /// # Errors
    /// When there is no such subvolume.
    pub fn from_subvolume_id(mut self, id: u64) -> Result<Self, TreeError> {
        // 0 is the top, as for the kernel.
        self.root = self.subvolume(if id == 0 { TOP } else { id })?;
        Ok(self)
    }

    fn default_subvolume(&self) -> Result<u64, TreeError> {
        let found = self.entry(self.roots, ROOT_TREE_FOLDER, b"default")?;
        Ok(found.map_or(TOP, |(id, _)| id))
    }

    /// The root directory of a subvolume by its number.
    fn subvolume(&self, id: u64) -> Result<Place, TreeError> {
        let found = self.items(self.roots, Range::of(id, ROOT_ITEM))?;
        let tree = found.last().ok_or(TreeError::NotFound)?.data.u64le(176).ok_or(TreeError::Damaged)?;
        Ok(Place { subvolume: id, tree, inode: ROOT_FOLDER })
    }

    /// What a directory has under a name: its number, and the type of the item
    /// that it is.
    fn entry(&self, tree: u64, folder: u64, name: &[u8]) -> Result<Option<(u64, u8)>, TreeError> {
        // The kernel's checksum begins with another number, and is not turned.
        let hash = u64::from(!crc32c::crc32c_append(1, name));
        for item in self.items(tree, Range::one(folder, DIR_ITEM, hash))? {
            for (entry, id, kind) in names(&item.data) {
                if entry == name {
                    return Ok(Some((id, kind)));
                }
            }
        }
        Ok(None)
    }

    fn inode(&self, at: Place) -> Result<Block, TreeError> {
        let found = self.items(at.tree, Range::one(at.inode, INODE_ITEM, 0))?;
        found.into_iter().next().map(|item| item.data).ok_or(TreeError::Damaged)
    }
}

/// The entries in a directory's item: name, number, type of item.
fn names(data: &Block) -> Vec<(&[u8], u64, u8)> {
    let mut all = Vec::new();
    let mut at = 0;
    let one = |at: usize| {
        let (id, kind) = (data.u64le(at)?, data.u8(at + 8)?);
        let (behind, len) = (usize::from(data.u16le(at + 25)?), usize::from(data.u16le(at + 27)?));
        Some((data.bytes(at + 30, len)?, id, kind, at + 30 + len + behind))
    };
    while let Some((name, id, kind, next)) = one(at) {
        all.push((name, id, kind));
        at = next;
    }
    all
}

impl Nodes for Btrfs {
    type Node = Place;

    fn root(&self) -> Place {
        self.root
    }

    fn meta(&self, at: Place) -> Result<Meta, TreeError> {
        if at.inode == EMPTY {
            return Ok(Meta { kind: FileKind::Directory, mode: 0o755, uid: 0, size: 0 });
        }
        let inode = self.inode(at)?;
        let told = || Some((inode.u32le(52)?, inode.u32le(44)?, inode.u64le(16)?));
        let (mode, uid, size) = told().ok_or(TreeError::Damaged)?;
        Ok(Meta { kind: FileKind::of_mode(mode), mode: mode & 0o7777, uid, size })
    }

    fn child(&self, folder: Place, name: &[u8]) -> Result<Option<Place>, TreeError> {
        match self.entry(folder.tree, folder.inode, name)? {
            Some((id, ROOT_ITEM)) => {
                let here = self.items(self.roots, Range::one(folder.subvolume, ROOT_REF, id))?;
                match here.is_empty() {
                    false => self.subvolume(id).map(Some),
                    true => Ok(Some(Place { inode: EMPTY, ..folder })),
                }
            }
            Some((inode, _)) => Ok(Some(Place { inode, ..folder })),
            None => Ok(None),
        }
    }

    fn names(&self, folder: Place, limit: usize) -> Result<Vec<Vec<u8>>, TreeError> {
        let range = Range::of(folder.inode, DIR_INDEX);
        let items = self.some_items(folder.tree, range, limit.min(MAX_NAMES))?;
        Ok(items.iter().flat_map(|item| names(&item.data)).map(|(name, ..)| name.to_vec()).collect())
    }

    fn bytes(&self, at: Place, size: usize) -> Result<Vec<u8>, TreeError> {
        let items: Vec<Item> = self.items(at.tree, Range::of(at.inode, extents::EXTENT_DATA))?;
        let mut out = vec![0; size];
        for item in &items {
            self.copy(item, &mut out)?;
        }
        Ok(out)
    }
}
