//! Where the blocks of gzip lie (RFC 1952). A field of the header tells of them where a
//! file was packed to be read from any place: `BC` with the length of a member (bgzip),
//! `RA` with those of a member's parts (dictzip). Others are a piece a member.

use super::unpack::measured_deflate;
use super::{How, MAX_PIECE, Pieces, Told, one_piece};
use crate::blocks::exactly;
use crate::{DiskImageError, SharedBytes};

pub(super) const NAME: &str = "gzip";
/// Bytes behind a member's data: its checksum and its size.
const TRAILER: u64 = 8;
/// A name in a header is no longer.
const MAX_NAME: usize = 4096;

/// What a member's header says.
struct Header {
    /// Where the data begins.
    data: u64,
    blocks: InBlocks,
}

enum InBlocks {
    /// The whole member's length in the file.
    Member(u64),
    /// How much each part holds, and their lengths in the file.
    Parts(u64, Vec<u16>),
    No,
}

pub(super) fn pieces(file: &SharedBytes) -> Told<Pieces> {
    let mut pieces = Pieces::default();
    let mut at = 0;
    while at < file.size() {
        let header = header(file, at)?;
        match header.blocks {
            InBlocks::Member(length) => {
                let end = at.saturating_add(length);
                let Some(data_end) = end.checked_sub(TRAILER).filter(|end| *end >= header.data) else {
                    return damaged("a block is shorter than its header");
                };
                let size = u32::from_le_bytes(exactly(file, end - 4)?);
                pieces.push(NAME, How::Deflate, (header.data, data_end - header.data), size.into())?;
                at = end;
            }
            InBlocks::Parts(each, lengths) if at == 0 => return parts(file, &header.data, each, &lengths),
            InBlocks::No if at == 0 => return members(file, &header),
            _ => return damaged("its members are not of one kind"),
        }
    }
    Ok(pieces)
}

fn damaged<T>(why: &'static str) -> Told<T> {
    Err(DiskImageError::Damaged { format: NAME, why })
}

fn header(file: &SharedBytes, at: u64) -> Told<Header> {
    let fixed: [u8; 10] = exactly(file, at)?;
    if !fixed.starts_with(b"\x1f\x8b\x08") {
        return damaged("something that is no member follows its members");
    }
    let flags = fixed[3];
    let (mut data, mut blocks) = (at + 10, InBlocks::No);
    if flags & 4 != 0 {
        let length = u16::from_le_bytes(exactly(file, data)?);
        let mut extra = vec![0; usize::from(length)];
        let got = file.read_at(data + 2, &mut extra)?;
        blocks = in_blocks(&extra[..got]);
        data += 2 + u64::from(length);
    }
    for flag in [8, 16] {
        if flags & flag != 0 {
            data = behind_name(file, data)?;
        }
    }
    data += if flags & 2 != 0 { 2 } else { 0 };
    Ok(Header { data, blocks })
}

/// What the fields of a header say of blocks.
fn in_blocks(mut extra: &[u8]) -> InBlocks {
    while let [a, b, low, high, rest @ ..] = extra {
        let length = usize::from(u16::from_le_bytes([*low, *high]));
        let Some((field, next)) = rest.split_at_checked(length) else { break };
        let word = |at: usize| field.get(at..at + 2).map(|w| u16::from_le_bytes([w[0], w[1]]));
        match ([*a, *b], word(0), word(2)) {
            ([b'B', b'C'], Some(last), _) => return InBlocks::Member(u64::from(last) + 1),
            ([b'R', b'A'], Some(1), Some(each)) if each > 0 => {
                return InBlocks::Parts(each.into(), (3..length / 2).filter_map(|n| word(2 * n)).collect());
            }
            _ => extra = next,
        }
    }
    InBlocks::No
}

/// Behind a text that ends with a zero.
fn behind_name(file: &SharedBytes, at: u64) -> Told<u64> {
    let mut name = [0; MAX_NAME];
    let got = file.read_at(at, &mut name)?;
    match name[..got].iter().position(|byte| *byte == 0) {
        Some(end) => Ok(at + end as u64 + 1),
        None => damaged("its header does not end"),
    }
}

/// The size that a file's last member says it has, of 32 bits.
fn last_size(file: &SharedBytes) -> Told<u64> {
    let Some(at) = file.size().checked_sub(4) else { return damaged("it was cut off") };
    Ok(u32::from_le_bytes(exactly(file, at)?).into())
}

fn parts(file: &SharedBytes, data: &u64, each: u64, lengths: &[u16]) -> Told<Pieces> {
    let (mut pieces, mut at) = (Pieces::default(), *data);
    let mut left = last_size(file)?;
    for length in lengths {
        let size = left.min(each);
        pieces.push(NAME, How::Deflate, (at, (*length).into()), size)?;
        at += u64::from(*length);
        left -= size;
    }
    if left > 0 {
        return damaged("its parts hold less than it says");
    }
    Ok(pieces)
}

/// Members that say nothing of their lengths: each is unpacked once to find the next.
fn members(file: &SharedBytes, first: &Header) -> Told<Pieces> {
    let (mut pieces, mut data) = (Pieces::default(), first.data);
    loop {
        let (size, length) = measured_deflate(file, data)?;
        if pieces.end().saturating_add(size) > MAX_PIECE {
            return Err(one_piece(NAME));
        }
        pieces.push(NAME, How::Deflate, (data, length), size)?;
        let end = data + length + TRAILER;
        if end >= file.size() {
            return Ok(pieces);
        }
        data = header(file, end)?.data;
    }
}
