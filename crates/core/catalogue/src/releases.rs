//! Releases of systems, and the versions that decide what becomes of a table.

use bradawl_facts::record::Initramfs;

/// A release.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Release {
    /// What it is called: `debian-13`.
    pub name: &'static str,
    /// Its kernel.
    pub kernel: &'static str,
    /// Its version of systemd.
    pub systemd: &'static str,
    /// Its mount program, by the version of util-linux.
    pub mount_program: &'static str,
    /// What makes its initramfs.
    pub initramfs: Initramfs,
    /// The day it came out.
    pub date: &'static str,
    /// Where the versions come from.
    pub source: &'static str,
}

const ARCHIVE: &str = "the release's packages, used here";
const NOTES: &str = "the release notes; the kernel has changes of later ones";

/// The releases that are known, by name.
pub const RELEASES: [Release; 8] = [
    release("debian-11", ["5.10", "247", "2.36"], Initramfs::InitramfsTools, "2021-08-14", ARCHIVE),
    release("debian-12", ["6.1", "252", "2.38"], Initramfs::InitramfsTools, "2023-06-10", ARCHIVE),
    release("debian-13", ["6.12", "257", "2.41"], Initramfs::InitramfsTools, "2025-08-09", ARCHIVE),
    release("rhel-8", ["4.18", "239", "2.32"], Initramfs::Dracut, "2019-05-07", NOTES),
    release("rhel-9", ["5.14", "252", "2.37"], Initramfs::Dracut, "2022-05-17", NOTES),
    release("rhel-10", ["6.12", "257", "2.40"], Initramfs::Dracut, "2025-05-20", NOTES),
    release("ubuntu-22.04", ["5.15", "249", "2.37"], Initramfs::InitramfsTools, "2022-04-21", NOTES),
    release("ubuntu-24.04", ["6.8", "255", "2.39"], Initramfs::InitramfsTools, "2024-04-25", NOTES),
];

const fn release(
    name: &'static str,
    [kernel, systemd, mount_program]: [&'static str; 3],
    initramfs: Initramfs,
    date: &'static str,
    source: &'static str,
) -> Release {
    Release { name, kernel, systemd, mount_program, initramfs, date, source }
}

/// The release of a name; a dot more or less is the same one.
pub fn release_named(name: &str) -> Option<&'static Release> {
    let folded = name.trim().to_ascii_lowercase().replace([' ', '_'], "-");
    RELEASES.iter().find(|r| r.name == folded)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::Version;

    #[test]
    fn releases_are_told_in_order_and_with_versions() {
        assert!(RELEASES.is_sorted_by_key(|r| r.name.replace("rhel-10", "rhel-9b")));
        for release in RELEASES {
            assert!(
                Version::parse(release.kernel).is_some() && Version::parse(release.mount_program).is_some()
            );
            assert!(release.systemd.parse::<u32>().is_ok() && release.date.len() == 10, "{release:?}");
            assert_eq!(release_named(release.name), Some(&release));
        }
        assert_eq!(release_named("Debian 13").map(|r| r.systemd), Some("257"));
        assert_eq!(release_named("debian-99"), None);
    }
}
