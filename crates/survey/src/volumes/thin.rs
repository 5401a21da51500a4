//! A thin volume: which block of the pool each of its blocks is stands in a tree of trees (the
//! kernel's drivers/md/dm-thin-metadata.c and persistent-data/dm-btree.c).

use crate::view::View;
use bradawl_facts::probe::{Block, Bytes, Reader};
use std::collections::HashMap;
use std::io;
use std::sync::{Arc, Mutex, PoisonError};

/// Bytes of a block of metadata.
const NODE: usize = 4096;
const MAGIC: u64 = 27_022_010;
/// No tree is deeper: each node has more than a hundred branches.
const MAX_DEPTH: usize = 16;
/// Nodes that are held.
const MAX_HELD: usize = 512;
const SECTOR: u64 = 512;

type Node = Arc<Vec<u8>>;

/// The bytes of a thin volume; what was never written is zeros.
pub(super) struct Thin {
    data: View,
    metadata: View,
    /// The tree of its blocks.
    root: u64,
    /// Bytes of a block of the pool.
    block: u64,
    size: u64,
    held: Mutex<HashMap<u64, Node>>,
}

impl Thin {
    /// `device`: the number that the pool knows it by.
    pub(super) fn open(data: View, metadata: View, device: u64, size: u64) -> Result<Self, &'static str> {
        const DAMAGED: &str = "its metadata is damaged";
        let mut thin = Thin { data, metadata, root: 0, block: 0, size, held: Mutex::default() };
        let node = thin.node(0).map_err(|_| DAMAGED)?;
        let reader = Reader::new(&*node);
        let first = reader.at(0, NODE).ok_or(DAMAGED)?;
        if first.u64le(32) != Some(MAGIC) {
            return Err("it has no metadata of a pool");
        }
        let sectors = first.u32le(336).filter(|sectors| *sectors > 0).ok_or(DAMAGED)?;
        thin.block = u64::from(sectors) * SECTOR;
        let devices = first.u64le(320).ok_or(DAMAGED)?;
        let root = thin.find(devices, device).map_err(|_| DAMAGED)?;
        thin.root = root.ok_or("it knows nothing of this volume")?;
        Ok(thin)
    }

    fn node(&self, number: u64) -> io::Result<Node> {
        let held = || self.held.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(node) = held().get(&number) {
            return Ok(Arc::clone(node));
        }
        let mut bytes = vec![0; NODE];
        let at = number.checked_mul(NODE as u64).ok_or_else(damaged)?;
        if self.metadata.read_at(at, &mut bytes)? < NODE {
            return Err(damaged());
        }
        let node = Arc::new(bytes);
        let mut all = held();
        if all.len() >= MAX_HELD {
            all.clear();
        }
        all.insert(number, Arc::clone(&node));
        Ok(node)
    }

    /// The value of a key in the tree with this root.
    fn find(&self, root: u64, key: u64) -> io::Result<Option<u64>> {
        let mut number = root;
        for _ in 0..MAX_DEPTH {
            let bytes = self.node(number)?;
            let node = Reader::new(&*bytes).at(0, NODE).ok_or_else(damaged)?;
            match step(&node, key).ok_or_else(damaged)? {
                Step::Down(next) => number = next,
                Step::Value(value) => return Ok(value),
            }
        }
        Err(damaged())
    }

    /// Where a block of the volume lies in the pool, in bytes; `None`: it was never written.
    fn place(&self, block: u64) -> io::Result<Option<u64>> {
        // The lower 24 bits are a time.
        let found = self.find(self.root, block)?.map(|value| value >> 24);
        found.map(|at| at.checked_mul(self.block).ok_or_else(damaged)).transpose()
    }
}

fn damaged() -> io::Error {
    io::Error::new(io::ErrorKind::InvalidData, "the metadata of a thin pool is damaged")
}

/// What a node says of a key.
enum Step {
    Down(u64),
    Value(Option<u64>),
}

/// A node: its kind at 4, the number of its entries at 16, the most it can have at 20, the
/// size of a value at 24; keys from 32, values behind room for all keys.
fn step(node: &Block, key: u64) -> Option<Step> {
    const KEYS: usize = 32;
    let (flags, entries, most) = (node.u32le(4)?, node.u32le(16)? as usize, node.u32le(20)? as usize);
    if node.u32le(24)? != 8 || entries > most || KEYS + 16 * most > NODE {
        return None;
    }
    let key_at = |n: usize| node.u64le(KEYS + 8 * n);
    let value_at = |n: usize| node.u64le(KEYS + 8 * most + 8 * n);
    // The last key that is not larger.
    let (mut low, mut high) = (0, entries);
    while low < high {
        let middle = usize::midpoint(low, high);
        if key_at(middle)? <= key { low = middle + 1 } else { high = middle }
    }
    let found = low.checked_sub(1);
    match (flags & 3, found) {
        (1, Some(n)) => Some(Step::Down(value_at(n)?)),
        (2, Some(n)) if key_at(n)? == key => Some(Step::Value(Some(value_at(n)?))),
        (1 | 2, _) => Some(Step::Value(None)),
        _ => None,
    }
}

impl Bytes for Thin {
    fn size(&self) -> u64 {
        self.size
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        let mut done = 0;
        while done < buffer.len() && offset + (done as u64) < self.size {
            let at = offset + done as u64;
            let (block, within) = (at / self.block, at % self.block);
            let room = (self.block - within).min(self.size - at);
            let want = usize::try_from(room).unwrap_or(usize::MAX).min(buffer.len() - done);
            let part = &mut buffer[done..done + want];
            match self.place(block)? {
                None => part.fill(0),
                Some(start) => {
                    let read = self.data.read_at(start.checked_add(within).ok_or_else(damaged)?, part)?;
                    if read < want {
                        return Err(damaged());
                    }
                }
            }
            done += want;
        }
        Ok(done)
    }
}
