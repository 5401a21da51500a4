//! A file's bytes: in items, in extents, packed or plain.

use super::Btrfs;
use super::items::Item;
use crate::TreeError;
use bradawl_facts::probe::Block;
use ruzstd::decoding::StreamingDecoder;
use std::io::Read as _;

pub(super) const EXTENT_DATA: u8 = 108;
/// Kinds of extents.
const INLINE: u8 = 0;
const PLAIN: u8 = 1;
/// What one packed extent unpacks to at most.
const MAX_PACKED: u64 = 128 << 10;

impl Btrfs {
    /// Copies what an item says of a file into the file's bytes.
    pub(super) fn copy(&self, item: &Item, out: &mut [u8]) -> Result<(), TreeError> {
        let data = &item.data;
        let head = || Some((data.u64le(8)?, data.u8(16)?, data.u8(20)?));
        let (whole, packing, kind) = head().ok_or(TreeError::Damaged)?;
        let Ok(from) = usize::try_from(item.offset) else { return Ok(()) };
        if from >= out.len() {
            return Ok(());
        }
        let bytes = match kind {
            INLINE => {
                let stored = data.all().get(21..).ok_or(TreeError::Damaged)?;
                self.unpacked(packing, stored, whole)?
            }
            PLAIN => self.stored(data, packing, whole, out.len() - from)?,
            // Reserved, and read as zeros.
            _ => return Ok(()),
        };
        let len = bytes.len().min(out.len() - from);
        out[from..from + len].copy_from_slice(&bytes[..len]);
        Ok(())
    }

    /// What an extent of its own holds for the file, at most `want` bytes.
    fn stored(&self, data: &Block, packing: u8, whole: u64, want: usize) -> Result<Vec<u8>, TreeError> {
        let places = || Some((data.u64le(21)?, data.u64le(29)?, data.u64le(37)?, data.u64le(45)?));
        let (logical, stored, skip, used) = places().ok_or(TreeError::Damaged)?;
        // A hole.
        if logical == 0 {
            return Ok(Vec::new());
        }
        let used = usize::try_from(used).unwrap_or(usize::MAX).min(want);
        let place = |from: u64, len: u64| self.chunks.place(from, len).ok_or(TreeError::ElsewhereStored);
        if packing == 0 {
            let from = logical.checked_add(skip).ok_or(TreeError::Damaged)?;
            return Ok(self.disk.at(place(from, used as u64)?, used)?.all().to_vec());
        }
        if stored > MAX_PACKED {
            return Err(TreeError::Damaged);
        }
        let len = usize::try_from(stored).map_err(|_| TreeError::Damaged)?;
        let bytes = self.unpacked(packing, self.disk.at(place(logical, stored)?, len)?.all(), whole)?;
        let skip = usize::try_from(skip).unwrap_or(usize::MAX).min(bytes.len());
        Ok(bytes[skip..].iter().copied().take(used).collect())
    }

    fn unpacked(&self, packing: u8, stored: &[u8], whole: u64) -> Result<Vec<u8>, TreeError> {
        let limit = usize::try_from(whole.min(MAX_PACKED)).unwrap_or(0);
        match packing {
            0 => Ok(stored.to_vec()),
            1 => match miniz_oxide::inflate::decompress_to_vec_zlib_with_limit(stored, limit) {
                Ok(bytes) => Ok(bytes),
                // What stands behind the packed bytes fills the last sector.
                Err(e) if e.output.len() >= limit => Ok(e.output),
                Err(_) => Err(TreeError::Damaged),
            },
            2 => Err(TreeError::NotRead("it is packed with LZO, which is not read here")),
            3 => {
                let decoder = StreamingDecoder::new(stored).map_err(|_| TreeError::Damaged)?;
                let mut bytes = Vec::new();
                decoder.take(limit as u64).read_to_end(&mut bytes).map_err(|_| TreeError::Damaged)?;
                Ok(bytes)
            }
            _ => Err(TreeError::NotRead("it is packed in a way that is not known here")),
        }
    }
}
