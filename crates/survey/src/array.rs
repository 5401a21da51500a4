//! Arrays that do not run, put together from their members. Where each chunk lies is
//! as the kernel's drivers have it (drivers/md: raid0.c, raid5.c, raid10.c, md-linear.c).

mod layout;
mod members;
mod zones;

pub(crate) use members::{assembled, striped};

use crate::view::View;
use bradawl_facts::probe::Bytes;
use layout::{Layout, Place};
use std::io;

/// The bytes of an array, read from those of its members that are there.
struct Array {
    layout: Layout,
    chunk: u64,
    size: u64,
    /// By their place; `None`: it is not there, or its bytes are old.
    members: Vec<Option<View>>,
}

impl Bytes for Array {
    fn size(&self) -> u64 {
        self.size
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        let mut done = 0;
        while done < buffer.len() && offset + (done as u64) < self.size {
            let at = offset + done as u64;
            let room = (self.chunk - at % self.chunk).min(self.size - at);
            let room = usize::try_from(room).unwrap_or(usize::MAX);
            let want = room.min(buffer.len() - done);
            self.piece(at, &mut buffer[done..done + want])?;
            done += want;
        }
        Ok(done)
    }
}

impl Array {
    /// Reads what lies within one chunk: from whoever has it, else from all others of
    /// its row.
    fn piece(&self, at: u64, buffer: &mut [u8]) -> io::Result<()> {
        let Place { copies, row } = self.layout.place(at / self.chunk, self.members.len());
        let within = at % self.chunk;
        for (member, chunk) in copies {
            if let Some(view) = &self.members[member] {
                return full(view, chunk * self.chunk + within, buffer);
            }
        }
        let Some(row) = row else { return Err(io::Error::other("a member of the array is absent")) };
        buffer.fill(0);
        let mut other = vec![0; buffer.len()];
        for member in row.others {
            let Some(view) = &self.members[member] else {
                return Err(io::Error::other("too many members of the array are absent"));
            };
            full(view, row.chunk * self.chunk + within, &mut other)?;
            buffer.iter_mut().zip(&other).for_each(|(sum, byte)| *sum ^= byte);
        }
        Ok(())
    }
}

fn full(view: &View, at: u64, buffer: &mut [u8]) -> io::Result<()> {
    match view.read_at(at, buffer)? {
        read if read == buffer.len() => Ok(()),
        _ => Err(io::Error::other("a member of the array ends too early")),
    }
}

#[cfg(test)]
pub(crate) mod tests;
