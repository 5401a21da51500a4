//! The items of a tree.

use super::Btrfs;
use crate::TreeError;
use bradawl_facts::probe::Block;

/// More nodes than this are not looked at for one question.
const MAX_NODES: usize = 4000;
/// More items than this are not taken.
const MAX_ITEMS: usize = 200_000;

type Key = (u64, u8, u64);

/// An item: what its key ends with, and its data.
pub(super) struct Item {
    pub offset: u64,
    pub data: Block,
}

/// Which keys are asked for.
#[derive(Clone, Copy)]
pub(super) struct Range {
    first: Key,
    last: Key,
    /// Only items of this type.
    kind: u8,
}

impl Range {
    /// All items of a type in the tree.
    pub fn all_of_type(kind: u8) -> Self {
        Range { first: (0, 0, 0), last: (u64::MAX, u8::MAX, u64::MAX), kind }
    }

    /// All items of a type of one object.
    pub fn of(object: u64, kind: u8) -> Self {
        Range { first: (object, kind, 0), last: (object, kind, u64::MAX), kind }
    }

    /// One item.
    pub fn one(object: u64, kind: u8, offset: u64) -> Self {
        Range { first: (object, kind, offset), last: (object, kind, offset), kind }
    }
}

impl Btrfs {
    /// The items in a range, in order.
    pub(super) fn items(&self, tree: u64, range: Range) -> Result<Vec<Item>, TreeError> {
        match self.some_items(tree, range, MAX_ITEMS + 1)? {
            items if items.len() > MAX_ITEMS => Err(TreeError::TooMuch),
            items => Ok(items),
        }
    }

    /// The first so many items in a range.
    pub(super) fn some_items(&self, tree: u64, range: Range, limit: usize) -> Result<Vec<Item>, TreeError> {
        let mut found = Vec::new();
        let mut open = vec![(tree, u8::MAX)];
        let mut visited = 0;
        while let Some((logical, above)) = open.pop() {
            visited += 1;
            if visited > MAX_NODES {
                return Err(TreeError::TooMuch);
            }
            if found.len() >= limit {
                break;
            }
            let node = self.node(logical)?;
            let level = node.u8(100).filter(|level| *level < above).ok_or(TreeError::Damaged)?;
            match level {
                0 => leaf(&node, range, limit, &mut found),
                _ => below(&node, range).map(|all| open.extend(all.into_iter().rev().map(|at| (at, level)))),
            }
            .ok_or(TreeError::Damaged)?;
        }
        Ok(found)
    }

    fn node(&self, logical: u64) -> Result<Block, TreeError> {
        let at = self.chunks.place(logical, self.node_size as u64).ok_or(TreeError::ElsewhereStored)?;
        let node = self.disk.at(at, self.node_size)?;
        if node.u64le(48) == Some(logical) { Ok(node) } else { Err(TreeError::Damaged) }
    }
}

fn count(node: &Block, size: usize) -> Option<usize> {
    let count = usize::try_from(node.u32le(96)?).ok()?;
    (count <= (node.all().len() - 101) / size).then_some(count)
}

fn key(node: &Block, at: usize) -> Option<Key> {
    Some((node.u64le(at)?, node.u8(at + 8)?, node.u64le(at + 9)?))
}

/// The nodes below that may hold keys of the range.
fn below(node: &Block, range: Range) -> Option<Vec<u64>> {
    let count = count(node, 33)?;
    let mut all = Vec::new();
    for n in 0..count {
        let at = 101 + n * 33;
        let next = if n + 1 < count { Some(key(node, at + 33)?) } else { None };
        let begins = key(node, at)? <= range.last;
        if begins && next.is_none_or(|next| next > range.first) {
            all.push(node.u64le(at + 17)?);
        }
    }
    Some(all)
}

fn leaf(node: &Block, range: Range, limit: usize, found: &mut Vec<Item>) -> Option<()> {
    for n in 0..count(node, 25)? {
        let at = 101 + n * 25;
        let key = key(node, at)?;
        if key < range.first || key > range.last || key.1 != range.kind || found.len() >= limit {
            continue;
        }
        let from = usize::try_from(node.u32le(at + 17)?).ok()?;
        let size = usize::try_from(node.u32le(at + 21)?).ok()?;
        let data = Block::from(node.bytes(101usize.checked_add(from)?, size)?);
        found.push(Item { offset: key.2, data });
    }
    Some(())
}
