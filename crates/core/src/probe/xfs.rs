//! XFS: a big-endian superblock at 0. Layout: "XFS Algorithms & Data
//! Structures", superblock.

use super::{Reader, set_label};
use crate::record::{Content, ContentKind};

pub(super) fn probe(reader: &Reader<'_>) -> Option<Content> {
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
    Some(content)
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
        data[100..102].copy_from_slice(&0xb4a5u16.to_be_bytes());
        data[108..120].copy_from_slice(b"twelve-bytes");
        let content = probe(&Reader::new(&data)).unwrap();
        assert_eq!(content.label.as_deref(), Some("twelve-bytes"));
        assert_eq!((content.version.as_deref(), content.size), (Some("5"), Some(4_096_000)));
        data[4..8].fill(0);
        assert!(probe(&Reader::new(&data)).is_none());
    }
}
