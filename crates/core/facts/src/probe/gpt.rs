//! GUID partition tables. Layout: the UEFI specification, chapter 5. A header
//! or a list of entries counts only if its checksum is right.

use super::{Block, Found, Reader, found, utf16le};
use crate::record::{Content, ContentKind, PartitionEntry};

/// Lists of entries larger than this are not read.
const MAX_ENTRIES: u32 = 1024;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let protective = has_protective_mbr(reader);
    for sector in [512u64, 4096] {
        if let Some(mut content) = table(reader, sector, sector) {
            if !protective {
                content.damaged = Some("there is no protective MBR".to_owned());
            }
            return found(sector, content);
        }
    }
    // The backup alone, without the mark in the first sector, is a left-over.
    [512u64, 4096].into_iter().filter(|_| protective).find_map(|sector| {
        let last = (reader.size() / sector).checked_sub(1)? * sector;
        let mut content = table(reader, sector, last)?;
        content.state = Some("the first header is damaged; read from the backup".to_owned());
        found(last, content)
    })
}

fn has_protective_mbr(reader: &Reader<'_>) -> bool {
    let Some(mbr) = reader.at(0, 512) else { return false };
    mbr.has(510, &[0x55, 0xaa]) && (0..4).any(|n| mbr.u8(446 + 16 * n + 4) == Some(0xee))
}

/// The table whose header stands at this offset.
fn table(reader: &Reader<'_>, sector: u64, offset: u64) -> Option<Content> {
    let header = reader.at(offset, usize::try_from(sector).ok()?)?;
    let length = usize::try_from(header.u32le(12)?).ok().filter(|n| (92..=512).contains(n))?;
    let sum = crc(&[header.bytes(0, 16)?, &[0; 4], header.bytes(20, length - 20)?]);
    let own = header.u64le(24)?.checked_mul(sector)?;
    if !header.has(0, b"EFI PART") || sum != header.u32le(16)? || own != offset {
        return None;
    }
    let (count, size) = (header.u32le(80)?, usize::try_from(header.u32le(84)?).ok()?);
    if count > MAX_ENTRIES || !(128..=4096).contains(&size) || !size.is_multiple_of(8) {
        return None;
    }
    let list = reader.at(header.u64le(72)?.checked_mul(sector)?, usize::try_from(count).ok()? * size)?;
    if crc(&[list.all()]) != header.u32le(88)? {
        return None;
    }
    let usable = (header.u64le(40)?, header.u64le(48)?);
    let mut content = Content::new(ContentKind::PartitionTable, Some("gpt"));
    content.uuid = guid(&header, 56);
    content.block_size = Some(sector);
    content.partitions =
        (0..count).filter_map(|n| partition(&list, n, size, sector, usable, reader.size())).collect();
    Some(content)
}

fn partition(
    list: &Block,
    n: u32,
    entry: usize,
    sector: u64,
    usable: (u64, u64),
    disk: u64,
) -> Option<PartitionEntry> {
    let at = usize::try_from(n).ok()? * entry;
    let type_id = guid(list, at)?;
    let (first, last) = (list.u64le(at + 32)?, list.u64le(at + 40)?);
    // What the table itself cannot hold is no partition.
    if first > last || first < usable.0 || last > usable.1 {
        return None;
    }
    let (start, size) = (first.checked_mul(sector)?, (last - first + 1).checked_mul(sector)?);
    let units: Vec<u16> = utf16le(list.bytes(at + 56, 72)?).take_while(|&u| u != 0).collect();
    let label = String::from_utf16_lossy(&units);
    Some(PartitionEntry {
        number: n + 1,
        start,
        size,
        uuid: guid(list, at + 16),
        label: (!label.is_empty()).then_some(label),
        type_id,
        extended: false,
        out_of_range: start.checked_add(size)? > disk,
        no_auto: list.u64le(at + 48)? >> 63 == 1,
    })
}

/// A GUID: the first three fields little-endian; `None` when all zeros.
fn guid(block: &Block, at: usize) -> Option<String> {
    let id = uuid::Uuid::from_bytes_le(block.bytes(at, 16)?.try_into().ok()?);
    (!id.is_nil()).then(|| id.hyphenated().to_string())
}

fn crc(pieces: &[&[u8]]) -> u32 {
    let mut hasher = crc32fast::Hasher::new();
    pieces.iter().for_each(|piece| hasher.update(piece));
    hasher.finalize()
}
