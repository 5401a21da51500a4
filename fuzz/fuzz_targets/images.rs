//! Real images of the disks of one host, with patches where something stands in them: a byte for the image, four of place,
//! one of length, then the bytes. `BRADAWL_IMAGES` names unpacked images, parted by commas, which are copied first; the tests
//! of the crate `survey` have them packed (volumes.tar.zst, arrays.tar.zst).

#![no_main]

use bradawl_survey::Survey;
use libfuzzer_sys::fuzz_target;
use std::fs::File;
use std::os::unix::fs::FileExt as _;
use std::path::PathBuf;
use std::sync::OnceLock;

struct Image {
    path: PathBuf,
    file: File,
    bytes: Vec<u8>,
    /// Where it is not zero.
    used: Vec<usize>,
}

fn images() -> &'static [Image] {
    static IMAGES: OnceLock<Vec<Image>> = OnceLock::new();
    IMAGES.get_or_init(|| {
        let folder = std::env::temp_dir().join(format!("images-{}", std::process::id()));
        std::fs::create_dir_all(&folder).unwrap();
        let named = std::env::var("BRADAWL_IMAGES").unwrap();
        let copy = |(n, from): (usize, &str)| {
            let path = folder.join(format!("{n}.img"));
            std::fs::copy(from, &path).unwrap();
            let bytes = std::fs::read(&path).unwrap();
            let used = (0..bytes.len()).filter(|at| bytes[*at] != 0).collect();
            let file = File::options().write(true).open(&path).unwrap();
            Image { path, file, bytes, used }
        };
        named.split(',').enumerate().map(copy).collect()
    })
}

fuzz_target!(|data: &[u8]| {
    let images = images();
    let mut patched = Vec::new();
    let mut rest = data;
    while let [which, a, b, c, d, length, tail @ ..] = rest {
        let image = &images[usize::from(*which) % images.len()];
        let at = image.used[u32::from_le_bytes([*a, *b, *c, *d]) as usize % image.used.len()];
        let (patch, next) = tail.split_at(tail.len().min(usize::from(*length)));
        let end = image.bytes.len().min(at + patch.len());
        image.file.write_all_at(&patch[..end - at], at as u64).unwrap();
        patched.push((image, at, end));
        rest = next;
    }
    let paths: Vec<PathBuf> = images.iter().map(|image| image.path.clone()).collect();
    let _ = Survey::default().images(&paths);
    for (image, at, end) in patched {
        image.file.write_all_at(&image.bytes[at..end], at as u64).unwrap();
    }
});
