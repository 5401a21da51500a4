//! Bytes of devices and files, and of what is pieced together from them.

use bradawl_diskimage::SharedBytes;
use bradawl_facts::probe::Bytes;
use std::fs::File;
use std::io;
use std::os::unix::fs::FileExt as _;
use std::sync::Arc;

/// A file or device of known size.
struct Whole {
    file: File,
    size: u64,
}

impl Bytes for Whole {
    fn size(&self) -> u64 {
        self.size
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        read_full(&self.file, offset, buffer)
    }
}

/// A run of bytes of a file, or of the disk in one.
#[derive(Clone)]
struct Piece {
    file: SharedBytes,
    start: u64,
    length: u64,
}

/// Pieces of files, one after the other.
#[derive(Clone, Default)]
pub(crate) struct View {
    pieces: Vec<Piece>,
}

impl View {
    /// A whole device or file of known size.
    pub(crate) fn whole(file: File, size: u64) -> Self {
        View::of(Arc::new(Whole { file, size }))
    }

    /// All of something.
    pub(crate) fn of(file: SharedBytes) -> Self {
        let length = file.size();
        View { pieces: vec![Piece { file, start: 0, length }] }
    }

    /// A part of it, cut off where it ends.
    pub(crate) fn part(&self, start: u64, length: u64) -> Self {
        let (mut skip, mut left) = (start, length);
        let mut pieces = Vec::new();
        for piece in &self.pieces {
            let from = skip.min(piece.length);
            let take = left.min(piece.length - from);
            if take > 0 {
                pieces.push(Piece {
                    file: SharedBytes::clone(&piece.file),
                    start: piece.start + from,
                    length: take,
                });
            }
            skip -= from;
            left -= take;
        }
        View { pieces }
    }

    /// Puts another behind it.
    pub(crate) fn append(&mut self, other: View) {
        self.pieces.extend(other.pieces);
    }
}

impl Bytes for View {
    fn size(&self) -> u64 {
        self.pieces.iter().map(|p| p.length).fold(0, u64::saturating_add)
    }

    fn read_at(&self, mut offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        let mut done = 0;
        for piece in &self.pieces {
            if offset >= piece.length {
                offset -= piece.length;
                continue;
            }
            let room = usize::try_from(piece.length - offset).unwrap_or(usize::MAX);
            let want = room.min(buffer.len() - done);
            let got = piece.file.read_at(piece.start + offset, &mut buffer[done..done + want])?;
            done += got;
            if got < want || done == buffer.len() {
                break;
            }
            offset = 0;
        }
        Ok(done)
    }
}

fn read_full(file: &File, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
    let mut done = 0;
    while done < buffer.len() {
        match file.read_at(&mut buffer[done..], offset + done as u64) {
            Ok(0) => break,
            Ok(n) => done += n,
            Err(e) if e.kind() == io::ErrorKind::Interrupted => {}
            Err(e) => return Err(e),
        }
    }
    Ok(done)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn parts_and_pieces() {
        let path = tempfile::NamedTempFile::new().unwrap();
        std::fs::write(path.path(), b"0123456789").unwrap();
        let whole = View::whole(File::open(path.path()).unwrap(), 10);
        let mut joined = whole.part(7, 100);
        joined.append(whole.part(2, 2));
        assert_eq!((joined.size(), joined.part(2, 2).size()), (5, 2));
        let mut buffer = [0; 8];
        assert_eq!(joined.read_at(1, &mut buffer).unwrap(), 4);
        assert_eq!(&buffer[..4], b"8923");
        assert_eq!(joined.part(2, 2).read_at(0, &mut buffer).unwrap(), 2);
        assert_eq!(&buffer[..2], b"92");
    }
}
