//! Btrfs: a little-endian superblock at 64 KiB. Layout: btrfs-dev-docs,
//! "On-disk format", superblock.

use super::btrfs_subvolumes::subvolumes;
use super::features::{BTRFS_INCOMPAT, BTRFS_RO_COMPAT, names};
use super::{Found, Reader, crc32c, found, set_label};
use crate::record::{Content, ContentKind};

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(64 << 10, 4096)?;
    if !sb.has(0x40, b"_BHRfS_M") {
        return None;
    }
    let sector_size = u64::from(sb.u32le(0x90)?);
    if !(sector_size.is_power_of_two() && (512..=65536).contains(&sector_size)) {
        return None;
    }
    let mut content = Content::new(ContentKind::Filesystem, Some("btrfs"));
    content.uuid = sb.uuid(0x20);
    set_label(&mut content, sb.cstr(0x12b, 256)?);
    content.block_size = Some(sector_size);
    // The device item: its size and UUID are this device's own.
    content.size = sb.u64le(0xc9 + 8);
    content.sub_uuid = sb.uuid(0xc9 + 66);
    content.features = names(sb.u64le(0xb4)?, BTRFS_RO_COMPAT);
    content.features.extend(names(sb.u64le(0xbc)?, BTRFS_INCOMPAT));
    content.num_devices = sb.u64le(0x88);
    content.subvolumes = subvolumes(&reader.anew());
    // Checksum type 0 is CRC-32C; the others are not checked here.
    if sb.u16le(0xc4)? == 0 && crc32c(&[sb.bytes(0x20, 4096 - 0x20)?]) != sb.u32le(0)? {
        content.damaged = Some("the checksum of the superblock is wrong".to_owned());
    }
    found(64 << 10, content)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_a_superblock() {
        let mut data = vec![0; 80 << 10];
        let sb = &mut data[64 << 10..];
        sb[0xc4] = 1;
        sb[0x20..0x30].fill(0xc1);
        sb[0x40..0x48].copy_from_slice(b"_BHRfS_M");
        sb[0x90..0x94].copy_from_slice(&4096u32.to_le_bytes());
        sb[0xd1..0xd9].copy_from_slice(&(1u64 << 30).to_le_bytes());
        sb[0x10b..0x11b].fill(0xd2);
        sb[0x12b..0x131].copy_from_slice(b"survey");
        let content = probe(&Reader::new(&data)).unwrap().content;
        assert_eq!(content.label.as_deref(), Some("survey"));
        assert_eq!(content.size, Some(1 << 30));
        assert!(content.uuid.unwrap().starts_with("c1c1") && content.sub_uuid.unwrap().starts_with("d2d2"));
    }
}
