//! A single piece, unpacked: held are the parts of it that are not zeros.

use super::{How, INSTEAD, MAX_HELD, MAX_PIECE, Piece, xz};
use crate::SharedBytes;
use flate2::bufread::DeflateDecoder;
use lzma_rust2::Lzma2Reader;
use std::io::{self, BufReader, Read};

/// Zeros are left out in parts of so many bytes.
const PART: usize = 64 << 10;

static ZEROS: [u8; PART] = [0; PART];

/// What a piece holds.
pub(super) struct Unpacked {
    parts: Vec<Option<Box<[u8]>>>,
    /// Bytes that are in memory.
    pub held: u64,
}

impl Unpacked {
    /// Copies from a place in the piece; how many bytes, up to the end of a part.
    pub fn copy(&self, from: u64, into: &mut [u8]) -> usize {
        let from = usize::try_from(from).unwrap_or(usize::MAX);
        let Some(part) = self.parts.get(from / PART) else { return 0 };
        let length = into.len().min(PART - from % PART);
        match part.as_deref().and_then(|bytes| bytes.get(from % PART..)) {
            Some(bytes) => {
                let length = length.min(bytes.len());
                into[..length].copy_from_slice(&bytes[..length]);
                length
            }
            None => {
                into[..length].fill(0);
                length
            }
        }
    }
}

/// The bytes of a piece; an error where it does not hold as many as it says.
pub(super) fn unpack(file: &SharedBytes, piece: &Piece) -> io::Result<Unpacked> {
    let (mut unpacked, mut size) = (Unpacked { parts: Vec::new(), held: 0 }, 0);
    let mut bytes = reader(file, piece)?.take(piece.size);
    loop {
        let mut part = vec![0; PART];
        let length = fill(&mut bytes, &mut part)?;
        if length == 0 {
            break;
        }
        size += length as u64;
        part.truncate(length);
        let zeros = part[..] == ZEROS[..length];
        unpacked.held += if zeros { 0 } else { length as u64 };
        if unpacked.held > MAX_HELD {
            let why = format!("a piece of it holds more than 256 MiB beside zeros; {INSTEAD}");
            return Err(io::Error::other(why));
        }
        unpacked.parts.push((!zeros).then(|| part.into_boxed_slice()));
    }
    if size == piece.size { Ok(unpacked) } else { Err(unsound()) }
}

/// How much a piece holds that does not say so, and how many bytes of the file it took.
pub(super) fn measured(file: &SharedBytes, at: u64, packed: u64, how: How) -> io::Result<u64> {
    let piece = Piece { at, packed, from: 0, size: 0, how };
    io::copy(&mut reader(file, &piece)?.take(MAX_PIECE + 1), &mut io::sink())
}

/// The same of deflate, whose end nothing tells: how much it holds, and how long it is.
pub(super) fn measured_deflate(file: &SharedBytes, at: u64) -> io::Result<(u64, u64)> {
    let left = file.size().saturating_sub(at);
    let mut decoder = DeflateDecoder::new(window(file, at, left));
    let size = io::copy(&mut (&mut decoder).take(MAX_PIECE + 1), &mut io::sink())?;
    Ok((size, decoder.total_in()))
}

fn reader<'r>(file: &SharedBytes, piece: &Piece) -> io::Result<Box<dyn Read + 'r>> {
    let window = |from: u64| window(file, piece.at.saturating_add(from), piece.packed.saturating_sub(from));
    Ok(match piece.how {
        How::Xz => {
            let (header, dictionary) = xz::block_header(file, piece)?;
            Box::new(Lzma2Reader::new(window(header), dictionary, None))
        }
        How::Zstd => Box::new(ruzstd::decoding::StreamingDecoder::new(window(0)).map_err(io::Error::other)?),
        How::Deflate => Box::new(DeflateDecoder::new(window(0))),
    })
}

pub(super) fn unsound() -> io::Error {
    io::Error::other("a packed piece is not packed soundly")
}

/// Reads until the buffer is full or nothing more comes.
fn fill(from: &mut impl Read, buffer: &mut [u8]) -> io::Result<usize> {
    let mut done = 0;
    while done < buffer.len() {
        match from.read(&mut buffer[done..])? {
            0 => break,
            read => done += read,
        }
    }
    Ok(done)
}

fn window(file: &SharedBytes, at: u64, left: u64) -> BufReader<Window> {
    BufReader::with_capacity(64 << 10, Window { file: SharedBytes::clone(file), at, left })
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
