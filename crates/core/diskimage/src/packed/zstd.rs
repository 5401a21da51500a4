//! Where the frames of zstd lie: each says in its header how much it holds, and in those
//! of its blocks how long it is (RFC 8878).

use super::unpack::measured;
use super::{How, MAX_PIECE, Pieces, Told, not_read, one_piece};
use crate::blocks::{exactly, le32, le64};
use crate::{DiskImageError, SharedBytes};

pub(super) const NAME: &str = "zstd";
/// So many blocks of a file are passed over, of 128 KiB each where it is packed usually.
const MAX_BLOCKS: u32 = 8 << 20;

pub(super) fn pieces(file: &SharedBytes) -> Told<Pieces> {
    let (mut pieces, mut at, mut blocks, mut so_far) = (Pieces::default(), 0, 0, 0);
    while at < file.size() {
        let start = at;
        let magic = u32::from_le_bytes(exactly(file, at)?);
        if magic & 0xffff_fff0 == 0x184d_2a50 {
            at = at.saturating_add(8 + u64::from(u32::from_le_bytes(exactly(file, at + 4)?)));
            continue;
        }
        if magic != 0xfd2f_b528 {
            return damaged("something that is no frame follows its frames");
        }
        let (size, first, sum) = header(file, at + 4)?;
        at = first;
        loop {
            blocks += 1;
            if blocks > MAX_BLOCKS {
                return Err(not_read(NAME, "it is packed in more blocks than are counted here"));
            }
            let [a, b, c] = exactly(file, at)?;
            let block = u32::from_le_bytes([a, b, c, 0]);
            at += 3 + match block >> 1 & 3 {
                1 => 1,
                3 => return damaged("a block is of no kind that there is"),
                _ => u64::from(block >> 3),
            };
            if block & 1 == 1 {
                break;
            }
        }
        at += if sum { 4 } else { 0 };
        if at > file.size() {
            return damaged("it was cut off");
        }
        // Packed from a pipe, it does not say how large it is.
        let size = match size {
            Some(size) => size,
            None if so_far > MAX_PIECE => return Err(one_piece(NAME)),
            None => measured(file, start, at - start, How::Zstd)?,
        };
        so_far = pieces.end().saturating_add(size);
        pieces.push(NAME, How::Zstd, (start, at - start), size)?;
    }
    Ok(pieces)
}

fn damaged<T>(why: &'static str) -> Told<T> {
    Err(DiskImageError::Damaged { format: NAME, why })
}

/// Of a frame whose magic number was read: how much it holds, where its first block is,
/// and whether a checksum follows its blocks.
fn header(file: &SharedBytes, at: u64) -> Told<(Option<u64>, u64, bool)> {
    let mut bytes = [0; 14];
    let got = file.read_at(at, &mut bytes)?;
    let descriptor = bytes[0];
    let single = descriptor >> 5 & 1 == 1;
    let dictionary = [0, 1, 2, 4][usize::from(descriptor & 3)];
    let size_at = 1 + usize::from(!single) + dictionary;
    let (length, size) = match (descriptor >> 6, single) {
        (0, false) => (0, None),
        (0, true) => (1, Some(u64::from(bytes[size_at]))),
        (1, _) => (2, Some(u64::from(u16::from_le_bytes([bytes[size_at], bytes[size_at + 1]])) + 256)),
        (2, _) => (4, Some(u64::from(le32(&bytes, size_at)))),
        _ => (8, Some(le64(&bytes, size_at))),
    };
    if size_at + length > got {
        return damaged("it was cut off");
    }
    Ok((size, at + (size_at + length) as u64, descriptor >> 2 & 1 == 1))
}
