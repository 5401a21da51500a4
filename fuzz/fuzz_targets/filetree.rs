//! Real XFS and Btrfs images, or a tar archive, with patches: each four bytes of place, one of
//! length, then the bytes. `BRADAWL_TREE` names an unpacked image; the tests of
//! the crate `filetree` have them packed.

#![no_main]

use bradawl_facts::probe::Bytes;
use bradawl_filetree::{Btrfs, FileTree, Tar, Xfs};
use libfuzzer_sys::fuzz_target;
use std::sync::OnceLock;

struct Patched {
    whole: &'static [u8],
    patches: Vec<(usize, Vec<u8>)>,
}

impl Bytes for Patched {
    fn size(&self) -> u64 {
        self.whole.len() as u64
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> std::io::Result<usize> {
        let from = offset as usize;
        buffer.copy_from_slice(&self.whole[from..from + buffer.len()]);
        for (at, bytes) in &self.patches {
            for (n, byte) in bytes.iter().enumerate() {
                if let Some(there) = (at + n).checked_sub(from).and_then(|i| buffer.get_mut(i)) {
                    *there = *byte;
                }
            }
        }
        Ok(buffer.len())
    }
}

fn image() -> &'static [u8] {
    static IMAGE: OnceLock<Vec<u8>> = OnceLock::new();
    IMAGE.get_or_init(|| std::fs::read(std::env::var("BRADAWL_TREE").unwrap()).unwrap())
}

/// Where bytes are that are not zero: there patches matter.
fn places() -> &'static [usize] {
    static PLACES: OnceLock<Vec<usize>> = OnceLock::new();
    PLACES.get_or_init(|| image().iter().enumerate().filter(|(_, b)| **b != 0).map(|(n, _)| n).collect())
}

fuzz_target!(|data: &[u8]| {
    let mut patches = Vec::new();
    let mut rest = data;
    while let [a, b, c, d, length, tail @ ..] = rest {
        let n = u32::from_be_bytes([*a, *b, *c, *d]) as usize % places().len();
        let length = usize::from(*length % 16).min(tail.len());
        patches.push((places()[n], tail[..length].to_vec()));
        rest = &tail[length..];
    }
    let patched = || Box::new(Patched { whole: image(), patches: patches.clone() });
    let tree: Box<dyn FileTree> = match (Xfs::open(patched()), Btrfs::open(patched()), Tar::open(patched())) {
        (Ok(fs), ..) => Box::new(fs),
        (_, Ok(fs), _) => Box::new(fs),
        (.., Ok(fs)) => Box::new(fs),
        _ => return,
    };
    for path in ["/", "/etc/fstab", "/bin/name", "/huge/x", "/wide/x", "/srv/pieces", "/srv/lines", "/far"] {
        let _ = (tree.stat(path), tree.read(path, 1 << 20), tree.list(path, 100), tree.canonical(path));
    }
});
