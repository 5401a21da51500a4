//! Images as the makers of an initramfs pack them, in every order and compression
//! that is read, and damaged ones.

#![allow(clippy::unwrap_used, missing_docs)]

use bradawl_facts::record::{EarlyMount, Initramfs, InitramfsImage};
use bradawl_initramfs::{InitramfsError, read};
use proptest::prelude::*;
use std::io::Write as _;

const FILE: u32 = 0o100_755;
const LINK: u32 = 0o120_777;

/// An archive of files: inode, mode, path, content.
fn archive(files: &[(u32, u32, &str, &[u8])]) -> Vec<u8> {
    let mut out = Vec::new();
    let trailer = [(0, 0, "TRAILER!!!", &b""[..])];
    for (inode, mode, name, content) in files.iter().chain(&trailer) {
        let (size, length) = (content.len(), name.len() + 1);
        write!(out, "070701{inode:08x}{mode:08x}").unwrap();
        for field in [0, 0, 1, 0, size, 0, 0, 0, 0, length, 0] {
            write!(out, "{field:08x}").unwrap();
        }
        for bytes in [name.as_bytes(), &[0], content] {
            out.extend(bytes);
            if bytes != name.as_bytes() {
                out.resize(out.len().next_multiple_of(4), 0);
            }
        }
    }
    out.resize(out.len().next_multiple_of(512), 0);
    out
}

fn gzip(bytes: &[u8]) -> Vec<u8> {
    let mut packed = flate2::write::GzEncoder::new(Vec::new(), flate2::Compression::fast());
    packed.write_all(bytes).unwrap();
    packed.finish().unwrap()
}

fn zstd(bytes: &[u8]) -> Vec<u8> {
    ruzstd::encoding::compress_to_vec(bytes, ruzstd::encoding::CompressionLevel::Fastest)
}

fn lz4(bytes: &[u8]) -> Vec<u8> {
    let mut out = 0x184c_2102_u32.to_le_bytes().to_vec();
    for block in bytes.chunks(8 << 20) {
        let packed = lz4_flex::block::compress(block);
        out.extend(u32::try_from(packed.len()).unwrap().to_le_bytes());
        out.extend(packed);
    }
    out
}

fn xz(bytes: &[u8]) -> Vec<u8> {
    let mut packed = lzma_rust2::XzWriter::new(Vec::new(), lzma_rust2::XzOptions::with_preset(1)).unwrap();
    packed.write_all(bytes).unwrap();
    packed.finish().unwrap()
}

fn lzma(bytes: &[u8]) -> Vec<u8> {
    let options = lzma_rust2::LzmaOptions::with_preset(1);
    let mut packed = lzma_rust2::LzmaWriter::new_use_header(Vec::new(), &options, None).unwrap();
    packed.write_all(bytes).unwrap();
    packed.finish().unwrap()
}

/// Microcode, as it comes before the rest.
fn microcode() -> Vec<u8> {
    archive(&[(1, FILE, "kernel/x86/microcode/GenuineIntel.bin", &[7; 3000])])
}

fn debian(mount: &[(u32, u32, &str, &[u8])]) -> Vec<u8> {
    let mut files: Vec<(u32, u32, &str, &[u8])> = vec![
        (2, FILE, "conf/initramfs.conf", b"MODULES=most\nRESUME=none\n"),
        (3, FILE, "conf/conf.d/resume", b"RESUME=UUID=5d0c\n"),
        (4, FILE, "./scripts/functions", b"# mount\n"),
        (5, FILE, "cryptroot/crypttab", b"tides UUID=ab none luks,discard\n"),
        (6, FILE, "usr/sbin/cryptsetup", b"x"),
    ];
    files.extend(mount);
    archive(&files)
}

#[test]
fn every_compression_and_order_is_read() {
    let klibc = [0_u8; 9984];
    let plain = debian(&[(8, FILE, "usr/bin/mount", &klibc)]);
    let images = [
        plain.clone(),
        gzip(&plain),
        zstd(&plain),
        lz4(&plain),
        xz(&plain),
        lzma(&plain),
        [microcode(), xz(&plain)].concat(),
        [microcode(), zstd(&plain)].concat(),
        [microcode(), microcode(), vec![0; 4096], gzip(&plain)].concat(),
        [plain.clone(), vec![0; 1024]].concat(),
    ];
    for (n, bytes) in images.iter().enumerate() {
        let image = read(bytes.as_slice()).unwrap();
        assert_eq!(image.made_by, Some(Initramfs::InitramfsTools), "{n}");
        assert_eq!(image.mount, Some(EarlyMount::Klibc), "{n}");
        assert_eq!(image.resume.as_deref(), Some("UUID=5d0c"), "{n}");
        assert_eq!((image.finds.as_slice(), image.systemd), (["crypt".to_owned()].as_slice(), false), "{n}");
        assert_eq!(image.crypttab.unwrap()[0].name, "tides", "{n}");
    }
}

#[test]
fn the_mount_program_is_told_by_what_it_is() {
    let (small, large) = ([0_u8; 9984], [0_u8; 60_000]);
    for (files, expected) in [
        (vec![(8, FILE, "usr/bin/mount", &small[..])], EarlyMount::Klibc),
        (vec![(8, FILE, "bin/mount", &large[..])], EarlyMount::UtilLinux),
        // One file under many names: the content comes with the last.
        (
            vec![(9, FILE, "usr/bin/busybox", &b""[..]), (9, FILE, "usr/bin/mount", &large[..])],
            EarlyMount::Busybox,
        ),
        (
            vec![(9, FILE, "usr/bin/mount", &b""[..]), (9, FILE, "usr/bin/busybox", &large[..])],
            EarlyMount::Busybox,
        ),
        (
            vec![(9, FILE, "bin/busybox", &large[..]), (8, LINK, "bin/mount", &b"busybox"[..])],
            EarlyMount::Busybox,
        ),
        // busybox may be there for its shell alone.
        (vec![(9, FILE, "bin/busybox", &large[..]), (8, FILE, "bin/mount", &small[..])], EarlyMount::Klibc),
    ] {
        let image = read(gzip(&debian(&files)).as_slice()).unwrap();
        assert_eq!(image.mount, Some(expected), "{files:?}");
    }
}

