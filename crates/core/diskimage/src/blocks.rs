//! A disk as blocks that lie anywhere in a file, or are zeros, or are packed.

use crate::SharedBytes;
use bradawl_facts::probe::Bytes;
use std::io;
use std::sync::{Mutex, PoisonError};

/// No packed block is larger, and none is larger unpacked.
const MAX_PACKED: u64 = 4 << 20;

/// How a block is packed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Packing {
    /// Bare deflate.
    Deflate,
    /// Deflate in a zlib frame.
    Zlib,
    /// Zstandard.
    Zstd,
}

/// Where a block of the disk is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Block {
    /// Nowhere: it reads as zeros.
    Zeros,
    /// In the file from this byte on.
    At(u64),
    /// Packed, in the file from this byte on; so many bytes at most.
    Packed(u64, u64, Packing),
}

/// What tells where blocks are.
pub trait BlockMap: Send + Sync {
    /// Where a block is, counted from 0.
    ///
    /// # Errors
    /// What the file says when its tables are read.
    fn block(&self, file: &SharedBytes, n: u64) -> io::Result<Block>;
}

/// A disk in blocks of one size.
pub struct Blocks {
    file: SharedBytes,
    size: u64,
    block: u64,
    map: Box<dyn BlockMap>,
    unpacked: Mutex<Option<(u64, Vec<u8>)>>,
}

impl Blocks {
    /// A disk of `size` bytes in blocks of `block` bytes.
    pub fn new(file: &SharedBytes, size: u64, block: u64, map: Box<dyn BlockMap>) -> Self {
        Blocks { file: SharedBytes::clone(file), size, block, map, unpacked: Mutex::new(None) }
    }

    fn unpacked(&self, n: u64, place: (u64, u64, Packing), from: usize, into: &mut [u8]) -> io::Result<()> {
        let mut kept = self.unpacked.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.as_ref().is_none_or(|(block, _)| *block != n) {
            let (start, length, packing) = place;
            *kept = Some((n, unpack(&self.file, start, length, packing, self.block)?));
        }
        let whole = kept.as_ref().map(|(_, bytes)| bytes.as_slice()).unwrap_or_default();
        for (n, byte) in into.iter_mut().enumerate() {
            *byte = whole.get(from + n).copied().unwrap_or(0);
        }
        Ok(())
    }
}

impl Bytes for Blocks {
    fn size(&self) -> u64 {
        self.size
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        let left = usize::try_from(self.size.saturating_sub(offset)).unwrap_or(usize::MAX);
        let wanted = buffer.len().min(left);
        let mut done = 0;
        while done < wanted {
            let at = offset + done as u64;
            let within = at % self.block;
            let room = usize::try_from(self.block - within).unwrap_or(usize::MAX);
            let into = &mut buffer[done..wanted.min(done.saturating_add(room))];
            done += into.len();
            match self.map.block(&self.file, at / self.block)? {
                Block::Zeros => into.fill(0),
                Block::At(start) => {
                    let got = self.file.read_at(start.saturating_add(within), into)?;
                    // A file that ends within a block is as if zeros followed.
                    into[got..].fill(0);
                }
                Block::Packed(start, length, packing) => {
                    let from = usize::try_from(within).unwrap_or(usize::MAX);
                    self.unpacked(at / self.block, (start, length, packing), from, into)?;
                }
            }
        }
        Ok(wanted)
    }
}

fn unpack(file: &SharedBytes, start: u64, length: u64, packing: Packing, block: u64) -> io::Result<Vec<u8>> {
    if length > MAX_PACKED || block > MAX_PACKED {
        return Err(io::Error::other("a packed block is larger than any is"));
    }
    let (Ok(length), Ok(most)) = (usize::try_from(length), usize::try_from(block)) else {
        return Err(io::Error::other("a packed block is too large here"));
    };
    let mut packed = vec![0; length];
    let got = file.read_at(start, &mut packed)?;
    packed.truncate(got);
    use miniz_oxide::inflate::core::inflate_flags::{
        TINFL_FLAG_PARSE_ZLIB_HEADER, TINFL_FLAG_USING_NON_WRAPPING_OUTPUT_BUF,
    };
    let mut out = vec![0; most];
    let flags = match packing {
        Packing::Deflate => TINFL_FLAG_USING_NON_WRAPPING_OUTPUT_BUF,
        Packing::Zlib => TINFL_FLAG_USING_NON_WRAPPING_OUTPUT_BUF | TINFL_FLAG_PARSE_ZLIB_HEADER,
        Packing::Zstd => return unpack_zstd(&packed, most),
    };
    // What lies behind the packed block is not its own: it ends by itself.
    let mut state = Box::default();
    let (status, _, written) =
        miniz_oxide::inflate::core::decompress(&mut state, &packed, &mut out, 0, flags);
    use miniz_oxide::inflate::TINFLStatus::{Done, HasMoreOutput, NeedsMoreInput};
    match status {
        Done => out.truncate(written),
        HasMoreOutput | NeedsMoreInput if written == most => {}
        _ => return Err(io::Error::other("a packed block is not packed soundly")),
    }
    Ok(out)
}

fn unpack_zstd(packed: &[u8], most: usize) -> io::Result<Vec<u8>> {
    let unsound = |_| io::Error::other("a packed block is not packed soundly");
    let frame = ruzstd::decoding::StreamingDecoder::new(packed).map_err(unsound)?;
    let mut out = Vec::new();
    io::Read::read_to_end(&mut io::Read::take(frame, most as u64), &mut out)?;
    Ok(out)
}

/// So many bytes from a place; an error where the file ends before.
pub fn exactly<const N: usize>(file: &SharedBytes, offset: u64) -> io::Result<[u8; N]> {
    let mut bytes = [0; N];
    match file.read_at(offset, &mut bytes)? {
        n if n == N => Ok(bytes),
        _ => Err(io::Error::new(io::ErrorKind::UnexpectedEof, "the image ends before its tables do")),
    }
}

pub fn le32(bytes: &[u8], at: usize) -> u32 {
    bytes.get(at..at + 4).and_then(|b| b.try_into().ok()).map_or(0, u32::from_le_bytes)
}

pub fn le64(bytes: &[u8], at: usize) -> u64 {
    bytes.get(at..at + 8).and_then(|b| b.try_into().ok()).map_or(0, u64::from_le_bytes)
}

pub fn be32(bytes: &[u8], at: usize) -> u32 {
    bytes.get(at..at + 4).and_then(|b| b.try_into().ok()).map_or(0, u32::from_be_bytes)
}

pub fn be64(bytes: &[u8], at: usize) -> u64 {
    bytes.get(at..at + 8).and_then(|b| b.try_into().ok()).map_or(0, u64::from_be_bytes)
}
