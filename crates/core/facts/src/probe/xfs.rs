//! XFS: a big-endian superblock at 0. Layout: "XFS Algorithms & Data
//! Structures", superblock.

use super::features::{XFS_INCOMPAT, XFS_RO_COMPAT, names};
use super::{Found, Reader, crc32c, found, set_label};
use crate::record::{Content, ContentKind};

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(0, 512)?;
    if !sb.has(0, b"XFSB") {
        return None;
    }
    let block_size = u64::from(sb.u32be(4)?);
    let version = sb.u16be(100)? & 0xf;
    let sound = block_size.is_power_of_two() && (512..=65536).contains(&block_size);
    if !sound || !(1..=5).contains(&version) {
        return None;
    }
    let mut content = Content::new(ContentKind::Filesystem, Some("xfs"));
    content.uuid = sb.uuid(32);
    set_label(&mut content, sb.cstr(108, 12)?);
    content.version = Some(version.to_string());
    content.block_size = Some(block_size);
    content.size = sb.u64be(8)?.checked_mul(block_size);
    if version == 5 {
        content.features = names(u64::from(sb.u32be(212)?), XFS_RO_COMPAT);
        content.features.extend(names(u64::from(sb.u32be(216)?), XFS_INCOMPAT));
        let len = usize::from(sb.u16be(102)?).clamp(512, 4096);
        let sector = reader.at(0, len)?;
        let sum = crc32c(&[sector.bytes(0, 224)?, &[0; 4], sector.bytes(228, len - 228)?]);
        if sum != sector.u32le(224)? {
            content.damaged = Some("the checksum of the superblock is wrong".to_owned());
        }
    }
    found(0, content)
}

/// An external log: a log record's header in one of the first sectors.
pub(super) fn probe_log(reader: &Reader<'_>) -> Option<Found> {
    let start = reader.at(0, 4096)?;
    let at = (0..4096).step_by(512).find(|&at| {
        let version = start.u32be(at + 8).unwrap_or(0);
        start.u32be(at) == Some(0xfeed_babe) && (1..=2).contains(&version) && start.u32be(at + 300) == Some(1)
    })?;
    let mut content = Content::new(ContentKind::Journal, Some("xfs log"));
    content.uuid = start.uuid(at + 304);
    found(at as u64, content)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_a_superblock_and_refuses_nonsense() {
        let mut data = vec![0; 512];
        data[..4].copy_from_slice(b"XFSB");
        data[4..8].copy_from_slice(&4096u32.to_be_bytes());
        data[8..16].copy_from_slice(&1000u64.to_be_bytes());
        data[32..48].fill(0xab);
        data[100..102].copy_from_slice(&0xb4a4u16.to_be_bytes());
        data[108..120].copy_from_slice(b"twelve-bytes");
        let content = probe(&Reader::new(&data)).unwrap().content;
        assert_eq!(content.label.as_deref(), Some("twelve-bytes"));
        assert_eq!((content.version.as_deref(), content.size), (Some("4"), Some(4_096_000)));
        data[4..8].fill(0);
        assert!(probe(&Reader::new(&data)).is_none());
    }
}
