//! The subvolumes of a Btrfs by their paths, from its trees: the system chunks
//! of the superblock lead to the chunk tree, that to the tree of tree roots,
//! whose references name each subvolume. Layout: btrfs-dev-docs, "On-disk
//! format" and "Trees".

use super::Reader;
use super::reader::Block;
use std::collections::BTreeMap;

const SUPERBLOCK: u64 = 64 << 10;
/// The tree of files that is mounted when no subvolume is asked for.
const TOP: u64 = 5;
/// The root directory of each tree of files.
const ROOT_FOLDER: u64 = 256;
/// Types of items.
const INODE_REF: u8 = 12;
const ROOT_ITEM: u8 = 132;
const ROOT_REF: u8 = 156;
const CHUNK_ITEM: u8 = 228;
/// Chunks whose stripes share what is written: RAID 0, 10, 5 and 6.
const STRIPED: u64 = 8 | 64 | 128 | 256;
/// Directories and subvolumes deeper than this are not followed.
const MAX_DEPTH: usize = 32;
/// More nodes of a tree than this are not looked at.
const MAX_NODES: usize = 500;
/// More items than this are not looked at.
const MAX_ITEMS: usize = 100_000;

/// The paths of all subvolumes, without a slash in front; `None` when they
/// cannot all be told: stripes, another device, too much to read.
pub(super) fn subvolumes(reader: &Reader<'_>) -> Option<Vec<String>> {
    let sb = reader.at(SUPERBLOCK, 4096)?;
    let mut trees = Trees {
        reader,
        node_size: usize::try_from(sb.u32le(0x94)?).ok().filter(|n| (4096..=65536).contains(n))?,
        fsid: sb.bytes(0x20, 16)?.to_vec(),
        device: sb.u64le(0xc9)?,
        chunks: BTreeMap::new(),
    };
    trees.system_chunks(&sb)?;
    for (_, logical, item) in trees.items(sb.u64le(0x58)?, &[CHUNK_ITEM])? {
        trees.add_chunk(logical, &item)?;
    }
    let roots = trees.items(sb.u64le(0x50)?, &[ROOT_ITEM, ROOT_REF])?;
    trees.paths(&roots)
}

/// An item with its key: object, offset, data. The type is the one asked for.
type Item = (u64, u64, Block);

struct Trees<'r, 'b> {
    reader: &'r Reader<'b>,
    node_size: usize,
    fsid: Vec<u8>,
    /// Number of this device within the file system.
    device: u64,
    /// Logical start → length and physical start.
    chunks: BTreeMap<u64, (u64, u64)>,
}

impl Trees<'_, '_> {
    fn system_chunks(&mut self, sb: &Block) -> Option<()> {
        let size = usize::try_from(sb.u32le(0xa0)?).ok().filter(|n| *n <= 2048)?;
        let mut at = 0;
        while at + 17 + 48 <= size {
            let place = 0x32b + at;
            let stripes = usize::from(sb.u16le(place + 17 + 44)?);
            let len = 48 + stripes * 32;
            let chunk = Block::from(sb.bytes(place + 17, len)?);
            self.add_chunk(sb.u64le(place + 9)?, &chunk)?;
            at += 17 + len;
        }
        Some(())
    }

    fn add_chunk(&mut self, logical: u64, chunk: &Block) -> Option<()> {
        let (length, kind, stripes) = (chunk.u64le(0)?, chunk.u64le(24)?, usize::from(chunk.u16le(44)?));
        if kind & STRIPED != 0 && stripes > 1 {
            return Some(());
        }
        for n in 0..stripes {
            if chunk.u64le(48 + n * 32)? == self.device {
                self.chunks.insert(logical, (length, chunk.u64le(48 + n * 32 + 8)?));
            }
        }
        Some(())
    }

