//! Partition tables of other makers: Sun, SGI, Macintosh. Told, but their
//! partitions are not listed.

use super::{Found, Reader, found};
use crate::record::{Content, ContentKind};

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let start = reader.at(0, 512)?;
    let words = || start.all().chunks_exact(2).map(|w| u16::from_be_bytes([w[0], w[1]]));
    let sun = start.u16be(508)? == 0xdabe && words().fold(0, |sum, w| sum ^ w) == 0;
    let fstype = match () {
        () if sun => "sun",
        () if start.u32be(0)? == 0x0be5_a941 => "sgi",
        () if start.has(0, b"ER") && reader.at(512, 2).is_some_and(|p| p.has(0, b"PM")) => "mac",
        () => return None,
    };
    found(0, Content::new(ContentKind::PartitionTable, Some(fstype)))
}
