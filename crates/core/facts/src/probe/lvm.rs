//! LVM2 physical volumes: a label in one of the first four sectors, and the
//! volume group's description as text. Layout: LVM2's lib/format_text.

use super::{Block, Found, Reader, found, lvm_group};
use crate::record::{Content, ContentKind, VolumeGroup};

const SECTOR: u64 = 512;
/// Descriptions larger than this are not read.
const MAX_TEXT: u64 = 512 << 10;
const INITIAL_CRC: u32 = 0xf597_a6cf;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    (0..4).find_map(|sector| label(reader, sector * SECTOR))
}

fn label(reader: &Reader<'_>, offset: u64) -> Option<Found> {
    let sector = reader.at(offset, 512)?;
    if !sector.has(0, b"LABELONE") || !sector.has(24, b"LVM2 001") || sector.u64le(8)? != offset / SECTOR {
        return None;
    }
    let header = usize::try_from(sector.u32le(20)?).ok()?;
    let mut content = Content::new(ContentKind::LvmPv, Some("LVM2 PV"));
    content.version = Some("LVM2 001".to_owned());
    content.uuid = Some(lvm_group::uuid(std::str::from_utf8(sector.bytes(header, 32)?).ok()?)?);
    content.size = sector.u64le(header + 32);
    if crc(sector.bytes(20, 492)?) != sector.u32le(16)? {
        content.damaged = Some("the checksum of the label is wrong".to_owned());
    }
    match metadata_area(&sector, header + 40).map(|(start, size)| group(reader, start, size)) {
        Some(Some(group)) => content.group = group,
        Some(None) => content.damaged = Some("the metadata area cannot be read".to_owned()),
        None => {}
    }
    found(offset, content)
}

/// The first metadata area: after the data areas, which a pair of zeros ends.
fn metadata_area(sector: &Block, mut at: usize) -> Option<(u64, u64)> {
    while sector.u64le(at)? != 0 {
        at += 16;
    }
    at += 16;
    let (start, size) = (sector.u64le(at)?, sector.u64le(at + 8)?);
    (start != 0).then_some((start, size))
}

/// The group that the area describes: `Some(None)` when it belongs to none,
/// `None` when it cannot be read.
#[allow(clippy::option_option)]
fn group(reader: &Reader<'_>, start: u64, size: u64) -> Option<Option<VolumeGroup>> {
    let header = reader.at(start, 512)?;
    if !header.has(4, b"\x20LVM2\x20x[5A%r0N*>") || crc(header.bytes(4, 508)?) != header.u32le(0)? {
        return None;
    }
    let (offset, length) = (header.u64le(40)?, header.u64le(48)?);
    if offset == 0 || length == 0 {
        return Some(None);
    }
    let area = start.checked_add(offset).filter(|_| offset < size && length <= MAX_TEXT)?;
    // The area is a ring behind its header: text may go on at its start.
    let first = length.min(size - offset);
    let mut text = reader.at(area, usize::try_from(first).ok()?)?.all().to_vec();
    if first < length {
        let rest = reader.at(start + SECTOR, usize::try_from(length - first).ok()?)?;
        text.extend_from_slice(rest.all());
    }
    Some(lvm_group::group(&String::from_utf8_lossy(&text)))
}

/// LVM2's CRC: the common polynomial with a start of its own, not inverted.
fn crc(bytes: &[u8]) -> u32 {
    let mut hasher = crc32fast::Hasher::new_with_initial(!INITIAL_CRC);
    hasher.update(bytes);
    !hasher.finalize()
}
