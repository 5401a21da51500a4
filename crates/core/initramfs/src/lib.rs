//! What is packed into an initramfs image: archives one behind the other, the last
//! of them compressed (the kernel's driver-api/early-userspace/buffer-format). Of a
//! unified kernel image, the section that holds them.
//!
//! The image is read once from start to end and never held in memory; of its files
//! only the few small ones that say how it boots are kept.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

mod archive;
mod contents;
mod member;
mod unified;
mod unpack;

pub use unified::unified_command_line;
pub use unpack::Compression;

use bradawl_facts::record::InitramfsImage;
use std::io::{self, BufRead};

/// No initramfs unpacks to more.
pub const MAX_UNPACKED: u64 = 2 << 30;

/// Why the contents of an image are not known.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum InitramfsError {
    /// It is compressed in a way that is not read here.
    #[error("it is compressed with {0}, which is not read")]
    NotRead(&'static str),
    /// It does not begin as an initramfs does.
    #[error("it is no initramfs: neither an archive nor compressed")]
    Other,
    /// An archive breaks off or contradicts itself.
    #[error("the archive in it is damaged at byte {at}")]
    Damaged {
        /// Byte of the archive, unpacked.
        at: u64,
    },
    /// It unpacks to more than [`MAX_UNPACKED`], or has too many files.
    #[error("it unpacks to more than any initramfs")]
    TooLarge,
    /// It could not be read or unpacked.
    #[error(transparent)]
    Io(#[from] io::Error),
}

/// What an image holds; its path is left empty.
///
/// # Errors
/// [`InitramfsError`] when it is no initramfs, is damaged, or is compressed in a way
/// that is not read.
pub fn read(mut image: impl BufRead) -> Result<InitramfsImage, InitramfsError> {
    if image.fill_buf()?.starts_with(b"MZ") {
        let inside = unified::section(image, ".initrd")?.ok_or(InitramfsError::Other)?;
        return archives(io::BufReader::new(inside));
    }
    archives(image)
}

fn archives(mut image: impl BufRead) -> Result<InitramfsImage, InitramfsError> {
    let mut contents = contents::Contents::default();
    let mut read_any = false;
    loop {
        unpack::skip_zeros(&mut image)?;
        match unpack::told(&mut image)? {
            Compression::End if read_any => break,
            Compression::None => archive::read(&mut image, &mut |member| contents.add(member))?,
            // Nothing follows what is compressed.
            packed => {
                let mut inside = unpack::open(packed, image)?;
                archive::read_all(&mut inside, &mut |member| contents.add(member))?;
                break;
            }
        }
        read_any = true;
    }
    Ok(contents.told())
}
