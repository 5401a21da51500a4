//! The file systems that `lab/make-trees.sh` had real kernels write.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_facts::probe::Bytes;
use bradawl_filetree::{Btrfs, FileKind, FileTree, Meta, Tar, TreeError, Xfs};
use proptest::prelude::*;
use std::io::Read as _;
use std::path::Path;
use std::sync::OnceLock;

type Shared = Box<dyn Bytes + Send + Sync>;

fn image(name: &str) -> Vec<u8> {
    let path = Path::new(env!("CARGO_MANIFEST_DIR")).join(format!("tests/fixtures/{name}.img.zst"));
    let packed = std::fs::read(path).unwrap();
    let mut bytes = Vec::new();
    ruzstd::decoding::StreamingDecoder::new(packed.as_slice()).unwrap().read_to_end(&mut bytes).unwrap();
    bytes
}

fn open(name: &str, bytes: Shared) -> Result<Box<dyn FileTree>, TreeError> {
    Ok(match name {
        _ if name.starts_with("xfs") => Box::new(Xfs::open(bytes)?),
        "btrfs-subvolumes" => Box::new(Btrfs::open(bytes)?.from_subvolume("@")?),
        _ => Box::new(Btrfs::open(bytes)?),
    })
}

fn tree(name: &str) -> Box<dyn FileTree> {
    open(name, Box::new(image(name))).unwrap()
}

const FULL: [&str; 5] = ["xfs-v5", "xfs-small-blocks", "btrfs-plain", "btrfs-subvolumes", "btrfs-default"];

fn lines() -> String {
    (1..=40000).map(|n| format!("{n}\n")).collect()
}

#[test]
fn files_are_read_as_they_were_written() {
    for name in FULL {
        let tree = tree(name);
        let read = |path: &str| tree.read(path, 4 << 20);
        assert_eq!(read("/etc/hostname").unwrap(), b"gannet\n", "{name}");
        assert!(read("/etc/fstab").unwrap().starts_with(b"LABEL=hull / auto"), "{name}");
        assert_eq!(String::from_utf8(read("/srv/lines").unwrap()).unwrap(), lines(), "{name}");
        let mut holes = vec![0; 1 << 20];
        holes[500_000..500_004].copy_from_slice(b"tide");
        assert!(read("/srv/holes").unwrap() == holes, "{name}");
        let pieces = read("/srv/pieces").unwrap();
        let at = |n: usize| pieces[n * 4096..n * 4096 + 4].to_vec();
        assert!((0..=300).step_by(2).all(|n| at(n) == format!("{n:04}").as_bytes()), "{name}");
        assert_eq!(at(1), [0; 4], "{name}");
    }
}

#[test]
fn links_and_refusals() {
    for name in FULL {
        let tree = tree(name);
        let canonical = |path: &str| tree.canonical(path);
        assert_eq!(canonical("/bin/name").unwrap(), "/etc/hostname", "{name}");
        assert_eq!(canonical("/srv/conf/../usr/bin").unwrap(), "/usr/bin", "{name}");
        assert_eq!(canonical("/../etc/./hostname").unwrap(), "/etc/hostname", "{name}");
        assert_eq!(tree.link("/far").unwrap().len(), 603, "{name}");
        for (path, error) in [
            ("/far", TreeError::NotFound),
            ("/etc/none", TreeError::NotFound),
            ("/loop-a", TreeError::TooManyLinks),
            ("/etc/hostname/x", TreeError::NotADirectory),
        ] {
            assert_eq!(tree.stat(path).unwrap_err(), error, "{name} {path}");
        }
        assert_eq!(tree.read("/srv/lines", 100), Err(TreeError::TooLarge), "{name}");
        assert_eq!(tree.read("/srv/pipe", 100), Err(TreeError::NotRegular), "{name}");
        assert_eq!(tree.list("/etc/hostname", 10), Err(TreeError::NotADirectory), "{name}");
    }
}

#[test]
fn directories_of_every_size() {
    for name in FULL {
        let tree = tree(name);
        assert_eq!(tree.list("/wide", 1000).unwrap().len(), 60, "{name}");
        let huge = tree.list("/huge", 10_000).unwrap();
        assert_eq!(huge.len(), 3000, "{name}");
        assert!(huge.contains(&b"a-rather-long-name-for-a-file-2999".to_vec()), "{name}");
        assert_eq!(tree.list("/huge", 7).unwrap().len(), 7, "{name}");
        assert!(tree.stat("/huge/a-rather-long-name-for-a-file-1234").is_ok(), "{name}");
        assert_eq!(tree.stat("/huge/a-rather").unwrap_err(), TreeError::NotFound, "{name}");
    }
}

#[test]
fn owners_and_modes() {
    for name in FULL {
        let tree = tree(name);
        let init = Meta { kind: FileKind::Regular, mode: 0o4755, uid: 0, size: 10 };
        assert_eq!(tree.stat("/bin/init").unwrap(), init, "{name}");
        let tides = tree.stat("/srv/tides").unwrap();
        assert_eq!((tides.kind, tides.mode, tides.uid), (FileKind::Directory, 0o1777, 1000), "{name}");
        assert_eq!(tree.stat("/srv/pipe").unwrap().kind, FileKind::Other, "{name}");
        assert_eq!(tree.stat("/").unwrap().kind, FileKind::Directory, "{name}");
    }
}

