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
