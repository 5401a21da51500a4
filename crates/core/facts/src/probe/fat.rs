//! FAT12, FAT16, FAT32. Layout: Microsoft's "FAT: General Overview of
//! On-Disk Format"; which of the three follows from the number of clusters
//! alone.

use super::{Block, Found, Reader, found, set_label, short_serial};
use crate::record::{Content, ContentKind};

/// A root directory's chain longer than this is not followed further.
const MAX_ROOT_CLUSTERS: usize = 128;

/// The fields of the boot sector that place everything else.
struct Geometry {
    sector: u64,
    cluster_sectors: u64,
    reserved: u64,
    fats: u64,
    root_entries: u64,
    sectors: u64,
    fat_sectors: u64,
}

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let boot = reader.at(0, 512)?;
    let geometry = Geometry::read(&boot).filter(|g| is_marked(&boot) || g.begins_its_table(reader, &boot))?;
    let clusters = geometry.clusters()?;
    let fat32 = boot.u16le(22)? == 0;
    let version = match clusters {
        _ if fat32 => "FAT32",
        0..4085 => "FAT12",
        _ => "FAT16",
    };
    let ids = if fat32 { 64 } else { 36 };
    let extended = matches!(boot.u8(ids + 2), Some(0x28 | 0x29));
    let mut content = Content::new(ContentKind::Filesystem, Some("vfat"));
    content.version = Some(version.to_owned());
    content.size = geometry.sectors.checked_mul(geometry.sector);
    content.block_size = geometry.cluster_sectors.checked_mul(geometry.sector);
    if extended {
        let serial = boot.u32le(ids + 3)?;
        content.uuid = Some(short_serial(serial));
    }
    // A bit of the boot sector that drivers set while the volume is mounted.
    let dirty = boot.u8(ids + 1).is_some_and(|flags| flags & 1 != 0);
    content.state = Some(if dirty { "not cleanly unmounted" } else { "clean" }.to_owned());
    let root = if fat32 { root_chain(reader, &geometry, boot.u32le(44)?) } else { geometry.root(reader) };
    let boot_label = boot.bytes(ids + 7, 11).filter(|_| boot.u8(ids + 2) == Some(0x29));
    let label = root.as_deref().and_then(volume_label).or_else(|| {
        boot_label.map(<[u8]>::to_vec).filter(|l| l != b"NO NAME    " && l.iter().any(|&b| b != 0))
    });
    set_label(&mut content, label.unwrap_or_default().trim_ascii_end());
    found(0, content)
}

/// A jump over the fields, and a name or a mark.
fn is_marked(boot: &Block) -> bool {
    let named = boot.has(54, b"FAT") || boot.has(82, b"FAT32") || boot.has(510, &[0x55, 0xaa]);
    named && matches!(boot.u8(0), Some(0xeb | 0xe9))
}

impl Geometry {
    /// Boot sectors of other machines carry no mark: there the table itself
    /// has to begin as it should, with the medium and all ones.
    fn begins_its_table(&self, reader: &Reader<'_>, boot: &Block) -> bool {
        let start = reader.at(self.reserved * self.sector, 3);
        start.zip(boot.u8(21)).is_some_and(|(table, medium)| table.has(0, &[medium, 0xff, 0xff]))
    }

    fn read(boot: &Block) -> Option<Self> {
        if [&b"NTFS    "[..], b"EXFAT   ", b"-FVE-FS-"].iter().any(|name| boot.has(3, name)) {
            return None;
        }
        let either = |short: u16, long: u32| if short == 0 { u64::from(long) } else { u64::from(short) };
        let geometry = Geometry {
            sector: u64::from(boot.u16le(11)?),
            cluster_sectors: u64::from(boot.u8(13)?),
            reserved: u64::from(boot.u16le(14)?),
            fats: u64::from(boot.u8(16)?),
            root_entries: u64::from(boot.u16le(17)?),
            sectors: either(boot.u16le(19)?, boot.u32le(32)?),
            fat_sectors: either(boot.u16le(22)?, boot.u32le(36)?),
        };
        let media = boot.u8(21)?;
        let sound = geometry.sector.is_power_of_two()
            && (512..=4096).contains(&geometry.sector)
            && geometry.cluster_sectors.is_power_of_two()
            && geometry.reserved > 0
            && (1..=2).contains(&geometry.fats)
            && (media >= 0xf8 || media == 0xf0)
            && geometry.sectors > 0
            && geometry.fat_sectors > 0;
        sound.then_some(geometry)
    }