#[test]
fn the_old_version_of_xfs() {
    let tree = tree("xfs-v4");
    assert!(tree.read("/etc/fstab", 100).unwrap().starts_with(b"LABEL=hull"));
    assert_eq!(String::from_utf8(tree.read("/srv/lines", 1 << 20).unwrap()).unwrap(), lines());
    assert_eq!(tree.canonical("/srv/conf/fstab").unwrap(), "/etc/fstab");
    assert_eq!(tree.list("/huge", 1000).unwrap().len(), 300);
}

#[test]
fn subvolumes_are_directories_and_roots() {
    let top = Btrfs::open(Box::new(image("btrfs-subvolumes"))).unwrap();
    let mut names = top.list("/", 10).unwrap();
    names.sort();
    assert_eq!(names, [&b"@"[..], b"@home", b"before"]);
    assert_eq!(top.read("/@/var/word", 10).unwrap(), b"kelp\n");
    assert_eq!(top.read("/before/etc/hostname", 10).unwrap(), b"gannet\n");
    // What was a subvolume below is an empty directory in a snapshot.
    assert!(top.list("/before/var", 10).unwrap().is_empty());
    assert_eq!(top.read("/before/var/word", 10), Err(TreeError::NotFound));
    assert!(top.from_subvolume("@none").is_err());
}

/// Those that are damaged on purpose, unpacked once.
fn small(name: &'static str) -> &'static [u8] {
    static IMAGES: OnceLock<Vec<(&str, Vec<u8>)>> = OnceLock::new();
    let all = IMAGES
        .get_or_init(|| ["xfs-v5", "btrfs-default"].into_iter().map(|name| (name, image(name))).collect());
    &all.iter().find(|(n, _)| *n == name).unwrap().1
}

/// An image with some of its bytes changed.
struct Hurt {
    whole: &'static [u8],
    changes: Vec<(u64, u8)>,
}

impl Bytes for Hurt {
    fn size(&self) -> u64 {
        self.whole.len() as u64
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> std::io::Result<usize> {
        let from = usize::try_from(offset).unwrap();
        buffer.copy_from_slice(&self.whole[from..from + buffer.len()]);
        for (at, byte) in &self.changes {
            if let Some(at) = at.checked_sub(offset).and_then(|at| usize::try_from(at).ok())
                && let Some(there) = buffer.get_mut(at)
            {
                *there = *byte;
            }
        }
        Ok(buffer.len())
    }
}

fn look_everywhere(name: &str, bytes: Shared) {
    let Ok(tree) = open(name, bytes) else { return };
    for path in ["/", "/etc/fstab", "/bin/name", "/huge/x", "/wide/x", "/srv/pieces", "/srv/lines", "/far"] {
        let _ = tree.stat(path);
        let _ = tree.read(path, 1 << 20);
        let _ = tree.list(path, 100);
    }
}

/// Offsets that matter: where bytes are that are not zero.
fn places(name: &'static str) -> &'static [u64] {
    static PLACES: OnceLock<Vec<(&str, Vec<u64>)>> = OnceLock::new();
    let all = PLACES.get_or_init(|| {
        let of = |name| {
            let bytes = small(name).iter().enumerate();
            bytes.filter(|(_, b)| **b != 0).map(|(at, _)| at as u64).collect()
        };
        ["xfs-v5", "btrfs-default"].into_iter().map(|name| (name, of(name))).collect()
    });
    &all.iter().find(|(n, _)| *n == name).unwrap().1
}

/// An archive of a few files, by the packers' own rules.
fn archive() -> Vec<u8> {
    let mut archive = Vec::new();
    for (name, kind, link) in [
        ("etc/", b'5', ""),
        ("etc/fstab", b'0', ""),
        ("etc/twin", b'1', "etc/fstab"),
        ("bin", b'2', "usr/bin"),
    ] {
        let mut header = vec![0; 512];
        header[..name.len()].copy_from_slice(name.as_bytes());
        header[124..135].copy_from_slice(b"00000000006");
        header[156] = kind;
        header[157..157 + link.len()].copy_from_slice(link.as_bytes());
        header[257..262].copy_from_slice(b"ustar");
        seal(&mut header);
        archive.extend(header);
        if kind == b'0' {
            archive.extend(b"tides\n");
            archive.resize(archive.len().next_multiple_of(512), 0);
        }
    }
    archive
}

/// Writes the sum of a header into it.
fn seal(header: &mut [u8]) {
    header[148..156].copy_from_slice(b"        ");
    let sum: u32 = header.iter().map(|b| u32::from(*b)).sum();
    header[148..154].copy_from_slice(format!("{sum:06o}").as_bytes());
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(256))]

    #[test]
    fn damaged_archives_do_no_harm(
        changes in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..24),
    ) {
        let mut bytes = archive();
        for (at, byte) in changes {
            let at = at.index(bytes.len());
            bytes[at] = byte;
            // Sums are made right again, so that what is behind them is read.
            let header = at / 512 * 512;
            seal(&mut bytes[header..header + 512]);
        }
        if let Ok(tar) = Tar::open(Box::new(bytes)) {
            for path in ["/", "/etc", "/etc/fstab", "/etc/twin", "/bin/x"] {
                let _ = (tar.stat(path), tar.read(path, 1 << 20), tar.list(path, 100), tar.canonical(path), tar.link(path));
            }
        }
    }

    #[test]
    fn damaged_ones_do_no_harm(
        which in prop::sample::select(vec!["xfs-v5", "btrfs-default"]),
        changes in prop::collection::vec((any::<prop::sample::Index>(), any::<u8>()), 1..24),
    ) {
        let places = places(which);
        let changes = changes.into_iter().map(|(at, byte)| (places[at.index(places.len())], byte)).collect();
        look_everywhere(which, Box::new(Hurt { whole: small(which), changes }));
    }
}