    fn node(&self, logical: u64) -> Option<Block> {
        let (start, (length, physical)) = self.chunks.range(..=logical).next_back()?;
        let within = (logical - start).checked_add(self.node_size as u64).filter(|end| end <= length)?;
        let node = self
            .reader
            .at(physical.checked_add(within)?.checked_sub(self.node_size as u64)?, self.node_size)?;
        (node.bytes(32, 16)? == self.fsid.as_slice() && node.u64le(48)? == logical).then_some(node)
    }

    /// All items of these types in a tree.
    fn items(&self, root: u64, types: &[u8]) -> Option<Vec<Item>> {
        let mut found = Vec::new();
        let mut open = vec![(root, u8::MAX)];
        let mut visited = 0;
        while let Some((logical, above)) = open.pop() {
            visited += 1;
            if visited > MAX_NODES {
                return None;
            }
            let node = self.node(logical)?;
            let level = node.u8(100).filter(|level| *level < above)?;
            let count = usize::try_from(node.u32le(96)?).ok()?;
            for n in 0..count {
                match level {
                    0 => found.extend(leaf_item(&node, n, types)?),
                    _ => open.push((node.u64le(101 + n * 33 + 17)?, level)),
                }
            }
            if found.len() > MAX_ITEMS {
                return None;
            }
        }
        Some(found)
    }

    fn paths(&self, roots: &[Item]) -> Option<Vec<String>> {
        // Items with a short form are references: parent, child, name.
        let references: Vec<&Item> = roots.iter().filter(|item| is_reference(item)).collect();
        let mut all = Vec::new();
        for reference in &references {
            all.push(self.path_of(reference, &references, roots, 0)?);
        }
        all.sort();
        Some(all)
    }

    /// The path of the subvolume that a reference names.
    fn path_of(&self, of: &Item, references: &[&Item], roots: &[Item], depth: usize) -> Option<String> {
        let (parent, _, data) = of;
        let name = text(data, 18, usize::from(data.u16le(16)?))?;
        let folder = self.folder(*parent, data.u64le(0)?, roots)?;
        let above = match *parent {
            TOP => String::new(),
            _ if depth >= MAX_DEPTH => return None,
            other => {
                let reference = references.iter().find(|(_, child, _)| *child == other)?;
                self.path_of(reference, references, roots, depth + 1)? + "/"
            }
        };
        Some(format!("{above}{folder}{name}"))
    }

    /// The directory of a tree of files by its number, with a slash behind.
    fn folder(&self, tree: u64, folder: u64, roots: &[Item]) -> Option<String> {
        let mut path = String::new();
        let mut at = folder;
        if at == ROOT_FOLDER {
            return Some(path);
        }
        let root = roots.iter().find(|item| item.0 == tree && !is_reference(item))?;
        let names = self.items(root.2.u64le(176)?, &[INODE_REF])?;
        for _ in 0..MAX_DEPTH {
            let (_, parent, data) = names.iter().find(|(inode, _, _)| *inode == at)?;
            path = format!("{}/{path}", text(data, 10, usize::from(data.u16le(8)?))?);
            at = *parent;
            if at == ROOT_FOLDER {
                return Some(path);
            }
        }
        None
    }
}

/// References are short; the items of roots begin with a whole inode.
fn is_reference(item: &Item) -> bool {
    item.2.all().len() < 160 + 18
}

fn leaf_item(node: &Block, n: usize, types: &[u8]) -> Option<Option<Item>> {
    let at = 101 + n * 25;
    if !types.contains(&node.u8(at + 8)?) {
        return Some(None);
    }
    let from = usize::try_from(node.u32le(at + 17)?).ok()?;
    let size = usize::try_from(node.u32le(at + 21)?).ok()?;
    let data = Block::from(node.bytes(101usize.checked_add(from)?, size)?);
    Some(Some((node.u64le(at)?, node.u64le(at + 9)?, data)))
}

fn text(data: &Block, at: usize, len: usize) -> Option<String> {
    Some(String::from_utf8_lossy(data.bytes(at, len)?).into_owned())
}
