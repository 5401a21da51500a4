//! MBR partition tables with their chain of logical partitions.

use super::{Block, Found, Reader, found};
use crate::record::{Content, ContentKind, PartitionEntry};

const SECTOR: u64 = 512;
/// Longer chains of logical partitions are not followed, nor do they end in
/// a circle.
const MAX_LOGICAL: u32 = 60;

/// One of the four slots of a table.
struct Slot {
    type_id: u8,
    start: u64,
    sectors: u64,
}

impl Slot {
    fn is_extended(&self) -> bool {
        matches!(self.type_id, 0x05 | 0x0f | 0x85)
    }

    fn is_used(&self) -> bool {
        self.type_id != 0 && self.sectors != 0
    }
}

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let mbr = reader.at(0, 512)?;
    let slots = slots(&mbr)?;
    // A protective MBR is part of a GPT; no partition holds the table itself.
    if slots.iter().any(|s| s.type_id == 0xee || (s.is_used() && s.start == 0)) {
        return None;
    }
    let signature = mbr.u32le(440)?;
    let bare = slots.iter().all(|s| !s.is_used());
    if bare && signature == 0 {
        return None;
    }
    let mut table = Table { reader, signature, partitions: Vec::new() };
    for (number, slot) in (1..).zip(&slots).filter(|(_, s)| s.is_used()) {
        table.add(number, slot.start, slot);
    }
    if let Some(extended) = slots.iter().find(|s| s.is_used() && s.is_extended()) {
        table.logical(extended);
    }
    let mut content = Content::new(ContentKind::PartitionTable, Some("dos"));
    content.uuid = (signature != 0).then(|| format!("{signature:08x}"));
    content.partitions = table.partitions;
    found(0, content)
}

/// The four slots, when they can be those of a partition table: marked, and
/// each either startable or not.
fn slots(sector: &Block) -> Option<Vec<Slot>> {
    if !sector.has(510, &[0x55, 0xaa]) {
        return None;
    }
    let slot = |n: usize| {
        let at = 446 + 16 * n;
        let slot = Slot {
            type_id: sector.u8(at + 4)?,
            start: u64::from(sector.u32le(at + 8)?),
            sectors: u64::from(sector.u32le(at + 12)?),
        };
        matches!(sector.u8(at)?, 0 | 0x80).then_some(slot)
    };
    (0..4).map(slot).collect()
}

struct Table<'r, 'b> {
    reader: &'r Reader<'b>,
    signature: u32,
    partitions: Vec<PartitionEntry>,
}

impl Table<'_, '_> {
    fn add(&mut self, number: u32, first: u64, slot: &Slot) {
        let (start, size) = (first * SECTOR, slot.sectors * SECTOR);
        self.partitions.push(PartitionEntry {
            number,
            start,
            size,
            uuid: (self.signature != 0).then(|| format!("{:08x}-{number:02x}", self.signature)),
            label: None,
            type_id: format!("0x{:02x}", slot.type_id),
            extended: slot.is_extended(),
            out_of_range: start.saturating_add(size) > self.reader.size(),
            no_auto: false,
        });
    }

    /// Follows the chain: each link has one partition, counted from the link,
    /// and the next link, counted from the extended partition.
    fn logical(&mut self, extended: &Slot) {
        let mut link = extended.start;
        let mut seen = vec![link];
        for number in 5..5 + MAX_LOGICAL {
            let Some(slots) = self.reader.at(link * SECTOR, 512).and_then(|s| slots(&s)) else { return };
            let Some(own) = slots.iter().find(|s| s.is_used() && !s.is_extended()) else { return };
            self.add(number, link + own.start, own);
            let Some(next) = slots.iter().find(|s| s.is_used() && s.is_extended()) else { return };
            link = extended.start + next.start;
            if seen.contains(&link) {
                return;
            }
            seen.push(link);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn slot(data: &mut [u8], sector: usize, n: usize, type_id: u8, start: u32, sectors: u32) {
        let at = sector * 512 + 446 + 16 * n;
        data[at + 4] = type_id;
        data[at + 8..at + 12].copy_from_slice(&start.to_le_bytes());
        data[at + 12..at + 16].copy_from_slice(&sectors.to_le_bytes());
        data[sector * 512 + 510..sector * 512 + 512].copy_from_slice(&[0x55, 0xaa]);
    }

    #[test]
    fn a_circle_of_links_ends() {
        let mut data = vec![0; 64 << 10];
        data[440..444].copy_from_slice(&0x1a2b_3c4d_u32.to_le_bytes());
        slot(&mut data, 0, 0, 0x83, 2, 4);
        slot(&mut data, 0, 1, 0x05, 10, 100);
        slot(&mut data, 10, 0, 0x83, 2, 4);
        slot(&mut data, 10, 1, 0x05, 20, 20);
        slot(&mut data, 30, 0, 0x82, 2, 4);
        slot(&mut data, 30, 1, 0x05, 0, 20);
        let content = probe(&Reader::new(&data)).unwrap().content;
        let numbers: Vec<u32> = content.partitions.iter().map(|p| p.number).collect();
        assert_eq!(numbers, [1, 2, 5, 6]);
        assert_eq!(content.partitions[3].start, 32 * 512);
        assert_eq!(content.partitions[3].uuid.as_deref(), Some("1a2b3c4d-06"));
    }

    #[test]
    fn text_where_the_table_would_be_is_none() {
        let mut data = vec![b'x'; 512];
        data[510..].copy_from_slice(&[0x55, 0xaa]);
        assert!(probe(&Reader::new(&data)).is_none());
    }
}
