//! exFAT. Layout: Microsoft's "exFAT file system specification".

use super::{Block, Found, Reader, filesystem, found, set_utf16_label, short_serial, utf16le};

/// The root directory's chain is not followed further.
const MAX_CLUSTERS: usize = 32;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let boot = reader.at(0, 512)?;
    let (sector_bits, cluster_bits) = (u32::from(boot.u8(108)?), u32::from(boot.u8(109)?));
    if !boot.has(3, b"EXFAT   ") || !(9..=12).contains(&sector_bits) || sector_bits + cluster_bits > 25 {
        return None;
    }
    let volume = Volume { boot: &boot, sector: 1 << sector_bits, cluster: 1 << (sector_bits + cluster_bits) };
    let mut content = filesystem("exfat");
    content.uuid = Some(short_serial(boot.u32le(100)?));
    content.version = Some(format!("{}.{}", boot.u8(105)?, boot.u8(104)?));
    content.size = boot.u64le(72)?.checked_mul(volume.sector);
    content.block_size = Some(volume.cluster);
    if let Some(label) = volume.label(reader) {
        set_utf16_label(&mut content, utf16le(&label));
    }
    if volume.checksum(reader).is_none_or(|(sum, kept)| sum != kept) {
        content.damaged = Some("the checksum of the boot sectors is wrong".to_owned());
    }
    found(0, content)
}

struct Volume<'a> {
    boot: &'a Block,
    sector: u64,
    cluster: u64,
}

impl Volume<'_> {
    /// The sum over the first eleven sectors, and the one kept in the twelfth.
    fn checksum(&self, reader: &Reader<'_>) -> Option<(u32, u32)> {
        let sector = usize::try_from(self.sector).ok()?;
        let boot = reader.at(0, sector * 12)?;
        let counted = boot.bytes(0, sector * 11)?.iter().enumerate();
        let counted = counted.filter(|(n, _)| !matches!(n, 106 | 107 | 112));
        let sum = counted.fold(0u32, |sum, (_, byte)| sum.rotate_right(1).wrapping_add(u32::from(*byte)));
        Some((sum, boot.u32le(sector * 11)?))
    }

    /// The entry of the root directory that holds the label.
    fn label(&self, reader: &Reader<'_>) -> Option<Vec<u8>> {
        let (fat, heap) = (u64::from(self.boot.u32le(80)?), u64::from(self.boot.u32le(88)?));
        let count = self.boot.u32le(92)?;
        let mut cluster = self.boot.u32le(96)?;
        for _ in 0..MAX_CLUSTERS {
            let index = cluster.checked_sub(2).filter(|i| *i < count)?;
            let offset =
                heap.checked_mul(self.sector)?.checked_add(u64::from(index).checked_mul(self.cluster)?)?;
            let len = usize::try_from(self.cluster.min(32 << 10)).ok()?;
            for entry in reader.at(offset, len)?.all().chunks_exact(32) {
                match entry[0] {
                    0 => return None,
                    0x83 => return entry.get(2..2 + 2 * usize::from(entry[1].min(11))).map(<[u8]>::to_vec),
                    _ => {}
                }
            }
            cluster = reader.at(fat.checked_mul(self.sector)? + u64::from(cluster) * 4, 4)?.u32le(0)?;
        }
        None
    }
}
