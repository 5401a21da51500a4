//! A throw-away layer over a block device: what is written to it never reaches
//! the device (device-mapper's snapshot target, linux/dm-ioctl.h,
//! Documentation/admin-guide/device-mapper/snapshot.rst).

use crate::Image;
use rustix::fs::{MemfdFlags, memfd_create};
use rustix::ioctl::{Opcode, Updater, ioctl};
use std::fs::{File, OpenOptions};
use std::io::{self, Seek as _, SeekFrom};
use std::os::fd::AsRawFd as _;

/// `_IOWR(0xfd, n, struct dm_ioctl)`.
const fn call(number: Opcode) -> Opcode {
    0xC138_FD00 | number
}
const CREATE: Opcode = call(3);
const REMOVE: Opcode = call(4);
const SUSPEND: Opcode = call(6);
const LOAD: Opcode = call(9);
/// DM_DEFERRED_REMOVE: it goes when the last who has it open lets go.
const DEFERRED: u32 = 1 << 17;
/// Flags of the cookie by which udev's rules let a device alone
/// (libdevmapper.h: subsystem, disk, other, low priority, from the program).
const NOT_FOR_UDEV: u32 = 0x5e << 16;
/// What may be written before the layer is full.
const ROOM: u64 = 512 << 20;
/// The size of `struct dm_ioctl` without its data.
const HEAD: usize = 312;

const PARAMETERS: usize = 160;

#[repr(C)]
struct Command {
    version: [u32; 3],
    size: u32,
    start: u32,
    targets: u32,
    open_count: i32,
    flags: u32,
    event: u32,
    padding: u32,
    device: u64,
    name: [u8; 128],
    uuid: [u8; 129],
    rest: [u8; 7],
    sector: u64,
    sectors: u64,
    status: i32,
    next: u32,
    kind: [u8; 16],
    parameters: [u8; PARAMETERS],
}

impl Command {
    fn new(name: &str) -> Self {
        let mut command = Command {
            version: [4, 0, 0],
            size: size_of::<Command>() as u32,
            start: HEAD as u32,
            targets: 0,
            open_count: 0,
            flags: 0,
            event: 0,
            padding: 0,
            device: 0,
            name: [0; 128],
            uuid: [0; 129],
            rest: [0; 7],
            sector: 0,
            sectors: 0,
            status: 0,
            next: 0,
            kind: [0; 16],
            parameters: [0; PARAMETERS],
        };
        put(&mut command.name, name);
        command
    }
}

/// Text into a field that ends with a zero.
fn put(field: &mut [u8], text: &str) {
    let room = field.len().saturating_sub(1);
    for (to, from) in field.iter_mut().zip(text.bytes().take(room)) {
        *to = from;
    }
}

/// A device that shows another, and keeps what is written to it in memory. It
/// goes with the last who has it open, however that ends.
#[derive(Debug)]
pub struct Layer {
    _device: File,
    _room: Image,
    path: String,
}

impl Layer {
    /// Lays one over a device that nobody writes to; `name` is the host's for
    /// no other.
    ///
    /// # Errors
    /// When the kernel has no device mapper, or no loop devices.
    pub fn over(device: &str, name: &str) -> io::Result<Self> {
        let control = OpenOptions::new().read(true).write(true).open("/dev/mapper/control")?;
        let sectors = File::open(device)?.seek(SeekFrom::End(0))? / 512;
        let memory = File::from(memfd_create("layer", MemfdFlags::CLOEXEC)?);
        memory.set_len(ROOM)?;
        let room = Image::attach(&format!("/proc/self/fd/{}", memory.as_raw_fd()), 0, 0, false)?;
        let mut create = Command::new(name);
        ask(&control, CREATE, &mut create)?;
        let path = format!("/dev/dm-{}", minor(create.device));
        let started = start(&control, name, device, room.path(), sectors)
            .and_then(|()| OpenOptions::new().read(true).write(true).open(&path));
        // From here on it ends by itself.
        let mut remove = Command::new(name);
        remove.flags = DEFERRED;
        ask(&control, REMOVE, &mut remove)?;
        Ok(Layer { _device: started?, _room: room, path })
    }

    /// The device's path.
    pub fn path(&self) -> &str {
        &self.path
    }
}

fn start(control: &File, name: &str, device: &str, room: &str, sectors: u64) -> io::Result<()> {
    let mut load = Command::new(name);
    (load.targets, load.sectors) = (1, sectors);
    put(&mut load.kind, "snapshot");
    // Not kept over a restart, in pieces of 4 KiB.
    let parameters = format!("{device} {room} N 8");
    if parameters.len() >= PARAMETERS {
        return Err(io::Error::other("the path of the device is too long"));
    }
    put(&mut load.parameters, &parameters);
    ask(control, LOAD, &mut load)?;
    let mut resume = Command::new(name);
    resume.event = NOT_FOR_UDEV;
    ask(control, SUSPEND, &mut resume)
}

/// The minor number of a device as the kernel writes it (new_encode_dev).
fn minor(device: u64) -> u64 {
    (device & 0xff) | ((device >> 12) & 0xf_ff00)
}

fn ask(control: &File, code: Opcode, command: &mut Command) -> io::Result<()> {
    let done = match code {
        CREATE => run::<CREATE>(control, command),
        REMOVE => run::<REMOVE>(control, command),
        SUSPEND => run::<SUSPEND>(control, command),
        _ => run::<LOAD>(control, command),
    };
    done.map_err(Into::into)
}

#[allow(unsafe_code)]
fn run<const CODE: Opcode>(control: &File, command: &mut Command) -> rustix::io::Result<()> {
    // SAFETY: the kernel reads and writes `size` bytes from the head on, which
    // is the size of `Command`; any bytes are valid in it.
    let call = unsafe { Updater::<CODE, Command>::new(command) };
    // SAFETY: the opcode and the type belong together, as above.
    unsafe { ioctl(control, call) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_head_has_the_size_in_the_opcode() {
        assert_eq!(std::mem::offset_of!(Command, sector), HEAD);
        assert_eq!((CREATE as usize >> 16) & 0x3fff, HEAD);
        assert_eq!(std::mem::offset_of!(Command, parameters), HEAD + 40);
    }

    #[test]
    fn text_is_cut_to_its_field_and_numbers_are_taken_apart() {
        let mut field = [0; 4];
        put(&mut field, "snapshot");
        assert_eq!(&field, b"sna\0");
        assert_eq!(minor(0xfe00 | 3), 3);
        assert_eq!(minor(0x0010_fe05), 0x105);
    }
}