    fn root_start(&self) -> u64 {
        self.reserved + self.fats * self.fat_sectors
    }

    fn data_start(&self) -> u64 {
        self.root_start() + (self.root_entries * 32).div_ceil(self.sector)
    }

    fn clusters(&self) -> Option<u64> {
        Some(self.sectors.checked_sub(self.data_start())? / self.cluster_sectors)
    }

    /// The root directory of FAT12 and FAT16: a fixed area.
    fn root(&self, reader: &Reader<'_>) -> Option<Vec<u8>> {
        let len = usize::try_from(self.root_entries * 32).ok()?.min(64 << 10);
        Some(reader.at(self.root_start() * self.sector, len)?.all().to_vec())
    }
}

/// The root directory of FAT32: a chain of clusters. Every cluster is counted,
/// so a chain that loops ends.
fn root_chain(reader: &Reader<'_>, geometry: &Geometry, first: u32) -> Option<Vec<u8>> {
    let cluster_bytes = usize::try_from(geometry.cluster_sectors * geometry.sector).ok()?;
    let mut folder = Vec::new();
    let mut cluster = u64::from(first);
    for _ in 0..MAX_ROOT_CLUSTERS {
        let index = cluster.checked_sub(2).filter(|&i| geometry.clusters().is_some_and(|n| i < n));
        let Some(index) = index else { break };
        let sector = geometry.data_start() + index * geometry.cluster_sectors;
        let Some(block) = reader.at(sector * geometry.sector, cluster_bytes) else { break };
        let ends = block.all().chunks(32).any(|entry| entry[0] == 0);
        folder.extend_from_slice(block.all());
        if ends {
            break;
        }
        let Some(next) = reader.at(geometry.reserved * geometry.sector + cluster * 4, 4) else { break };
        cluster = u64::from(next.u32le(0)? & 0x0fff_ffff);
    }
    Some(folder)
}

/// The entry with the volume attribute that is not part of a long name.
fn volume_label(folder: &[u8]) -> Option<Vec<u8>> {
    for entry in folder.chunks_exact(32).take_while(|e| e[0] != 0) {
        let attributes = entry[11];
        if entry[0] == 0xe5 || attributes & 0x3f == 0x0f || attributes & 0x18 != 0x08 {
            continue;
        }
        let mut label = entry[..11].to_vec();
        // 0x05 stands for a name that really starts with 0xE5.
        if label[0] == 0x05 {
            label[0] = 0xe5;
        }
        return Some(label);
    }
    None
}

#[cfg(test)]
mod tests {
    use super::*;

    fn fat16() -> Vec<u8> {
        let mut data = vec![0; 5000 * 512];
        data[..3].copy_from_slice(&[0xeb, 0x3c, 0x90]);
        data[11..13].copy_from_slice(&512u16.to_le_bytes());
        data[13] = 1;
        data[14..16].copy_from_slice(&1u16.to_le_bytes());
        data[16] = 2;
        data[17..19].copy_from_slice(&512u16.to_le_bytes());
        data[19..21].copy_from_slice(&5000u16.to_le_bytes());
        data[21] = 0xf8;
        data[22..24].copy_from_slice(&20u16.to_le_bytes());
        data[38] = 0x29;
        data[39..43].copy_from_slice(&0x4b1d_7e20u32.to_le_bytes());
        data[43..54].copy_from_slice(b"BOOTLABEL  ");
        data[54..62].copy_from_slice(b"FAT16   ");
        data
    }

    #[test]
    fn the_root_folder_names_it_before_the_boot_sector() {
        let mut data = fat16();
        let boot_only = probe(&Reader::new(&data)).unwrap().content;
        assert_eq!(boot_only.label.as_deref(), Some("BOOTLABEL"));
        let root = 41 * 512;
        data[root..root + 11].copy_from_slice(b"TIDE TABLE ");
        data[root + 11] = 0x08;
        let content = probe(&Reader::new(&data)).unwrap().content;
        assert_eq!(content.label.as_deref(), Some("TIDE TABLE"));
        assert_eq!(content.uuid.as_deref(), Some("4B1D-7E20"));
        assert_eq!(content.version.as_deref(), Some("FAT16"));
    }

    #[test]
    fn refuses_impossible_geometry() {
        for (at, value) in [(11, 0), (13, 3), (14, 0), (16, 0), (21, 1), (22, 0)] {
            let mut data = fat16();
            data[at] = value;
            if at == 11 {
                data[12] = 0;
            }
            assert!(probe(&Reader::new(&data)).is_none(), "byte {at} = {value}");
        }
    }
}
