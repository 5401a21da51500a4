//! From logical addresses to places on this device.

use bradawl_facts::probe::Block;
use std::collections::BTreeMap;

pub(super) const CHUNK_ITEM: u8 = 228;
/// Chunks whose stripes share what is written: RAID 0, 10, 5 and 6.
const STRIPED: u64 = 8 | 64 | 128 | 256;
/// More chunks than this are not believed.
const MAX_CHUNKS: usize = 100_000;

/// The chunks that lie whole on this device.
#[derive(Default)]
pub(super) struct Chunks {
    /// Number of this device within the file system.
    device: u64,
    /// Logical start → length and physical start.
    known: BTreeMap<u64, (u64, u64)>,
}

impl Chunks {
    /// The chunks that the superblock tells itself.
    pub fn of_superblock(sb: &Block) -> Option<Self> {
        let mut chunks = Chunks { device: sb.u64le(0xc9)?, ..Chunks::default() };
        let size = usize::try_from(sb.u32le(0xa0)?).ok().filter(|n| *n <= 2048)?;
        let mut at = 0;
        while at + 17 + 48 <= size {
            let place = 0x32b + at;
            let len = 48 + usize::from(sb.u16le(place + 17 + 44)?) * 32;
            chunks.add(sb.u64le(place + 9)?, &Block::from(sb.bytes(place + 17, len)?))?;
            at += 17 + len;
        }
        Some(chunks)
    }

    /// Takes in a chunk, if it lies whole on this device.
    pub fn add(&mut self, logical: u64, chunk: &Block) -> Option<()> {
        let (length, kind, stripes) = (chunk.u64le(0)?, chunk.u64le(24)?, usize::from(chunk.u16le(44)?));
        if kind & STRIPED != 0 && stripes > 1 {
            return Some(());
        }
        for n in 0..stripes {
            if chunk.u64le(48 + n * 32)? == self.device && self.known.len() < MAX_CHUNKS {
                self.known.insert(logical, (length, chunk.u64le(48 + n * 32 + 8)?));
            }
        }
        Some(())
    }

    /// Where on the device so many bytes of a logical address lie; `None` when
    /// they lie elsewhere.
    pub fn place(&self, logical: u64, len: u64) -> Option<u64> {
        let (start, (length, physical)) = self.known.range(..=logical).next_back()?;
        let within = logical - start;
        let fits = within.checked_add(len)? <= *length;
        fits.then(|| physical.checked_add(within))?
    }
}
