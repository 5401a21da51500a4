//! Making a file system: with which program, how it is given a name that the
//! entry can have beforehand, and what it needs.

use super::{DraftError, DraftWishes};
use bradawl_catalogue::fstypes::least_size;
use bradawl_facts::record::{Device, Record};
use bradawl_facts::size;
use bradawl_facts::text::{quoted, visible};

/// The program that makes a type.
struct Maker {
    /// Names the type has in tables.
    types: &'static [&'static str],
    program: &'static str,
    /// How a name is given to it.
    name: Named,
}

/// How a program is told the name of what it makes.
enum Named {
    /// A UUID behind this option.
    Uuid(&'static str),
    /// A serial number of eight digits behind this option.
    Serial(&'static str),
    /// Only a label, behind this option, of so many letters.
    Label(&'static str, usize),
}

/// Programs, as their manual pages give them.
const MAKERS: [Maker; 7] = [
    Maker { types: &["ext2", "ext3", "ext4"], program: "mkfs.", name: Named::Uuid("-U ") },
    Maker { types: &["xfs"], program: "mkfs.", name: Named::Uuid("-m uuid=") },
    Maker { types: &["btrfs"], program: "mkfs.", name: Named::Uuid("-U ") },
    Maker { types: &["swap"], program: "mkswap", name: Named::Uuid("-U ") },
    Maker { types: &["vfat", "msdos"], program: "mkfs.vfat", name: Named::Serial("-i ") },
    Maker { types: &["exfat"], program: "mkfs.exfat", name: Named::Label("-L ", 11) },
    Maker { types: &["ntfs", "ntfs3", "ntfs-3g"], program: "mkfs.ntfs -Q", name: Named::Label("-L ", 32) },
];

fn maker(fstype: &str) -> Option<&'static Maker> {
    MAKERS.iter().find(|m| m.types.contains(&fstype))
}

/// Why a type cannot be made on a device of this host.
pub(super) fn objection(record: &Record, device: &Device, fstype: &str) -> Option<DraftError> {
    let Some(least) = maker(fstype).and_then(|_| least_size(fstype)) else {
        return Some(DraftError::NotMade(visible(fstype).into_owned()));
    };
    if let Some(has) = device.size.filter(|has| *has < least) {
        return Some(DraftError::TooSmall {
            path: device.path.clone(),
            has: size::binary(has),
            fstype: fstype.to_owned(),
            least: size::binary(least),
        });
    }
    let support = record.filesystems.as_ref().filter(|s| s.modules.is_some());
    let helpers = record.programs.as_ref().map(|p| p.mount_helpers.as_slice());
    let helped = helpers.is_none_or(|all| all.iter().any(|h| h == fstype));
    let unsupported = support.is_some_and(|s| s.of(fstype).is_none()) && !helped && fstype != "swap";
    unsupported.then(|| DraftError::NoSupport(fstype.to_owned()))
}

/// The name that what is made will have, as the source of its entry.
pub(super) fn name(wishes: &DraftWishes, fstype: &str) -> Option<String> {
    let uuid = wishes.fresh_uuid.as_deref()?;
    Some(match maker(fstype)?.name {
        Named::Uuid(_) => format!("UUID={uuid}"),
        Named::Serial(_) => {
            let serial = serial(uuid);
            format!("UUID={}-{}", &serial[..4], &serial[4..])
        }
        Named::Label(_, letters) => format!("LABEL={}", label(&wishes.target, letters)),
    })
}

/// The command that makes it.
pub(super) fn command(wishes: &DraftWishes, fstype: &str, path: &str) -> Option<String> {
    let maker = maker(fstype)?;
    let program = match maker.program {
        "mkfs." => format!("mkfs.{fstype}"),
        other => other.to_owned(),
    };
    let uuid = wishes.fresh_uuid.as_deref().unwrap_or_default();
    let named = match maker.name {
        Named::Uuid(option) => format!("{option}{uuid}"),
        Named::Serial(option) => format!("{option}{}", serial(uuid)),
        Named::Label(option, letters) => format!("{option}{}", quoted(&label(&wishes.target, letters))),
    };
    Some(format!("{program} {named} {}", quoted(path)))
}

/// The first eight digits of a UUID.
fn serial(uuid: &str) -> String {
    let digits = uuid.chars().filter(char::is_ascii_hexdigit).chain(std::iter::repeat('0'));
    digits.take(8).collect::<String>().to_ascii_uppercase()
}

/// A label told from the last part of the target.
fn label(target: &str, letters: usize) -> String {
    let last = target.rsplit('/').find(|part| !part.is_empty()).unwrap_or("data");
    let plain = last.chars().filter(|c| c.is_ascii_alphanumeric() || *c == '-' || *c == '_');
    let label: String = plain.take(letters).collect::<String>().to_ascii_uppercase();
    if label.is_empty() { "DATA".to_owned() } else { label }
}

/// The first partition of a disk, as the kernel will name it.
pub(super) fn first_partition(disk: &str) -> String {
    let part = if disk.ends_with(|c: char| c.is_ascii_digit()) { "p1" } else { "1" };
    format!("{disk}{part}")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn each_program_is_told_its_own_way() {
        let wishes = DraftWishes {
            target: "/srv/tide log".into(),
            fresh_uuid: Some("5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b".into()),
            ..DraftWishes::default()
        };
        for (fstype, source, run) in [
            (
                "ext4",
                "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b",
                "mkfs.ext4 -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b /dev/vdb",
            ),
            (
                "xfs",
                "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b",
                "mkfs.xfs -m uuid=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b /dev/vdb",
            ),
            ("vfat", "UUID=5D0C-1F0E", "mkfs.vfat -i 5D0C1F0E /dev/vdb"),
            ("exfat", "LABEL=TIDELOG", "mkfs.exfat -L TIDELOG /dev/vdb"),
            ("ntfs3", "LABEL=TIDELOG", "mkfs.ntfs -Q -L TIDELOG /dev/vdb"),
            (
                "swap",
                "UUID=5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b",
                "mkswap -U 5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b /dev/vdb",
            ),
        ] {
            assert_eq!(name(&wishes, fstype).as_deref(), Some(source));
            assert_eq!(command(&wishes, fstype, "/dev/vdb").as_deref(), Some(run));
        }
        assert_eq!(command(&wishes, "reiserfs", "/dev/vdb"), None);
        assert_eq!(first_partition("/dev/nvme0n1"), "/dev/nvme0n1p1");
        assert_eq!(first_partition("/dev/sdc"), "/dev/sdc1");
    }
}
