//! NTFS: a boot sector, and the volume's name and version in record 3 of its
//! master file table. Layout: the kernel's fs/ntfs3/ntfs.h.

use super::{Block, Found, Reader, filesystem, found, set_utf16_label, utf16le};

const VOLUME_NAME: u32 = 0x60;
const VOLUME_INFORMATION: u32 = 0x70;
const END: u32 = 0xffff_ffff;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let boot = reader.at(0, 512)?;
    let sector = u64::from(boot.u16le(11)?);
    let per_cluster = match boot.u8(13)? {
        n @ 1..=128 if n.is_power_of_two() => u64::from(n),
        n @ 244..=255 => 1 << (256 - u32::from(n)),
        _ => return None,
    };
    if !boot.has(3, b"NTFS    ") || !sector.is_power_of_two() || !(256..=4096).contains(&sector) {
        return None;
    }
    let cluster = sector * per_cluster;
    let mut content = filesystem("ntfs");
    content.uuid = Some(format!("{:016X}", boot.u64le(72)?));
    content.block_size = Some(cluster);
    content.size = boot.u64le(40)?.checked_mul(sector);
    if let Some(record) = volume_record(reader, &boot, sector, cluster) {
        for (kind, at, len) in attributes(&record) {
            match kind {
                VOLUME_NAME => set_utf16_label(&mut content, utf16le(&record[at..at + len])),
                VOLUME_INFORMATION if len >= 10 => {
                    content.version = Some(format!("{}.{}", record[at + 8], record[at + 9]));
                    let dirty = record.get(at + 10).is_some_and(|flags| flags & 1 != 0);
                    content.state = Some(if dirty { "not cleanly unmounted" } else { "clean" }.to_owned());
                }
                _ => {}
            }
        }
    }
    found(0, content)
}

/// Record 3 of the table, with the sector ends that the update sequence
/// replaced put back.
fn volume_record(reader: &Reader<'_>, boot: &Block, sector: u64, cluster: u64) -> Option<Vec<u8>> {
    let size = match boot.u8(64)?.cast_signed() {
        n @ 1.. => u64::from(n.unsigned_abs()).checked_mul(cluster)?,
        n => 1u64.checked_shl(u32::from(n.unsigned_abs()))?,
    };
    let size = usize::try_from(size).ok().filter(|s| (256..=65536).contains(s))?;
    let offset = boot.u64le(48)?.checked_mul(cluster)?.checked_add(3 * size as u64)?;
    let block = reader.at(offset, size)?;
    if !block.has(0, b"FILE") {
        return None;
    }
    let mut record = block.all().to_vec();
    let (at, count) = (usize::from(block.u16le(4)?), usize::from(block.u16le(6)?));
    let stride = usize::try_from(sector.min(512)).ok()?;
    for n in 1..count.min(size / stride + 1) {
        let saved: [u8; 2] = block.bytes(at + 2 * n, 2)?.try_into().ok()?;
        record.get_mut(n * stride - 2..n * stride)?.copy_from_slice(&saved);
    }
    Some(record)
}

/// Kind, place and length of the values kept in a record itself.
fn attributes(record: &[u8]) -> Vec<(u32, usize, usize)> {
    let word = |at: usize| Some(u32::from_le_bytes(record.get(at..at + 4)?.try_into().ok()?));
    let half = |at: usize| Some(usize::from(u16::from_le_bytes(record.get(at..at + 2)?.try_into().ok()?)));
    let mut found = Vec::new();
    let mut at = half(20).unwrap_or(usize::MAX);
    while let (Some(kind), Some(length)) = (word(at), word(at.saturating_add(4))) {
        let length = usize::try_from(length).unwrap_or(0);
        if kind == END || length < 24 {
            break;
        }
        let resident = record.get(at + 8) == Some(&0);
        if let (true, Some(len), Some(offset)) = (resident, word(at + 16), half(at + 20)) {
            let (from, len) = (at + offset, usize::try_from(len).unwrap_or(usize::MAX));
            if from.checked_add(len).is_some_and(|to| to <= record.len()) {
                found.push((kind, from, len));
            }
        }
        at += length;
    }
    found
}