#[test]
fn other_makers_say_what_they_are() {
    let dracut = archive(&[
        (1, FILE, "usr/lib/dracut/modules.txt", b"systemd\nlvm\nmdraid\n"),
        (2, FILE, "usr/lib/systemd/systemd", b"x"),
        (3, FILE, "usr/sbin/lvm", b"x"),
        (4, FILE, "usr/sbin/mdadm", b"x"),
        (5, FILE, "etc/cmdline.d/90lvm.conf", b" rd.lvm.lv=tide/root \n# none\n rd.md.uuid=ab\n"),
        (6, FILE, "etc/mdadm.conf", b"ARRAY /dev/md0 UUID=00112233:44556677:8899aabb:ccddeeff\n"),
    ]);
    let image = read(gzip(&dracut).as_slice()).unwrap();
    assert_eq!((image.table, image.lvm), (None, None));
    assert_eq!((image.made_by, image.systemd), (Some(Initramfs::Dracut), true));
    assert_eq!(image.parts, ["systemd", "lvm", "mdraid"]);
    assert_eq!(image.finds, ["arrays", "lvm"]);
    assert_eq!(image.command_line.as_deref(), Some("rd.lvm.lv=tide/root rd.md.uuid=ab"));
    assert_eq!(image.arrays.unwrap(), ["00112233-4455-6677-8899-aabbccddeeff"]);
    let tiny = archive(&[(1, FILE, "dev", b""), (2, FILE, "init", b"x"), (3, FILE, "target", b"")]);
    assert_eq!(read(gzip(&tiny).as_slice()).unwrap().made_by, Some(Initramfs::TinyInitramfs));
    let other = archive(&[(1, FILE, "config", b"EARLYHOOKS=\"udev\"\nHOOKS=\"base udev lvm2\"\n")]);
    let image = read(zstd(&other).as_slice()).unwrap();
    assert_eq!((image.made_by, image.parts.len()), (Some(Initramfs::Mkinitcpio), 3));
}

#[test]
fn its_own_table_and_settings_of_lvm_are_kept() {
    let table = b"LABEL=kelp /srv/kelp xfs password=tide 0 0\n";
    let devices = b"PVID=gr5igr3g28NTuzyfHaR0k0gQZ4V9PQa1\n";
    let files: [(u32, u32, &str, &[u8]); 3] = [
        (1, FILE, "etc/fstab", table),
        (2, FILE, "etc/lvm/lvm.conf", b"devices { filter = [ \"a|vda|\" ]\nuse_devicesfile = 1 }\n"),
        (3, FILE, "etc/lvm/devices/system.devices", devices),
    ];
    let image = read(zstd(&archive(&files)).as_slice()).unwrap();
    assert_eq!(image.table.unwrap().bytes().unwrap(), &table[..]);
    let lvm = image.lvm.unwrap();
    assert_eq!((lvm.filters, lvm.uses_devices_file), (vec!["a|vda|".to_owned()], Some(true)));
    assert_eq!(lvm.devices.unwrap(), ["gr5igr-3g28-NTuz-yfHa-R0k0-gQZ4-V9PQa1"]);
    // Makers leave a table without entries.
    let empty = archive(&[(1, FILE, "etc/fstab", b"# none\n\n")]);
    assert_eq!(read(gzip(&empty).as_slice()).unwrap().table, None);
}

#[test]
fn what_is_no_initramfs_is_told() {
    let told = |bytes: &[u8]| read(bytes).unwrap_err();
    assert!(matches!(told(b""), InitramfsError::Other));
    assert!(matches!(told(b"MZ kernel"), InitramfsError::Other));
    assert!(matches!(told(b"BZh9"), InitramfsError::NotRead("bzip2")));
    assert!(matches!(told(b"\xfd7zXZ\0\0"), InitramfsError::Io(_)));
    // A dictionary of 1 GiB is not taken.
    assert!(matches!(
        told(b"\x5d\x00\x00\x00\x40\xff\xff\xff\xff\xff\xff\xff\xff\0\0\0\0\0"),
        InitramfsError::Io(_)
    ));
    let cut = &debian(&[])[..300];
    assert!(matches!(told(cut), InitramfsError::Damaged { .. }));
    let mut long = debian(&[]);
    long[94..102].copy_from_slice(b"ffffffff");
    assert!(matches!(told(&long), InitramfsError::Damaged { at: 0 }));
    let mut large = debian(&[]);
    large[54..62].copy_from_slice(b"ffffffff");
    assert!(matches!(told(&large), InitramfsError::Damaged { at: 0 }));
}

proptest! {
    /// Whatever the bytes, an answer and no panic.
    #[test]
    fn rubbish_never_panics(at in 0_usize..2000, with: Vec<u8>, packed: bool) {
        let mut bytes = if packed { gzip(&debian(&[])) } else { debian(&[]) };
        let at = at.min(bytes.len());
        bytes.splice(at..(at + with.len()).min(bytes.len()), with.iter().copied());
        let _: Result<InitramfsImage, _> = read(bytes.as_slice());
    }
}
