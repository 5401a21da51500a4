//! bcache and bcachefs, which share the place and shape of their superblock.
//! Layout: the kernel's bcache_ondisk.h and bcachefs_format.h.

use super::{Block, Found, Reader, filesystem, found, set_label};
use crate::record::{Content, ContentKind};

const BCACHE: [u8; 16] =
    [0xc6, 0x85, 0x73, 0xf6, 0x4e, 0x1a, 0x45, 0xca, 0x82, 0x65, 0xf5, 0x7f, 0x48, 0xba, 0x6d, 0x81];
const BCACHEFS: [u8; 16] =
    [0xc6, 0x85, 0x73, 0xf6, 0x66, 0xce, 0x90, 0xa9, 0xd9, 0x6a, 0x60, 0xcf, 0x80, 0x3d, 0xf7, 0xef];
const OFFSET: u64 = 4096;

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let sb = superblock(reader, &BCACHE)?;
    let role = match sb.u64le(16)? {
        1 | 4 | 6 => "backing",
        0 | 3 | 5 => "cache",
        _ => return None,
    };
    let mut content = Content::new(ContentKind::CacheMember, Some("bcache"));
    content.uuid = sb.uuid(40);
    content.set_uuid = sb.uuid(56);
    set_label(&mut content, sb.cstr(72, 32)?);
    content.state = Some(format!("{role} device"));
    found(OFFSET, content)
}

pub(super) fn probe_bcachefs(reader: &Reader<'_>) -> Option<Found> {
    // bcachefs began with the magic of bcache and versions from 10 on.
    let sb = superblock(reader, &BCACHEFS)
        .or_else(|| superblock(reader, &BCACHE).filter(|sb| sb.u16le(16).is_some_and(|v| v >= 10)))?;
    let mut content = filesystem("bcachefs");
    content.uuid = sb.uuid(56);
    set_label(&mut content, sb.cstr(72, 32)?);
    content.block_size = sb.u16le(120).map(|sectors| u64::from(sectors) * 512);
    content.num_devices = sb.u8(123).map(u64::from);
    content.version = sb.u16le(16).map(|v| format!("{}.{}", v >> 10, v & 0x3ff));
    found(OFFSET, content)
}

/// The superblock when it carries the magic and says that it stands here.
fn superblock(reader: &Reader<'_>, magic: &[u8; 16]) -> Option<Block> {
    let sb = reader.at(OFFSET, 512)?;
    let offset = if magic == &BCACHE { sb.u64le(8)? } else { sb.u64le(104)? };
    (sb.has(24, magic) && offset == OFFSET / 512).then_some(sb)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn image(magic: &[u8; 16], put: &[(usize, u64)]) -> Vec<u8> {
        let mut data = vec![0; 8192];
        let sb = &mut data[4096..];
        sb[24..40].copy_from_slice(magic);
        sb[40..72].fill(0xb1);
        sb[72..77].copy_from_slice(b"tides");
        for (at, value) in put {
            sb[*at..at + 8].copy_from_slice(&value.to_le_bytes());
        }
        data
    }

    #[test]
    fn roles_of_a_cache_set() {
        for (version, role) in [(0, "cache device"), (1, "backing device"), (4, "backing device")] {
            let content = probe(&Reader::new(&image(&BCACHE, &[(8, 8), (16, version)]))).unwrap().content;
            assert_eq!(content.state.as_deref(), Some(role));
        }
        assert!(probe(&Reader::new(&image(&BCACHE, &[(8, 9), (16, 1)]))).is_none());
    }

    #[test]
    fn bcachefs_says_where_it_stands() {
        let found = probe_bcachefs(&Reader::new(&image(&BCACHEFS, &[(104, 8), (16, 1 << 10 | 3)])));
        let content = found.unwrap().content;
        assert_eq!((content.label.as_deref(), content.version.as_deref()), (Some("tides"), Some("1.3")));
        assert!(probe_bcachefs(&Reader::new(&image(&BCACHEFS, &[(104, 9)]))).is_none());
    }
}
