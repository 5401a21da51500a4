//! Where the blocks of xz lie: each stream of a file ends with an index of them
//! (The .xz File Format 1.2.0, of the format's own project).

use super::unpack::unsound;
use super::{How, Piece, Pieces, Told, not_read};
use crate::blocks::{exactly, le32};
use crate::{DiskImageError, SharedBytes};
use std::io;

pub(super) const NAME: &str = "xz";
/// Bytes of a stream's header, and of its footer.
const HEADER: usize = 12;
/// No index is larger.
const MAX_INDEX: u64 = 64 << 20;
/// So many streams in one file are followed.
const MAX_STREAMS: usize = 100_000;

/// A stream, as its index tells of it.
struct Stream {
    first: u64,
    /// Of each block: bytes in the file without padding, bytes unpacked.
    blocks: Vec<(u64, u64)>,
}

pub(super) fn pieces(file: &SharedBytes) -> Told<Pieces> {
    let mut streams = Vec::new();
    let mut end = without_padding(file, file.size())?;
    while end > 0 {
        if streams.len() == MAX_STREAMS {
            return Err(not_read(NAME, "it has more streams than are counted here"));
        }
        let stream = last_stream(file, end)?;
        end = without_padding(file, stream.first - HEADER as u64)?;
        streams.push(stream);
    }
    let mut pieces = Pieces::default();
    for stream in streams.iter().rev() {
        let mut at = stream.first;
        for (packed, size) in &stream.blocks {
            let whole = packed.next_multiple_of(4);
            pieces.push(NAME, How::Xz, (at, whole), *size)?;
            at += whole;
        }
    }
    Ok(pieces)
}

fn damaged<T>(why: &'static str) -> Told<T> {
    Err(DiskImageError::Damaged { format: NAME, why })
}

/// The end of the last stream: zeros in fours may follow it.
fn without_padding(file: &SharedBytes, mut end: u64) -> Told<u64> {
    let padded = end;
    while end >= 4 && padded - end < 1 << 20 && exactly::<4>(file, end - 4)? == [0; 4] {
        end -= 4;
    }
    Ok(end)
}

/// The stream that ends here.
fn last_stream(file: &SharedBytes, end: u64) -> Told<Stream> {
    let Some(footer_at) = end.checked_sub(HEADER as u64) else { return damaged("it has no end") };
    let footer: [u8; HEADER] = exactly(file, footer_at)?;
    if &footer[10..] != b"YZ" {
        return damaged("it does not end as a stream ends: it was cut off");
    }
    let length = (u64::from(le32(&footer, 4)) + 1) * 4;
    let index_at = match footer_at.checked_sub(length) {
        Some(at) if length <= MAX_INDEX => at,
        _ => return damaged("its index has no possible size"),
    };
    let mut index = vec![0; usize::try_from(length).unwrap_or(0)];
    let got = file.read_at(index_at, &mut index)?;
    let Some(blocks) = blocks(&index[..got]) else { return damaged("its index cannot be read") };
    let packed = blocks.iter().try_fold(0u64, |sum, (packed, _)| {
        packed.checked_next_multiple_of(4).and_then(|whole| sum.checked_add(whole))
    });
    let Some(first) = packed.and_then(|packed| index_at.checked_sub(packed)) else {
        return damaged("its index names more than there is");
    };
    let Some(header_at) = first.checked_sub(HEADER as u64) else {
        return damaged("its index names more than there is");
    };
    let header: [u8; HEADER] = exactly(file, header_at)?;
    if !header.starts_with(b"\xfd7zXZ\0") || header[6..8] != footer[8..10] {
        return damaged("its index does not lead to its beginning");
    }
    Ok(Stream { first, blocks })
}

/// The blocks that an index names.
fn blocks(index: &[u8]) -> Option<Vec<(u64, u64)>> {
    let mut rest = index.strip_prefix(&[0])?;
    let count = number(&mut rest)?;
    // Each takes two bytes at least.
    if count > rest.len() as u64 / 2 {
        return None;
    }
    let mut blocks = Vec::new();
    for _ in 0..count {
        blocks.push((number(&mut rest)?, number(&mut rest)?));
    }
    Some(blocks)
}

/// No dictionary is larger; that of `xz -9` has 64 MiB. It is memory that is taken at once.
const MAX_DICTIONARY: u32 = 128 << 20;

/// Of a block: the bytes of its header, and the size of the dictionary that it is unpacked
/// with.
///
/// # Errors
/// Where it is packed in another way than with LZMA2 alone, or needs a lot of memory.
pub(super) fn block_header(file: &SharedBytes, piece: &Piece) -> io::Result<(u64, u32)> {
    let mut header = [0; 1024];
    let got = file.read_at(piece.at, &mut header)?;
    let length = (usize::from(header[0]) + 1) * 4;
    let filters = header.get(1..length.min(got)).ok_or_else(unsound)?;
    let dictionary =
        dictionary(filters).ok_or_else(|| io::Error::other("a block is packed with more than LZMA2"))?;
    if dictionary > MAX_DICTIONARY {
        return Err(io::Error::other("its dictionary is larger than any usual one"));
    }
    Ok((length as u64, dictionary))
}

/// The size of the dictionary that the only filter of a block's header asks for.
fn dictionary(header: &[u8]) -> Option<u32> {
    let (flags, mut rest) = header.split_first()?;
    for sized in [0x40, 0x80] {
        if flags & sized != 0 {
            number(&mut rest)?;
        }
    }
    match (flags & 3, rest) {
        // One filter, LZMA2, whose properties are one byte.
        (0, [0x21, 1, bits @ 0..=39, ..]) => Some((2 | u32::from(bits & 1)) << (bits / 2 + 11)),
        _ => None,
    }
}

/// A number of seven bits a byte, the lowest first.
fn number(rest: &mut &[u8]) -> Option<u64> {
    let mut value = 0;
    for place in 0..9 {
        let (byte, after) = rest.split_first()?;
        *rest = after;
        value |= u64::from(byte & 0x7f) << (7 * place);
        if byte & 0x80 == 0 {
            return Some(value);
        }
    }
    None
}
