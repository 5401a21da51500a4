//! Where a file lies on its disk: FIEMAP (linux/fiemap.h,
//! Documentation/filesystems/fiemap.rst).

use rustix::ioctl::{Opcode, Updater, ioctl};
use std::io;
use std::os::fd::AsFd;

/// `_IOWR('f', 11, struct fiemap)`; the size in it is that of the head alone.
const FIEMAP: Opcode = 0xC020_660B;
/// Extents asked for at a time.
const AT_ONCE: usize = 64;
/// After this many calls the answer is not known: no sound swap file has so
/// many extents.
const MAX_CALLS: usize = 4096;
/// FIEMAP_EXTENT_LAST and FIEMAP_EXTENT_SHARED.
const LAST: u32 = 0x1;
const SHARED: u32 = 0x2000;

#[repr(C)]
#[derive(Clone, Copy, Default)]
struct Extent {
    logical: u64,
    physical: u64,
    length: u64,
    reserved: [u64; 2],
    flags: u32,
    reserved_too: [u32; 3],
}

#[repr(C)]
struct Map {
    start: u64,
    length: u64,
    flags: u32,
    mapped: u32,
    asked: u32,
    reserved: u32,
    extents: [Extent; AT_ONCE],
}

/// Whether any block of a file is another file's too.
///
/// # Errors
/// When its file system does not tell, or there are too many extents to look
/// at.
pub fn shares_blocks(file: impl AsFd) -> io::Result<bool> {
    let mut start = 0;
    for _ in 0..MAX_CALLS {
        let mut map = Map {
            start,
            length: u64::MAX - start,
            flags: 0,
            mapped: 0,
            asked: AT_ONCE as u32,
            reserved: 0,
            extents: [Extent::default(); AT_ONCE],
        };
        ask(file.as_fd(), &mut map)?;
        let seen = &map.extents[..(map.mapped as usize).min(AT_ONCE)];
        if seen.iter().any(|e| e.flags & SHARED != 0) {
            return Ok(true);
        }
        match seen.last() {
            Some(last) if last.flags & LAST == 0 => start = last.logical.saturating_add(last.length),
            _ => return Ok(false),
        }
    }
    Err(io::Error::other("it lies in too many pieces"))
}

#[allow(unsafe_code)]
fn ask(file: impl AsFd, map: &mut Map) -> io::Result<()> {
    // SAFETY: the kernel reads and writes the head, and as many extents behind
    // it as `asked` says; `Map` holds that many, and any bytes are valid in it.
    let call = unsafe { Updater::<FIEMAP, Map>::new(map) };
    // SAFETY: the opcode and the type belong together, as above.
    unsafe { ioctl(file, call) }.map_err(Into::into)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_head_has_the_size_in_the_opcode() {
        assert_eq!(std::mem::offset_of!(Map, extents), (FIEMAP as usize >> 16) & 0x3fff);
        assert_eq!(size_of::<Extent>(), 56);
    }

    #[test]
    fn a_fresh_file_shares_nothing() {
        let file = tempfile::tempfile().unwrap();
        rustix::io::write(&file, &[7; 10_000]).unwrap();
        // Where the file system does not tell, it says so.
        assert!(shares_blocks(&file).map_or(true, |shared| !shared));
    }
}
