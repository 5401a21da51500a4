//! The initramfs image of the next boot, and what is packed into it.

use crate::boot_files::pair;
use crate::files::Files;
use crate::loader::unified::PARTITIONS;
use bradawl_facts::record::{Early, Initramfs, InitramfsImage, NextBoot, TableFile};
use std::io;

/// Larger images are not read: unpacking them would take seconds.
const MAX_BYTES: u64 = 128 << 20;

/// Whether anything depends on what is packed into the image: reading it takes up
/// to a second.
pub(crate) fn decides<'t>(early: &Early, mut tables: impl Iterator<Item = &'t TableFile>) -> bool {
    let locked = early.crypttab.as_ref().is_some_and(|all| !all.is_empty());
    let arrays = early.arrays.as_ref().is_some_and(|all| !all.is_empty());
    let asks = |text: &str| text.contains("/usr") || text.contains("x-initrd.mount");
    let table = tables.any(|t| asks(&String::from_utf8_lossy(&t.bytes.bytes().unwrap_or_default())));
    locked || arrays || table || early.initramfs != Some(Initramfs::InitramfsTools)
}

/// What is in the image that boots next, or else in that of a kernel.
///
/// `kernel`: version of the running kernel.
pub(crate) fn image(
    files: &mut Files,
    next: Option<&NextBoot>,
    kernel: Option<&str>,
) -> Option<InitramfsImage> {
    // Another host's image is not fetched: it is as large as the rest of the survey by far.
    if files.collected().is_some() {
        return None;
    }
    let path = place(files, next, kernel)?;
    let read = files
        .stream(&path, MAX_BYTES)
        .and_then(|image| bradawl_initramfs::read(image).map_err(io::Error::other));
    match read {
        Ok(image) => Some(InitramfsImage { path, ..image }),
        Err(error) => {
            files.note(format!("the initramfs {path}"), &error);
            None
        }
    }
}

