//! Stripes over members of different sizes: behind the stripes over all come those over the
//! larger ones, and so on (the kernel's drivers/md/raid0.c).

use crate::view::View;
use bradawl_facts::probe::Bytes;
use std::io;

/// How the kernel counts in all zones but the first; which one, the superblock says.
const FROM_THE_ARRAYS_START: u32 = 1;
const FROM_THE_ZONES_START: u32 = 2;

/// Stripes over those members that are long enough.
struct Zone {
    /// Where it begins in the array, in bytes.
    start: u64,
    /// Where it begins on each of its members.
    on_member: u64,
    /// Which they are.
    members: Vec<usize>,
}

pub(super) struct Zoned {
    zones: Vec<Zone>,
    members: Vec<View>,
    chunk: u64,
    size: u64,
    from_zone: bool,
}

impl Zoned {
    /// `None`: the kernel does not put together what does not say how it counts.
    pub(super) fn new(members: Vec<View>, chunk: u64, layout: u32) -> Option<Self> {
        let from_zone = match layout {
            FROM_THE_ARRAYS_START => false,
            FROM_THE_ZONES_START => true,
            _ => return None,
        };
        let lengths: Vec<u64> = members.iter().map(|m| m.size() / chunk * chunk).collect();
        let (mut zones, mut size, mut on_member) = (Vec::new(), 0_u64, 0);
        while let Some(end) = lengths.iter().copied().filter(|length| *length > on_member).min() {
            let those: Vec<usize> = (0..members.len()).filter(|n| lengths[*n] > on_member).collect();
            let bytes = (end - on_member).checked_mul(those.len() as u64)?;
            zones.push(Zone { start: size, on_member, members: those });
            size = size.checked_add(bytes)?;
            on_member = end;
        }
        Some(Zoned { zones, members, chunk, size, from_zone })
    }

    /// The member, the byte on it, and how many bytes lie there.
    fn place(&self, at: u64) -> Option<(&View, u64, u64)> {
        let zone = self.zones.iter().rev().find(|zone| zone.start <= at)?;
        let within = at - zone.start;
        let count = zone.members.len() as u64;
        let counted = if self.from_zone { within } else { at };
        let member = usize::try_from(counted / self.chunk % count).ok()?;
        let row = within / (self.chunk * count);
        let byte = zone.on_member + row * self.chunk + within % self.chunk;
        Some((self.members.get(zone.members[member])?, byte, self.chunk - within % self.chunk))
    }
}

impl Bytes for Zoned {
    fn size(&self) -> u64 {
        self.size
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        let mut done = 0;
        while done < buffer.len() && offset + (done as u64) < self.size {
            let Some((view, byte, room)) = self.place(offset + done as u64) else { break };
            let want = usize::try_from(room).unwrap_or(usize::MAX).min(buffer.len() - done);
            super::full(view, byte, &mut buffer[done..done + want])?;
            done += want;
        }
        Ok(done)
    }
}
