//! dm-verity's tree of hashes and dm-integrity's superblock. Layout:
//! cryptsetup's documentation of both formats.

use super::{Found, Reader, found};
use crate::record::{Content, ContentKind};

pub(super) fn probe_verity(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(0, 512)?;
    if !sb.has(0, b"verity\0\0") || sb.u32le(8)? != 1 {
        return None;
    }
    let mut content = Content::new(ContentKind::Verity, Some("dm-verity hash"));
    content.version = Some("1".to_owned());
    content.uuid = sb.uuid(16);
    found(0, content)
}

pub(super) fn probe_integrity(reader: &Reader<'_>) -> Option<Found> {
    let sb = reader.at(0, 512)?;
    if !sb.has(0, b"integrt\0") {
        return None;
    }
    let mut content = Content::new(ContentKind::Integrity, Some("dm-integrity"));
    content.version = sb.u8(8).map(|v| v.to_string());
    found(0, content)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn integrity_by_its_mark() {
        let mut data = vec![0; 512];
        data[..8].copy_from_slice(b"integrt\0");
        data[8] = 5;
        let content = probe_integrity(&Reader::new(&data)).unwrap().content;
        assert_eq!((content.kind, content.version.as_deref()), (ContentKind::Integrity, Some("5")));
        assert!(probe_verity(&Reader::new(&data)).is_none());
    }
}