/// Where it lies: the boot loader's paths begin at its own file system, which is
/// mounted at /boot or is the root itself.
fn place(files: &Files, next: Option<&NextBoot>, kernel: Option<&str>) -> Option<String> {
    // A unified image has it in it.
    let unified =
        next.and_then(|n| n.kernel.as_deref()).filter(|kernel| kernel.to_ascii_lowercase().ends_with(".efi"));
    let of_unified =
        unified.into_iter().flat_map(|kernel| PARTITIONS.map(|place| format!("{place}{kernel}")));
    let loaders = next.and_then(|n| n.initramfs.as_deref()).map(|path| path.trim_start_matches('/'));
    let of_loader = loaders
        .into_iter()
        .flat_map(|path| ["/boot/", "/", "/boot/efi/", "/efi/"].map(|folder| format!("{folder}{path}")));
    let of_kernel = kernel.into_iter().flat_map(|version| {
        ["initrd.img-", "initramfs-", "initrd-"].map(|name| {
            let end = if name == "initramfs-" { ".img" } else { "" };
            format!("/boot/{name}{version}{end}")
        })
    });
    let usual = ["/boot/initramfs-linux.img".to_owned()];
    let named = of_unified.chain(of_loader).chain(of_kernel).chain(usual).find(|path| files.exists(path));
    // Of a root that does not run, that of its newest kernel.
    named.or_else(|| Some(pair(files, "/boot", None)?.1))
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{CryptEntry, EarlyMount};
    use std::fs;

    /// A root with these files.
    fn root(files: &[(&str, &[u8])]) -> (tempfile::TempDir, Files) {
        let dir = tempfile::tempdir().unwrap();
        for (path, bytes) in files {
            let path = dir.path().join(path);
            fs::create_dir_all(path.parent().unwrap()).unwrap();
            fs::write(path, bytes).unwrap();
        }
        let files = Files::own(dir.path().to_owned());
        (dir, files)
    }

    /// An archive of one file, as an initramfs without compression is.
    fn packed(name: &str, mode: &str, content: &[u8]) -> Vec<u8> {
        let mut out = Vec::new();
        for (name, mode, content) in [(name, mode, content), ("TRAILER!!!", "00000000", &b""[..])] {
            let (size, length) = (content.len(), name.len() + 1);
            out.extend(format!("07070100000001{mode}").bytes());
            out.extend(format!("{:08x}{:08x}{:08x}{:08x}{size:08x}", 0, 0, 1, 0).bytes());
            out.extend(format!("{:08x}{:08x}{:08x}{:08x}{length:08x}{:08x}", 0, 0, 0, 0, 0).bytes());
            for part in [[name.as_bytes(), &[0]].concat().as_slice(), content] {
                out.extend(part);
                out.resize(out.len().next_multiple_of(4), 0);
            }
        }
        out
    }

    fn next(initramfs: &str) -> NextBoot {
        NextBoot { initramfs: Some(initramfs.to_owned()), ..NextBoot::default() }
    }

    #[test]
    fn the_boot_loaders_image_comes_before_that_of_the_kernel() {
        let link = |to: &str| packed("bin/mount", "0000a1ff", to.as_bytes());
        let (busybox, other) = (link("busybox"), link("mount.real"));
        let (_dir, mut files) = root(&[
            ("boot/initrd.img-6.1", busybox.as_slice()),
            ("boot/initrd.img-6.9", other.as_slice()),
            ("boot/vmlinuz-6.1", b""),
            ("boot/vmlinuz-6.9", b""),
        ]);
        for (loader, kernel, path) in [
            // The loader's paths begin at /boot where that is a file system of its own.
            (Some("/initrd.img-6.1"), Some("6.9"), "/boot/initrd.img-6.1"),
            (Some("/boot/initrd.img-6.1"), None, "/boot/initrd.img-6.1"),
            (Some("/gone.img"), Some("6.1"), "/boot/initrd.img-6.1"),
            (None, Some("6.1"), "/boot/initrd.img-6.1"),
            // Of a root that does not run, that of the newest kernel.
            (None, Some("5.0"), "/boot/initrd.img-6.9"),
            (None, None, "/boot/initrd.img-6.9"),
        ] {
            let next = loader.map(next);
            let image = image(&mut files, next.as_ref(), kernel).unwrap();
            assert_eq!(image.path, path, "{loader:?} {kernel:?}");
            let expected = if path.ends_with("6.1") { EarlyMount::Busybox } else { EarlyMount::UtilLinux };
            assert_eq!(image.mount, Some(expected), "{path}");
        }
    }

    #[test]
    fn what_cannot_be_read_is_told() {
        let (_dir, mut files) = root(&[
            ("boot/initrd.img-1", b"MZ"),
            ("boot/initrd.img-2", b"BZh9"),
            ("boot/initrd.img-3", &packed("a", "000081a4", b"x")[..60]),
        ]);
        for (kernel, why) in [("1", "no initramfs"), ("2", "bzip2"), ("3", "damaged")] {
            assert_eq!(image(&mut files, None, Some(kernel)), None);
            let told = files.take_unread();
            assert!(told.len() == 1 && told[0].why.contains(why), "{kernel}: {told:?}");
            assert_eq!(told[0].what, format!("the initramfs /boot/initrd.img-{kernel}"));
        }
        let (_dir, mut files) = root(&[]);
        assert_eq!((image(&mut files, None, Some("1")), files.take_unread().len()), (None, 0));
    }

    #[test]
    fn images_larger_than_any_are_not_unpacked() {
        let (dir, mut files) = root(&[("boot/initrd.img-1", b"")]);
        fs::File::options()
            .write(true)
            .open(dir.path().join("boot/initrd.img-1"))
            .and_then(|file| file.set_len(MAX_BYTES + 1))
            .unwrap();
        assert_eq!(image(&mut files, None, Some("1")), None);
        assert!(files.take_unread()[0].why.contains("larger than"), "a sparse file of 128 MiB");
    }

    #[test]
    fn it_is_read_where_it_decides_something() {
        let table = |text: &str| vec![TableFile::new("/etc/fstab", text.as_bytes().to_vec())];
        let tools = Early { initramfs: Some(Initramfs::InitramfsTools), ..Early::default() };
        let plain = "UUID=a / ext4 defaults 0 1\n";
        assert!(!decides(&tools, table(plain).iter()));
        assert!(decides(&tools, table(&format!("{plain}LABEL=usr /usr ext4 defaults 0 2\n")).iter()));
        let crypttab = Some(vec![CryptEntry::default()]);
        assert!(decides(&Early { crypttab, ..tools.clone() }, table(plain).iter()));
        assert!(decides(&Early { arrays: Some(vec!["a".to_owned()]), ..tools.clone() }, table(plain).iter()));
        assert!(!decides(
            &Early { arrays: Some(Vec::new()), crypttab: Some(Vec::new()), ..tools },
            table(plain).iter()
        ));
        assert!(decides(
            &Early { initramfs: Some(Initramfs::Dracut), ..Early::default() },
            table(plain).iter()
        ));
    }
}
