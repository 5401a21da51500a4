//! One disk in every format, as the system's own tool wrote it
//! (lab/make-disk-formats.sh), read back byte for byte; and damaged ones.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_diskimage::{DiskImageError, SharedBytes, open};
use proptest::prelude::*;
use std::io::Read as _;
use std::sync::Arc;

const SIZE: usize = 20 << 20;
const FORMATS: [(&str, &str); 20] = [
    ("plain.qcow2", "qcow2"),
    ("small.qcow2", "qcow2"),
    ("zlib.qcow2", "qcow2"),
    ("zstd.qcow2", "qcow2"),
    ("parts.qcow2", "qcow2"),
    ("sparse.vmdk", "VMDK"),
    ("stream.vmdk", "VMDK"),
    ("grows.vdi", "VDI"),
    ("grows.vhd", "VHD"),
    ("fixed.vhd", "VHD"),
    ("grows.vhdx", "VHDX"),
    ("blocks.xz", "xz"),
    ("streams.xz", "xz"),
    ("inside.xz", "qcow2"),
    ("frames.zstd", "zstd"),
    ("unsized.zstd", "zstd"),
    ("members.gz", "gzip"),
    ("blocks.gz", "gzip"),
    ("parts.gz", "gzip"),
    ("one.gz", "gzip"),
];

fn fixture(name: &str) -> Vec<u8> {
    let path = format!("{}/tests/fixtures/{name}.zst", env!("CARGO_MANIFEST_DIR"));
    let packed = std::fs::read(path).unwrap();
    let mut bytes = Vec::new();
    ruzstd::decoding::StreamingDecoder::new(packed.as_slice()).unwrap().read_to_end(&mut bytes).unwrap();
    bytes
}

/// The disk as the script wrote it.
fn disk() -> Vec<u8> {
    let mut disk = vec![0; SIZE];
    for (start, length) in [(0, 5000), ((9 << 20) + 70, 150_000), (SIZE - 700, 700)] {
        for n in 0..length {
            disk[start + n] = u8::try_from((start / 7 + n * 31 + n / 251) & 255).unwrap();
        }
    }
    disk
}

#[test]
fn every_format_holds_the_same_disk() {
    let wanted = disk();
    for (name, format) in FORMATS {
        let image = open(Arc::new(fixture(name))).unwrap();
        assert_eq!(image.format, Some(format), "{name}");
        assert_eq!(image.bytes.size(), SIZE as u64, "{name}");
        let mut whole = vec![1; SIZE];
        assert_eq!(image.bytes.read_at(0, &mut whole).unwrap(), SIZE, "{name}");
        assert!(
            whole == wanted,
            "{name}: first difference at {:?}",
            whole.iter().zip(&wanted).position(|(a, b)| a != b)
        );
        // In pieces that begin and end anywhere.
        let mut piece = vec![0; 70_001];
        let at = (9 << 20) - 333;
        assert_eq!(image.bytes.read_at(at as u64, &mut piece).unwrap(), piece.len(), "{name}");
        assert!(piece == wanted[at..at + piece.len()], "{name}: a piece");
        assert_eq!(image.bytes.read_at(SIZE as u64 - 5, &mut piece).unwrap(), 5, "{name}");
    }
}

#[test]
fn what_is_not_read_is_called_by_its_name() {
    let said = |bytes: Vec<u8>| open(Arc::new(bytes)).map(|i| i.format).map_err(|e| e.to_string());
    assert_eq!(said(disk()), Ok(None));
    assert_eq!(said(Vec::new()), Ok(None));
    let layer = said(fixture("layer.qcow2")).unwrap_err();
    assert_eq!(layer, "is a qcow2 image: it is a layer over another file; make one image of them first");
    let named = [(&b"BZh9"[..], "bzip2"), (b"PK\x03\x04", "zip"), (b"QED\0", "QED")];
    for (magic, name) in named {
        let mut bytes = magic.to_vec();
        bytes.resize(4096, 7);
        assert!(said(bytes).unwrap_err().starts_with(&format!("is a {name} image: ")), "{name}");
    }
    let descriptor = b"# Disk DescriptorFile\nversion=1\nRW 4192 FLAT \"tide-flat.vmdk\" 0\n".repeat(40);
    assert!(said(descriptor).unwrap_err().contains("only names other files"));
    let mut encrypted = fixture("plain.qcow2");
    encrypted[35] = 2;
    assert!(said(encrypted).unwrap_err().contains("encrypted"));
    let mut open_log = fixture("grows.vhdx");
    for header in [0x1_0000, 0x2_0000] {
        open_log[header + 50] = 9;
    }
    assert!(said(open_log).unwrap_err().contains("was not closed"));
    // A stream's table lies at its end: one that was cut off has none.
    let mut cut = fixture("stream.vmdk");
    cut[56..64].fill(0xff);
    cut.truncate(cut.len() / 2);
    assert!(matches!(open(Arc::new(cut)), Err(DiskImageError::Damaged { format: "VMDK", .. })));
}

#[test]
fn packed_images_that_cannot_be_read_from_any_place_say_what_to_do() {
    let said = |bytes: Vec<u8>| match open(Arc::new(bytes)) {
        Ok(image) => image.bytes.read_at(0, &mut [0; 512]).unwrap_err().to_string(),
        Err(e) => e.to_string(),
    };
    // A frame that claims eight gigabytes, and holds nothing.
    let mut large = vec![0x28, 0xb5, 0x2f, 0xfd, 0xc0, 0x70];
    large.extend((8u64 << 30).to_le_bytes());
    large.extend([1, 0, 0]);
    let one = "is a zstd image: packed in one piece, it cannot be read from any place; unpack it first, or pack it \
               again with xz -T0, in blocks";
    assert_eq!(said(large.clone()), one);
    // One that claims less than is read at all is found out when it is read.
    large[6..14].copy_from_slice(&(3u64 << 30).to_le_bytes());
    assert_eq!(said(large), "a packed piece is not packed soundly");
    // A filter for programs of a processor before the packing.
    assert!(said(fixture("other.xz")).contains("packed with more than LZMA2"));
    let cut = |name: &str| {
        let mut bytes = fixture(name);
        bytes.truncate(bytes.len() - 30);
        said(bytes)
    };
    assert_eq!(cut("blocks.xz"), "is a damaged xz image: it does not end as a stream ends: it was cut off");
    assert_eq!(cut("frames.zstd"), "is a damaged zstd image: it was cut off");
    assert!(cut("blocks.gz").starts_with("is a damaged gzip image: "), "{}", cut("blocks.gz"));
}

/// Reads here and there, whatever comes of it.
fn read_all_over(bytes: Vec<u8>) {
    let file: SharedBytes = Arc::new(bytes);
    let Ok(image) = open(file) else { return };
    let size = image.bytes.size();
    let mut piece = vec![0; 5000];
    for at in [0, 4096, 9 << 20, size / 2, size.saturating_sub(700), size, u64::MAX - 9] {
        let _ = image.bytes.read_at(at, &mut piece);
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn damaged_images_never_panic(
        which in 0..FORMATS.len(),
        damage in prop::collection::vec((0usize..300_000, any::<u8>()), 1..24),
        head in prop::collection::vec((0usize..600, any::<u8>()), 0..6),
        length in prop::option::of(0usize..400_000),
    ) {
        let mut bytes = fixture(FORMATS[which].0);
        for (at, byte) in damage.into_iter().chain(head) {
            if let Some(there) = bytes.get_mut(at) {
                *there = byte;
            }
        }
        bytes.truncate(length.unwrap_or(usize::MAX));
        read_all_over(bytes);
    }
}
