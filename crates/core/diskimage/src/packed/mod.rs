//! Raw images that were packed with xz, zstd or gzip, where the file is made of pieces
//! that can each be unpacked alone: xz in blocks (what `xz -T0` writes), zstd in frames,
//! gzip in blocks of its own (bgzip, dictzip); and any of them that is one small piece.

mod gzip;
mod unpack;
mod xz;
mod zstd;

use crate::{DiskImageError, SharedBytes};
use bradawl_facts::probe::Bytes;
use std::collections::VecDeque;
use std::io;
use std::sync::{Arc, Mutex, PoisonError};

/// No larger piece is unpacked: the largest that `xz -9` makes are of 192 MiB.
const MAX_PIECE: u64 = 256 << 20;
/// Unpacked pieces are kept up to so many bytes together.
const MAX_KEPT: u64 = MAX_PIECE;
/// So many pieces of a file are counted.
const MAX_PIECES: usize = 4 << 20;

/// How a piece is unpacked.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum How {
    /// A block of xz.
    Xz,
    /// A frame of zstd.
    Zstd,
    /// Bare deflate, from its beginning to its end.
    Deflate,
    /// Bare deflate that goes on behind the piece.
    DeflatePart,
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
        if size > MAX_PIECE || packed > MAX_PIECE {
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
        e => e,
    })?;
    let disk = Packed { file: SharedBytes::clone(file), pieces, kept: Mutex::default() };
    Ok(Some((format, Arc::new(disk))))
}

/// A disk in pieces, and those of them that were unpacked last.
struct Packed {
    file: SharedBytes,
    pieces: Pieces,
    kept: Mutex<VecDeque<(usize, Arc<Vec<u8>>)>>,
}

impl Packed {
    /// A piece unpacked, which is kept for the next reading.
    fn unpacked(&self, n: usize, piece: &Piece) -> io::Result<Arc<Vec<u8>>> {
        let mut kept = self.kept.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(at) = kept.iter().position(|(held, _)| *held == n)
            && let Some(found) = kept.remove(at)
        {
            kept.push_front(found.clone());
            return Ok(found.1);
        }
        let held =
            |kept: &VecDeque<(usize, Arc<Vec<u8>>)>| kept.iter().map(|(_, b)| b.len() as u64).sum::<u64>();
        while held(&kept).saturating_add(piece.size) > MAX_KEPT && kept.pop_back().is_some() {}
        let bytes = Arc::new(unpack::unpack(&self.file, piece)?);
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
            let within = usize::try_from(at - piece.from).unwrap_or(usize::MAX);
            let rest = bytes.get(within..).unwrap_or_default();
            let length = rest.len().min(buffer.len() - done);
            buffer[done..done + length].copy_from_slice(&rest[..length]);
            done += length;
        }
        Ok(done)
    }
}
