//! The archive itself: cpio in its "new ASCII format".

use crate::member::{MAX_KEPT, Member, is_kept};
use crate::{InitramfsError, MAX_UNPACKED, unpack};
use std::io::{self, BufRead, Read as _};

/// A header: six bytes that name the format, thirteen numbers of eight digits.
const HEADER: usize = 110;
/// No path is longer.
const MAX_NAME: u64 = 4096;
/// No initramfs has more files.
const MAX_MEMBERS: usize = 200_000;
/// What is told of each member.
type Tell<'t> = &'t mut dyn FnMut(Member<'_>);

/// Reads one archive, up to its trailer.
pub(crate) fn read(image: &mut impl BufRead, tell: Tell<'_>) -> Result<(), InitramfsError> {
    one(image, &mut 0, tell).map(|_| ())
}

/// Reads archives one behind the other, up to the end.
pub(crate) fn read_all(image: &mut impl BufRead, tell: Tell<'_>) -> Result<(), InitramfsError> {
    let mut at = 0;
    loop {
        unpack::skip_zeros(image)?;
        if image.fill_buf()?.is_empty() {
            return Ok(());
        }
        one(image, &mut at, tell)?;
    }
}

fn one(image: &mut impl BufRead, at: &mut u64, tell: Tell<'_>) -> Result<(), InitramfsError> {
    for _ in 0..MAX_MEMBERS {
        let start = *at;
        let damaged = || InitramfsError::Damaged { at: start };
        let mut header = [0; HEADER];
        filled(image, &mut header, start)?;
        if !matches!(&header[..6], b"070701" | b"070702") {
            return Err(damaged());
        }
        let field = |n: usize| number(&header[6 + 8 * n..14 + 8 * n]).ok_or_else(damaged);
        let (inode, mode, size, length) = (field(0)?, field(1)?, field(6)?, field(11)?);
        if length == 0 || length > MAX_NAME {
            return Err(damaged());
        }
        let mut name = vec![0; usize::try_from(length).unwrap_or(0)];
        filled(image, &mut name, start)?;
        name.pop();
        pass(image, padding(HEADER as u64 + length), start)?;
        *at += HEADER as u64 + length + padding(HEADER as u64 + length);
        let name = String::from_utf8_lossy(&name);
        let name = name.trim_start_matches("./").trim_start_matches('/');
        if name == "TRAILER!!!" {
            return pass(image, size, start);
        }
        let kept = if is_kept(name) { size.min(MAX_KEPT) } else { 0 };
        let mut content = vec![0; usize::try_from(kept).unwrap_or(0)];
        filled(image, &mut content, start)?;
        let whole = size + padding(size);
        pass(image, whole - kept, start)?;
        *at += whole;
        if *at > MAX_UNPACKED {
            return Err(InitramfsError::TooLarge);
        }
        tell(Member { name, mode: u32::try_from(mode).unwrap_or(0), inode, size, content });
    }
    Err(InitramfsError::TooLarge)
}

/// Eight hexadecimal digits.
fn number(digits: &[u8]) -> Option<u64> {
    u64::from_str_radix(std::str::from_utf8(digits).ok()?, 16).ok()
}

/// Names and contents begin at multiples of four.
fn padding(length: u64) -> u64 {
    (4 - length % 4) % 4
}

fn filled(image: &mut impl BufRead, buffer: &mut [u8], at: u64) -> Result<(), InitramfsError> {
    image.read_exact(buffer).map_err(|error| broken(error, at))
}

fn pass(image: &mut impl BufRead, count: u64, at: u64) -> Result<(), InitramfsError> {
    let passed = io::copy(&mut image.by_ref().take(count), &mut io::sink())?;
    if passed == count { Ok(()) } else { Err(InitramfsError::Damaged { at }) }
}

fn broken(error: io::Error, at: u64) -> InitramfsError {
    match error.kind() {
        io::ErrorKind::UnexpectedEof => InitramfsError::Damaged { at },
        _ => error.into(),
    }
}
