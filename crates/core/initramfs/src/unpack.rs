//! How an image is compressed, told by its first bytes.

use crate::InitramfsError;
use std::io::{self, BufRead, BufReader, Read};

/// How what comes next is compressed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Compression {
    /// Not at all: an archive.
    None,
    /// gzip.
    Gzip,
    /// zstd.
    Zstd,
    /// LZ4 as the kernel reads it, without a frame.
    Lz4,
    /// xz.
    Xz,
    /// What came before xz.
    Lzma,
    /// Something that is known by name only.
    NotRead(&'static str),
    /// The image is at its end.
    End,
    /// Nothing that is known.
    Other,
}

/// First bytes, as the kernel's lib/decompress.c has them.
const STARTS: [(&[u8], Compression); 10] = [
    (b"070701", Compression::None),
    (b"070702", Compression::None),
    (b"\x1f\x8b", Compression::Gzip),
    (b"\x1f\x9e", Compression::Gzip),
    (b"\x28\xb5\x2f\xfd", Compression::Zstd),
    (b"\x02\x21\x4c\x18", Compression::Lz4),
    (b"\xfd7zXZ", Compression::Xz),
    (b"\x5d\x00\x00", Compression::Lzma),
    (b"BZh", Compression::NotRead("bzip2")),
    (b"\x89LZO", Compression::NotRead("lzo")),
];

/// What comes next.
pub(crate) fn told(image: &mut impl BufRead) -> io::Result<Compression> {
    let start = image.fill_buf()?;
    if start.is_empty() {
        return Ok(Compression::End);
    }
    let known = STARTS.iter().find(|(bytes, _)| start.starts_with(bytes));
    Ok(known.map_or(Compression::Other, |(_, what)| *what))
}

/// Zeros pad one archive to the next.
pub(crate) fn skip_zeros(image: &mut impl BufRead) -> io::Result<()> {
    loop {
        let buffer = image.fill_buf()?;
        let zeros = buffer.iter().take_while(|b| **b == 0).count();
        let more = zeros == buffer.len() && zeros > 0;
        image.consume(zeros);
        if !more {
            return Ok(());
        }
    }
}

/// The archive inside.
pub(crate) fn open<'r>(
    compression: Compression,
    image: impl BufRead + 'r,
) -> Result<Box<dyn BufRead + 'r>, InitramfsError> {
    match compression {
        Compression::Gzip => Ok(Box::new(BufReader::new(flate2::bufread::MultiGzDecoder::new(image)))),
        Compression::Zstd => {
            let inside = ruzstd::decoding::StreamingDecoder::new(image).map_err(io::Error::other)?;
            Ok(Box::new(BufReader::new(inside)))
        }
        Compression::Lz4 => {
            let mut image = image;
            image.consume(4);
            Ok(Box::new(BufReader::new(Lz4 { image, block: Vec::new(), at: 0 })))
        }
        Compression::Xz => {
            let inside = lzma_rust2::XzReader::new_mem_limit(image, false, MAX_DICTIONARY_KIB);
            Ok(Box::new(BufReader::new(inside)))
        }
        Compression::Lzma => {
            let inside = lzma_rust2::LzmaReader::new_mem_limit(image, MAX_DICTIONARY_KIB, None)?;
            Ok(Box::new(BufReader::new(inside)))
        }
        Compression::NotRead(name) => Err(InitramfsError::NotRead(name)),
        Compression::None | Compression::End | Compression::Other => Err(InitramfsError::Other),
    }
}

/// What unpacking may hold: `xz -9` asks for 64 MiB and a little.
const MAX_DICTIONARY_KIB: u32 = 80 << 10;

/// What a block unpacks to, at most (the kernel's lib/decompress_unlz4.c).
const LZ4_BLOCK: usize = 8 << 20;

/// LZ4 without a frame: blocks behind their sizes.
struct Lz4<R> {
    image: R,
    block: Vec<u8>,
    at: usize,
}

impl<R: Read> Lz4<R> {
    /// Unpacks the next block; false at the end.
    fn next(&mut self) -> io::Result<bool> {
        let mut size = [0; 4];
        match self.image.read_exact(&mut size) {
            Err(error) if error.kind() == io::ErrorKind::UnexpectedEof => return Ok(false),
            other => other?,
        }
        let size = u32::from_le_bytes(size) as usize;
        if size == 0 || size > LZ4_BLOCK + (LZ4_BLOCK >> 7) {
            return Ok(false);
        }
        let mut packed = vec![0; size];
        self.image.read_exact(&mut packed)?;
        self.block = lz4_flex::block::decompress(&packed, LZ4_BLOCK).map_err(io::Error::other)?;
        self.at = 0;
        Ok(true)
    }
}

impl<R: Read> Read for Lz4<R> {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        while self.at == self.block.len() {
            if !self.next()? {
                return Ok(0);
            }
        }
        let rest = &self.block[self.at..];
        let count = rest.len().min(buffer.len());
        buffer[..count].copy_from_slice(&rest[..count]);
        self.at += count;
        Ok(count)
    }
}
