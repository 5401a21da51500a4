//! A file as a block device: loop(4), LOOP_CTL_GET_FREE and LOOP_CONFIGURE
//! (Linux 5.8).

use rustix::io::Errno;
use rustix::ioctl::{Ioctl, IoctlOutput, Opcode, Setter, ioctl};
use std::fs::{File, OpenOptions};
use std::io;
use std::os::fd::{AsFd, AsRawFd as _};
use std::os::raw::c_void;

const GET_FREE: Opcode = 0x4C82;
const CONFIGURE: Opcode = 0x4C0A;
/// LO_FLAGS_READ_ONLY and LO_FLAGS_AUTOCLEAR.
const READ_ONLY: u32 = 1;
const AUTOCLEAR: u32 = 4;
/// Somebody else may take the free device first.
const MAX_TRIES: usize = 16;

/// `struct loop_info64` of linux/loop.h.
#[repr(C)]
#[derive(Clone, Copy)]
struct Info {
    device: u64,
    inode: u64,
    rdevice: u64,
    offset: u64,
    size_limit: u64,
    number: u32,
    encrypt_type: u32,
    encrypt_key_size: u32,
    flags: u32,
    names: [[u8; 64]; 2],
    key: [u8; 32],
    init: [u64; 2],
}

/// `struct loop_config`.
#[repr(C)]
#[derive(Clone, Copy)]
struct Config {
    fd: u32,
    block_size: u32,
    info: Info,
    reserved: [u64; 8],
}

/// A file attached as a device. It is let go of when nobody uses it any more:
/// this, or what was mounted from it.
#[derive(Debug)]
pub struct Image {
    _device: File,
    path: String,
}

impl Image {
    /// Attaches a part of a file; a size of 0: to its end.
    ///
    /// # Errors
    /// When the file cannot be opened, or the kernel has no loop devices.
    pub fn attach(file: &str, offset: u64, size: u64, read_only: bool) -> io::Result<Self> {
        let backing = OpenOptions::new().read(true).write(!read_only).open(file)?;
        let control = OpenOptions::new().read(true).write(true).open("/dev/loop-control")?;
        for _ in 0..MAX_TRIES {
            let path = format!("/dev/loop{}", free(&control)?);
            let device = OpenOptions::new().read(true).write(!read_only).open(&path)?;
            match configure(&device, &backing, (offset, size), read_only) {
                Ok(()) => return Ok(Image { _device: device, path }),
                Err(e) if e.raw_os_error() == Some(Errno::BUSY.raw_os_error()) => {}
                Err(e) => return Err(e),
            }
        }
        Err(io::Error::other("others took every free loop device"))
    }

    /// The device's path.
    pub fn path(&self) -> &str {
        &self.path
    }
}

fn configure(device: &File, backing: &File, (offset, size): (u64, u64), read_only: bool) -> io::Result<()> {
    let info = Info {
        device: 0,
        inode: 0,
        rdevice: 0,
        offset,
        size_limit: size,
        number: 0,
        encrypt_type: 0,
        encrypt_key_size: 0,
        flags: AUTOCLEAR | if read_only { READ_ONLY } else { 0 },
        names: [[0; 64]; 2],
        key: [0; 32],
        init: [0; 2],
    };
    let fd = u32::try_from(backing.as_raw_fd()).map_err(io::Error::other)?;
    let config = Config { fd, block_size: 0, info, reserved: [0; 8] };
    set(device, config)
}

#[allow(unsafe_code)]
fn set(device: &File, config: Config) -> io::Result<()> {
    // SAFETY: the kernel reads a `struct loop_config`, which `Config` is; the
    // descriptor in it is open for as long as the call lasts.
    let call = unsafe { Setter::<CONFIGURE, Config>::new(config) };
    // SAFETY: the opcode and the type belong together, as above.
    unsafe { ioctl(device, call) }.map_err(Into::into)
}

/// The number of a device that nobody uses.
#[allow(unsafe_code)]
fn free(control: impl AsFd) -> io::Result<i32> {
    // SAFETY: the call takes no argument, and answers by its result.
    unsafe { ioctl(control, GetFree) }.map_err(Into::into)
}

struct GetFree;

// SAFETY: no memory is read or written; what comes back is a number.
#[allow(unsafe_code)]
unsafe impl Ioctl for GetFree {
    type Output = i32;
    const IS_MUTATING: bool = false;

    fn opcode(&self) -> Opcode {
        GET_FREE
    }

    fn as_ptr(&mut self) -> *mut c_void {
        std::ptr::null_mut()
    }

    unsafe fn output_from_ptr(out: IoctlOutput, _: *mut c_void) -> rustix::io::Result<i32> {
        Ok(out)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_structures_have_the_kernels_size() {
        assert_eq!((size_of::<Info>(), size_of::<Config>()), (232, 304));
    }

    #[test]
    fn a_file_that_is_not_there_is_an_error() {
        assert!(Image::attach("/nonexistent/image", 0, 0, true).is_err());
    }
}
