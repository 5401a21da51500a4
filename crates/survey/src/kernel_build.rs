//! What the kernel was built with: its configuration from /proc, /boot or beside its
//! modules.

use crate::files::Files;
use bradawl_facts::record::KernelBuild;
use flate2::read::GzDecoder;
use std::io::Read as _;

/// No configuration is longer.
const MAX_BYTES: u64 = 4 << 20;

/// That of the running kernel.
pub(crate) fn running(files: &Files, kernel: Option<&str>) -> Option<KernelBuild> {
    const PACKED: &str = "/proc/config.gz";
    packed(files, PACKED)
        .and_then(|text| KernelBuild::parse(PACKED, &text))
        .or_else(|| installed(files, kernel?))
}

/// That of an installed kernel, by its release: `6.1.0-50-amd64`.
pub(crate) fn installed(files: &Files, release: &str) -> Option<KernelBuild> {
    if release.contains('/') {
        return None;
    }
    let places = [
        format!("/boot/config-{release}"),
        format!("/lib/modules/{release}/config"),
        format!("/usr/lib/modules/{release}/config"),
    ];
    places.iter().find_map(|path| {
        let bytes = files.read(path, MAX_BYTES).ok()?;
        KernelBuild::parse(path, &String::from_utf8_lossy(&bytes))
    })
}

fn packed(files: &Files, path: &str) -> Option<String> {
    let bytes = files.read(path, MAX_BYTES).ok()?;
    // From another host comes what decides alone, unpacked.
    if !bytes.starts_with(b"\x1f\x8b") {
        return Some(String::from_utf8_lossy(&bytes).into_owned());
    }
    let mut text = Vec::new();
    GzDecoder::new(bytes.as_slice()).take(MAX_BYTES).read_to_end(&mut text).ok()?;
    Some(String::from_utf8_lossy(&text).into_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::io::Write as _;

    #[test]
    fn the_running_kernel_comes_before_what_is_installed() {
        let dir = tempfile::tempdir().unwrap();
        for folder in ["proc", "boot", "lib/modules/6.2"] {
            std::fs::create_dir_all(dir.path().join(folder)).unwrap();
        }
        let put = |path: &str, text: &[u8]| std::fs::write(dir.path().join(path), text).unwrap();
        put("boot/config-6.1", b"# CONFIG_XFS_QUOTA is not set\n");
        put("lib/modules/6.2/config", b"CONFIG_XFS_QUOTA=y\n");
        let files = Files::own(dir.path().to_owned());
        let says = |release: &str| running(&files, Some(release)).map(|b| (b.has("XFS_QUOTA"), b.from));
        assert_eq!(says("6.1"), Some((Some(false), "/boot/config-6.1".to_owned())));
        assert_eq!(says("6.2"), Some((Some(true), "/lib/modules/6.2/config".to_owned())));
        assert_eq!((says("6.3"), says("../boot/config-6.1")), (None, None));
        let mut gzip = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
        gzip.write_all(b"CONFIG_XFS_QUOTA=m\n").unwrap();
        put("proc/config.gz", &gzip.finish().unwrap());
        assert_eq!(says("6.1"), Some((Some(true), "/proc/config.gz".to_owned())));
        put("proc/config.gz", b"not packed");
        assert_eq!(says("6.1").unwrap().0, Some(false));
    }
}
