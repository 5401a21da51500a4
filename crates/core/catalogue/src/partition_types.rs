//! Partition types in words. Sources: the UEFI specification, the
//! Discoverable Partitions Specification, and the kernel's MBR type bytes as
//! common tools name them.

/// Partitions of the root's disk that systemd-gpt-auto-generator has the boot take
/// where the table says nothing of them: the directory, or `None` for swap. Recorded
/// with 252 and 257; of /var the machine's own identity decides, and /var/tmp was not
/// recorded.
const TAKEN: [(&str, Option<&str>); 3] = [
    ("0657fd6d-a4ab-43c4-84e5-0933c84b4f4f", None),
    ("3b8f8425-20e0-4f3b-907f-1a25a76f98e8", Some("/srv")),
    ("933ac7e1-2eb4-4f13-b844-0e14e2aef915", Some("/home")),
];

/// Where the boot mounts partitions of a type by itself; `Some(None)`: it swaps on
/// them.
#[allow(clippy::option_option)] // swap has no directory
pub fn taken_as(type_id: &str) -> Option<Option<&'static str>> {
    TAKEN.iter().find(|(id, _)| id.eq_ignore_ascii_case(type_id)).map(|(_, target)| *target)
}

const TYPES: &[(&str, &str)] = &[
    ("0x01", "FAT12"),
    ("0x04", "FAT16, small"),
    ("0x05", "extended"),
    ("0x06", "FAT16"),
    ("0x07", "NTFS or exFAT"),
    ("0x0b", "FAT32"),
    ("0x0c", "FAT32 (LBA)"),
    ("0x0e", "FAT16 (LBA)"),
    ("0x0f", "extended (LBA)"),
    ("0x11", "hidden FAT12"),
    ("0x27", "Windows recovery"),
    ("0x82", "Linux swap"),
    ("0x83", "Linux"),
    ("0x85", "Linux extended"),
    ("0x8e", "Linux LVM"),
    ("0xa5", "FreeBSD"),
    ("0xa6", "OpenBSD"),
    ("0xaf", "HFS+"),
    ("0xda", "data without a file system"),
    ("0xee", "protects a GPT"),
    ("0xef", "EFI system"),
    ("0xfd", "Linux RAID"),
    ("024dee41-33e7-11d3-9d69-0008c781f39f", "MBR scheme"),
    ("0657fd6d-a4ab-43c4-84e5-0933c84b4f4f", "Linux swap"),
    ("0fc63daf-8483-4772-8e79-3d69d8477de4", "Linux"),
    ("21686148-6449-6e6f-744e-656564454649", "BIOS boot"),
    ("3b8f8425-20e0-4f3b-907f-1a25a76f98e8", "Linux /srv"),
    ("44479540-f297-41b2-9af7-d131d5f0458a", "Linux root (x86)"),
    ("48465300-0000-11aa-aa11-00306543ecac", "HFS+"),
    ("4d21b016-b534-45c2-a9fb-5c16e091fd2d", "Linux /var"),
    ("4f68bce3-e8cd-4db1-96e7-fbcaf984b709", "Linux root (x86-64)"),
    ("69dad710-2ce4-4e3c-b16c-21a1d49abed3", "Linux root (ARM)"),
    ("6a898cc3-1dd2-11b2-99a6-080020736631", "ZFS"),
    ("7ec6f557-3bc5-4aca-b293-16ef5df639d1", "Linux /var/tmp"),
    ("933ac7e1-2eb4-4f13-b844-0e14e2aef915", "Linux /home"),
    ("8484680c-9521-48c6-9c11-b0720656f69e", "Linux /usr (x86-64)"),
    ("a19d880f-05fc-4d3b-a006-743f0f84911e", "Linux RAID"),
    ("b921b045-1df0-41c3-af44-4c6f280d3fae", "Linux root (ARM 64)"),
    ("bc13c2ff-59e6-4262-a352-b275fd6f7172", "extended boot loader"),
    ("c12a7328-f81f-11d2-ba4b-00a0c93ec93b", "EFI system"),
    ("ca7d7ccb-63ed-4c53-861c-1742536059cc", "Linux LUKS"),
    ("de94bba4-06d1-4d40-a16a-bfd50179d6ac", "Windows recovery"),
    ("e3c9e316-0b5c-4db8-817d-f92df00215ae", "Microsoft reserved"),
    ("e6d6d379-f507-44c2-a23c-238f2a3df928", "Linux LVM"),
    ("ebd0a0a2-b9e5-4433-87c0-68b6b72699c7", "Microsoft data"),
];

/// The types of a partition for /usr, by processor (Discoverable Partitions
/// Specification).
const USR: [&str; 4] = [
    "75250d76-8cc6-458e-bd66-bd47cc81a812",
    "7d0359a3-02b3-4f0a-865c-654403e70625",
    "8484680c-9521-48c6-9c11-b0720656f69e",
    "b0e01050-ee5f-4390-949a-9101b17104e9",
];

/// Whether a partition of this type is for /usr.
pub fn is_usr(type_id: &str) -> bool {
    USR.iter().any(|id| id.eq_ignore_ascii_case(type_id))
}

/// What a partition type is for, in words.
pub fn words(type_id: &str) -> Option<&'static str> {
    TYPES.iter().find(|(id, _)| id.eq_ignore_ascii_case(type_id)).map(|(_, words)| *words)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn types_are_known_once() {
        assert_eq!(words("0x83"), Some("Linux"));
        assert_eq!(words("C12A7328-F81F-11D2-BA4B-00A0C93EC93B"), Some("EFI system"));
        assert_eq!(words("0x99"), None);
        for (n, (id, words)) in TYPES.iter().enumerate() {
            assert!(TYPES[..n].iter().all(|(other, _)| other != id) && !words.is_empty(), "{id}");
            assert!(id.len() == 4 || id.len() == 36, "{id}");
        }
    }
}
