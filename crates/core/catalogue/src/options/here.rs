//! Options that the mount program keeps to itself.

use super::kind::{Kind, Said};
use super::label::{is_label, of_label};
use super::{About, Asked, MountSource, Verdict};

/// Types that are never written to.
const READ_ONLY: [&str; 5] = ["iso9660", "squashfs", "erofs", "cramfs", "romfs"];

/// Options that are dealt with before the file system sees them.
pub(super) fn here(asked: &Asked<'_>, kind: &Kind, name: &str, value: Option<&str>) -> Said {
    let why = match name {
        "bind" | "rbind" if asked.fstype != "none" => "the source is no directory, which bind needs",
        "move" => "there is nothing mounted to move",
        "loop" if kind.is_of_image => return (Verdict::Accepted, About::Name, String::new()),
        "loop" | "offset" | "sizelimit" if kind.is_given_a_path() && asked.source != MountSource::File => {
            "it is for files that are mounted as if they were devices"
        }
        "offset" | "sizelimit" if matches!(value, Some("0")) => {
            return (Verdict::Accepted, About::Name, String::new());
        }
        "offset" | "sizelimit" if value.is_none_or(str::is_empty) && asked.new_program() => {
            return (Verdict::Accepted, About::Name, String::new());
        }
        "offset" | "sizelimit" if kind.on_device && asked.source != MountSource::File => {
            "it is for files that are mounted as if they were devices"
        }
        "encryption" if kind.on_device && asked.source != MountSource::Device => {
            "files are not mounted with it; a container of crypttab takes its place"
        }
        "X-mount.owner" | "X-mount.group" | "X-mount.mode"
            if asked.new_program() && READ_ONLY.contains(&asked.fstype) =>
        {
            "the file system cannot be written to"
        }
        "remount" if !asked.mounted => "nothing is mounted there whose options it could change",
        "X-mount.idmap" if asked.new_program() && kind.helper() => {
            "the program that mounts it cannot have owners mapped"
        }
        "X-mount.noloop" if asked.new_program() && kind.on_device && asked.source != MountSource::Device => {
            "a file is mounted through a loop device, which it forbids"
        }
        "verity.hashdevice" | "verity.roothash" | "verity.hashoffset"
            if (kind.on_device || kind.is_given_a_path() && !asked.new_program()) && !verity(asked) =>
        {
            "a hash tree needs verity.hashdevice and verity.roothash or verity.roothashfile"
        }
        _ if is_label(name) => {
            let said = of_label(asked, name, value);
            return said.unwrap_or((Verdict::Accepted, About::Name, String::new()));
        }
        _ => return (Verdict::Accepted, About::Name, String::new()),
    };
    (Verdict::Refused, About::Name, why.to_owned())
}

/// Whether a list says all that opening a hash tree takes.
fn verity(asked: &Asked<'_>) -> bool {
    let has = |name: &str| asked.options.iter().any(|o| o.name == name);
    has("verity.hashdevice") && (has("verity.roothash") || has("verity.roothashfile"))
}
