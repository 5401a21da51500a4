//! HFS+ and HFSX. Layout: Apple's Technical Note TN1150. The identity is made
//! from the eight bytes that the volume header keeps, as a UUID of version 3.

use super::{Found, Reader, filesystem, found, set_utf16_label, utf16be};

const NAMESPACE: uuid::Uuid = uuid::uuid!("b3e20f39-f292-11d6-97a4-00306543ecac");

pub(super) fn probe(reader: &Reader<'_>) -> Option<Found> {
    let header = reader.at(1024, 512)?;
    let version = match () {
        () if header.has(0, b"H+") => 4,
        () if header.has(0, b"HX") => 5,
        () => return None,
    };
    let block = u64::from(header.u32be(40)?);
    if header.u16be(2)? != version || !block.is_power_of_two() || block < 512 {
        return None;
    }
    let mut content = filesystem("hfsplus");
    content.version = Some(version.to_string());
    content.block_size = Some(block);
    content.size = u64::from(header.u32be(44)?).checked_mul(block);
    let id = header.bytes(104, 8)?;
    content.uuid = (id != [0; 8]).then(|| uuid::Uuid::new_v3(&NAMESPACE, id).hyphenated().to_string());
    if let Some(name) = name(reader, block, u64::from(header.u32be(288)?)) {
        set_utf16_label(&mut content, utf16be(&name));
    }
    found(1024, content)
}

/// The volume's name: the first key of the catalogue's first leaf, whose
/// parent is the root's parent.
fn name(reader: &Reader<'_>, block: u64, catalogue: u64) -> Option<Vec<u8>> {
    let start = catalogue.checked_mul(block)?;
    let head = reader.at(start, 64)?;
    let (leaf, size) = (u64::from(head.u32be(24)?), u64::from(head.u16be(32)?));
    let node = reader.at(start.checked_add(leaf.checked_mul(size)?)?, 1024)?;
    let is_leaf = node.u8(8)? == 0xff;
    let length = usize::from(node.u16be(20)?);
    (is_leaf && node.u32be(16)? == 1 && length <= 255).then_some(())?;
    node.bytes(22, 2 * length).map(<[u8]>::to_vec)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn name_and_identity() {
        let mut data = vec![0; 64 << 10];
        let header = &mut data[1024..];
        header[..4].copy_from_slice(&[b'H', b'+', 0, 4]);
        header[40..44].copy_from_slice(&4096u32.to_be_bytes());
        header[44..48].copy_from_slice(&16u32.to_be_bytes());
        header[104..112].copy_from_slice(&[1, 2, 3, 4, 5, 6, 7, 8]);
        header[288..292].copy_from_slice(&2u32.to_be_bytes());
        // The catalogue at block 2: its header node names leaf 1 of 4096 bytes.
        data[8192 + 24..8192 + 28].copy_from_slice(&1u32.to_be_bytes());
        data[8192 + 32..8192 + 34].copy_from_slice(&4096u16.to_be_bytes());
        let leaf = &mut data[12288..];
        leaf[8] = 0xff;
        leaf[16..20].copy_from_slice(&1u32.to_be_bytes());
        leaf[20..26].copy_from_slice(&[0, 2, 0, b'h', 0, b'i']);
        let content = probe(&Reader::new(&data)).unwrap().content;
        assert_eq!((content.label.as_deref(), content.size), (Some("hi"), Some(65536)));
        // As Python's uuid.uuid3 makes it from the same namespace and bytes.
        assert_eq!(content.uuid.as_deref().map(|u| &u[14..15]), Some("3"));
    }
}
