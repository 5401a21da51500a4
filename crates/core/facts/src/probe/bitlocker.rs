//! BitLocker: a boot sector with its own name, and a block of metadata.
//! Layout as described by the libbde project's format documentation.

use super::{Found, Reader, found};
use crate::record::{Content, ContentKind};

/// Identifiers of a volume's boot sector: Windows 7 and later, used space only.
const IDS: [[u8; 16]; 2] = [
    [0x3b, 0xd6, 0x67, 0x49, 0x29, 0x2e, 0xd8, 0x4a, 0x83, 0x99, 0xf6, 0xa3, 0x39, 0xe3, 0xd0, 0x01],
    [0x3b, 0x4d, 0xa8, 0x92, 0x80, 0xdd, 0x0e, 0x4d, 0x9e, 0x4e, 0xb1, 0xe3, 0x28, 0x4e, 0xae, 0xd8],
];

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let boot = reader.at(0, 512)?;
    let fixed = boot.has(3, b"-FVE-FS-");
    let at = |place: usize| IDS.iter().any(|id| boot.has(place, id));
    let metadata = match () {
        () if at(160) => boot.u64le(176),
        () if boot.has(3, b"MSWIN4.1") && at(424) => boot.u64le(440),
        () if fixed => None,
        () => return None,
    };
    let mut content = Content::new(ContentKind::Encrypted, Some("BitLocker"));
    if let Some(block) = metadata.and_then(|offset| reader.at(offset, 112))
        && block.has(0, b"-FVE-FS-")
    {
        content.version = block.u16le(10).map(|v| v.to_string());
        let id = block.bytes(64 + 16, 16).and_then(|b| b.try_into().ok());
        content.uuid = id.map(|id| uuid::Uuid::from_bytes_le(id).hyphenated().to_string());
    }
    found(0, content)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_volume_and_its_metadata() {
        let mut data = vec![0; 16 << 10];
        data[3..11].copy_from_slice(b"-FVE-FS-");
        data[160..176].copy_from_slice(&IDS[0]);
        data[176..184].copy_from_slice(&8192u64.to_le_bytes());
        data[8192..8200].copy_from_slice(b"-FVE-FS-");
        data[8202] = 2;
        data[8192 + 80..8192 + 96].fill(0x5e);
        let content = probe(&Reader::new(&data)).unwrap().content;
        assert_eq!((content.fstype.as_deref(), content.version.as_deref()), (Some("BitLocker"), Some("2")));
        assert!(content.uuid.unwrap().starts_with("5e5e5e5e-"));
        data[3] = b'x';
        data[160] = 0;
        assert!(probe(&Reader::new(&data)).is_none());
    }
}
