//! Raw images that were packed with xz, zstd or gzip, where the file is made of pieces
//! that can each be unpacked alone: xz in blocks (what `xz -T0` writes), zstd in frames,
//! gzip in blocks of its own (bgzip, dictzip). One piece may be the whole disk where it
//! holds little beside zeros.

mod gzip;
mod unpack;
mod xz;
mod zstd;

use crate::{DiskImageError, SharedBytes};
use bradawl_facts::probe::Bytes;
use std::collections::VecDeque;
use std::io;
use std::sync::{Arc, Mutex, PoisonError};
use unpack::Unpacked;

/// No larger piece is unpacked, which takes its time.
const MAX_PIECE: u64 = 4 << 30;
/// No piece is held in memory that has more bytes beside zeros: the largest blocks that
/// `xz -9` makes are of 192 MiB. Several are kept up to so many bytes together.
const MAX_HELD: u64 = 256 << 20;
/// So many pieces of a file are counted.
const MAX_PIECES: usize = 4 << 20;

/// How a piece is unpacked.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum How {
    /// A block of xz.
    Xz,
    /// A frame of zstd.
    Zstd,
    /// Bare deflate.
    Deflate,
}

/// A part of the disk and where it lies packed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Piece {
    /// In the file, in bytes.
    at: u64,
    /// Bytes there.
    packed: u64,
    /// On the disk, in bytes.
    from: u64,
    /// Bytes there.
    size: u64,
    how: How,
}

/// The pieces of a file, in order of the disk.
#[derive(Default)]
struct Pieces(Vec<Piece>);

impl Pieces {
    /// The size of the disk so far.
    fn end(&self) -> u64 {
        self.0.last().map_or(0, |piece| piece.from.saturating_add(piece.size))
    }

    /// Adds what comes next on the disk; what is empty is left out.
    fn push(&mut self, format: &'static str, how: How, (at, packed): (u64, u64), size: u64) -> Told<()> {
        if size > MAX_PIECE {
            return Err(one_piece(format));
        }
        if self.0.len() == MAX_PIECES {
            return Err(not_read(format, "it is packed in more pieces than are counted here"));
        }
        if size > 0 {
            self.0.push(Piece { at, packed, from: self.end(), size, how });
        }
        Ok(())
    }
}

/// What reading the places of pieces comes to.
type Told<T> = Result<T, DiskImageError>;

fn not_read(format: &'static str, why: &str) -> DiskImageError {
    DiskImageError::NotRead { format, why: why.to_owned() }
}

/// What is to be done with a file that cannot be read from any place.
fn one_piece(format: &'static str) -> DiskImageError {
    not_read(format, &format!("packed in one piece, it cannot be read from any place; {INSTEAD}"))
}

/// What can be read.
const INSTEAD: &str = "unpack it first, or pack it again with xz -T0, in blocks";

/// The disk in a packed file, and the format; `None` where it is not packed so.
pub(super) fn open(
    file: &SharedBytes,
    head: &[u8],
) -> Result<Option<(&'static str, SharedBytes)>, DiskImageError> {
    let (format, pieces): (_, fn(&SharedBytes) -> Told<Pieces>) = match head {
        [0xfd, b'7', b'z', b'X', b'Z', 0, ..] => (xz::NAME, xz::pieces),
        [0x28, 0xb5, 0x2f, 0xfd, ..] => (zstd::NAME, zstd::pieces),
        [a, b'*', b'M', 0x18, ..] if a & 0xf0 == 0x50 => (zstd::NAME, zstd::pieces),
        [0x1f, 0x8b, 8, ..] => (gzip::NAME, gzip::pieces),
        _ => return Ok(None),
    };
    let pieces = pieces(file).map_err(|e| match e {
        DiskImageError::Io(e) if e.kind() == io::ErrorKind::UnexpectedEof => {
            DiskImageError::Damaged { format, why: "it was cut off" }
        }
        // What the unpackers say of rubbish.
        DiskImageError::Io(e)
            if matches!(e.kind(), io::ErrorKind::InvalidInput | io::ErrorKind::InvalidData) =>
        {
            DiskImageError::Damaged { format, why: "it is not packed soundly" }
        }
        e => e,
    })?;
    let disk = Packed { file: SharedBytes::clone(file), pieces, kept: Mutex::default() };
    Ok(Some((format, Arc::new(disk))))
}

/// Pieces by their places, the one that was read last first.
type Kept = VecDeque<(usize, Arc<Unpacked>)>;

/// A disk in pieces, and those of them that were unpacked last.
struct Packed {
    file: SharedBytes,
    pieces: Pieces,
    kept: Mutex<Kept>,
}

impl Packed {
    /// A piece unpacked, which is kept for the next reading.
    fn unpacked(&self, n: usize, piece: &Piece) -> io::Result<Arc<Unpacked>> {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(at) = kept.iter().position(|(held, _)| *held == n)
            && let Some(found) = kept.remove(at)
        {
            kept.push_front(found.clone());
            return Ok(found.1);
        }
        let bytes = Arc::new(unpack::unpack(&self.file, piece)?);
        let held = |kept: &Kept| kept.iter().map(|(_, piece)| piece.held).sum::<u64>();
        while kept.len() > 1000 || held(&kept) + bytes.held > MAX_HELD {
            if kept.pop_back().is_none() {
                break;
            }
        }
        kept.push_front((n, Arc::clone(&bytes)));
        Ok(bytes)
    }
}

impl Bytes for Packed {
    fn size(&self) -> u64 {
        self.pieces.end()
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        let mut done = 0;
        while done < buffer.len() {
            let at = offset.saturating_add(done as u64);
            let n = self.pieces.0.partition_point(|piece| piece.from + piece.size <= at);
            let Some(piece) = self.pieces.0.get(n) else { break };
            let bytes = self.unpacked(n, piece)?;
            let length = bytes.copy(at - piece.from, &mut buffer[done..]);
            if length == 0 {
                break;
            }
            done += length;
        }
        Ok(done)
    }
}
