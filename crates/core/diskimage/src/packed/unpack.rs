//! A single piece, unpacked; never into more than it says it holds.

use super::{How, Piece, xz};
use crate::SharedBytes;
use lzma_rust2::Lzma2Reader;
use miniz_oxide::inflate::TINFLStatus;
use miniz_oxide::inflate::core::inflate_flags::TINFL_FLAG_USING_NON_WRAPPING_OUTPUT_BUF;
use std::io::{self, BufReader, Read};

/// The bytes of a piece; an error where it does not hold as many as it says.
pub(super) fn unpack(file: &SharedBytes, piece: &Piece) -> io::Result<Vec<u8>> {
    let window = |from: u64| {
        let window = Window {
            file: SharedBytes::clone(file),
            at: piece.at.saturating_add(from),
            left: piece.packed.saturating_sub(from),
        };
        BufReader::with_capacity(64 << 10, window)
    };
    let bytes = match piece.how {
        How::Xz => {
            let (header, dictionary) = xz::block_header(file, piece)?;
            all(Lzma2Reader::new(window(header), dictionary, None), piece.size)?
        }
        How::Zstd => {
            let frame = ruzstd::decoding::StreamingDecoder::new(window(0)).map_err(io::Error::other)?;
            all(frame, piece.size)?
        }
        How::Deflate | How::DeflatePart => inflate(window(0), piece)?,
    };
    match u64::try_from(bytes.len()) {
        Ok(length) if length == piece.size => Ok(bytes),
        _ => Err(unsound()),
    }
}

pub(super) fn unsound() -> io::Error {
    io::Error::other("a packed piece is not packed soundly")
}

/// So many bytes, as they come: memory is taken for what is there, not for what is said.
fn all(from: impl Read, size: u64) -> io::Result<Vec<u8>> {
    let mut bytes = Vec::new();
    from.take(size).read_to_end(&mut bytes)?;
    Ok(bytes)
}

fn inflate(window: impl Read, piece: &Piece) -> io::Result<Vec<u8>> {
    let packed = all(window, piece.packed)?;
    // Deflate packs to a thousandth at best.
    if piece.size / 1100 > piece.packed {
        return Err(unsound());
    }
    let mut out = vec![0; usize::try_from(piece.size).map_err(io::Error::other)?];
    let flags = TINFL_FLAG_USING_NON_WRAPPING_OUTPUT_BUF;
    let mut state = Box::default();
    let (status, _, written) =
        miniz_oxide::inflate::core::decompress(&mut state, &packed, &mut out, 0, flags);
    out.truncate(written);
    match (piece.how, status) {
        (_, TINFLStatus::Done) => Ok(out),
        (How::DeflatePart, _) => Ok(out),
        _ => Err(unsound()),
    }
}

/// A part of a file, read from its beginning on.
struct Window {
    file: SharedBytes,
    at: u64,
    left: u64,
}

impl Read for Window {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        let wanted = buffer.len().min(usize::try_from(self.left).unwrap_or(usize::MAX));
        let got = self.file.read_at(self.at, &mut buffer[..wanted])?;
        self.at = self.at.saturating_add(got as u64);
        self.left -= got as u64;
        Ok(got)
    }
}
