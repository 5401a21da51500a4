//! LUKS1 and LUKS2. Layout: the LUKS on-disk format specifications.

use super::{Block, Found, Reader, found, set_label};
use crate::record::{Content, ContentKind};

/// Where the second header of LUKS2 stands, by the size of the first.
const SECOND: [u64; 9] =
    [0x4000, 0x8000, 0x10000, 0x20000, 0x40000, 0x80000, 0x10_0000, 0x20_0000, 0x40_0000];

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let header = reader.at(0, 512)?;
    if header.has(0, b"LUKS\xba\xbe") {
        return match header.u16be(6)? {
            1 => luks1(&header),
            2 => luks2(&header, 0),
            _ => None,
        };
    }
    SECOND.into_iter().find_map(|offset| {
        let header = reader.at(offset, 512)?;
        let mut second = luks2(&header, offset).filter(|_| header.has(0, b"SKUL\xba\xbe"))?;
        second.content.damaged = Some("the first header is gone; this is the second".to_owned());
        Some(second)
    })
}

fn luks1(header: &Block) -> Option<Found> {
    let mut content = Content::new(ContentKind::Encrypted, Some("LUKS1"));
    content.version = Some("1".to_owned());
    content.uuid = text(header.cstr(168, 40)?);
    found(0, content)
}

fn luks2(header: &Block, offset: u64) -> Option<Found> {
    let size = header.u64be(8)?;
    // The header says where it stands and how large it is with its JSON area.
    if header.u16be(6)? != 2 || header.u64be(256)? != offset || !(0x4000..=0x40_0000).contains(&size) {
        return None;
    }
    let mut content = Content::new(ContentKind::Encrypted, Some("LUKS2"));
    content.version = Some("2".to_owned());
    content.uuid = text(header.cstr(168, 40)?);
    set_label(&mut content, header.cstr(24, 48)?);
    found(offset, content)
}

fn text(bytes: &[u8]) -> Option<String> {
    (!bytes.is_empty()).then(|| String::from_utf8_lossy(bytes).into_owned())
}
