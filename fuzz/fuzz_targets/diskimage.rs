//! Real disk images in the formats of virtual machines with patches: each four bytes of place, one of length, then the
//! bytes. `BRADAWL_TREE` names an unpacked image; the tests of the crate `diskimage` have them packed.

#![no_main]

use libfuzzer_sys::fuzz_target;
use std::sync::{Arc, OnceLock};

fn image() -> &'static [u8] {
    static IMAGE: OnceLock<Vec<u8>> = OnceLock::new();
    IMAGE.get_or_init(|| std::fs::read(std::env::var("BRADAWL_TREE").unwrap()).unwrap())
}

fuzz_target!(|data: &[u8]| {
    let mut bytes = image().to_vec();
    let mut rest = data;
    while let [a, b, c, d, length, tail @ ..] = rest {
        let at = u32::from_le_bytes([*a, *b, *c, *d]) as usize % bytes.len().max(1);
        let (patch, next) = tail.split_at(tail.len().min(usize::from(*length)));
        let end = bytes.len().min(at + patch.len());
        bytes[at..end].copy_from_slice(&patch[..end - at]);
        rest = next;
    }
    let Ok(image) = bradawl_diskimage::open(Arc::new(bytes)) else { return };
    let size = image.bytes.size();
    let mut piece = vec![0; 70_000];
    for at in [0, 1 << 20, size / 2, size.saturating_sub(9), u64::MAX - 9] {
        let _ = image.bytes.read_at(at, &mut piece);
    }
});
