//! Unified kernel images, which systemd-boot lists as they lie on the EFI system partition: the
//! newest is started (UAPI.1, UAPI.5).

use super::specification::{parts, wanted};
use super::{MAX_ENTRIES, text};
use crate::files::Files;
use bradawl_facts::record::NextBoot;
use bradawl_initramfs::unified_command_line;

/// Where the partition is mounted.
pub(crate) const PARTITIONS: [&str; 3] = ["/efi", "/boot/efi", "/boot"];
const DIRECTORY: &str = "/EFI/Linux";
/// No image is larger.
pub(crate) const MAX_IMAGE: u64 = 1 << 30;

pub(super) fn next(files: &Files) -> Option<NextBoot> {
    let place = PARTITIONS.into_iter().find(|place| !images(files, place).is_empty())?;
    let all = images(files, place);
    let set = text(files, &format!("{place}/loader/loader.conf")).unwrap_or_default();
    let name = match wanted(&set) {
        Some(name) if name.starts_with('@') => return None,
        Some(name) => all.iter().rfind(|image| match name.strip_suffix('*') {
            Some(start) => image.starts_with(start),
            None => **image == name,
        })?,
        None => all.last()?,
    };
    let path = format!("{place}{DIRECTORY}/{name}");
    // What is added from files beside it is not looked into.
    let added = files.names(&format!("{path}.extra.d")).iter().any(|name| name.ends_with(".addon.efi"));
    let line = files.stream(&path, MAX_IMAGE).and_then(unified_command_line).ok()?;
    Some(NextBoot {
        title: name.clone(),
        kernel: Some(format!("{DIRECTORY}/{name}")),
        initramfs: None,
        command_line: line.filter(|_| !added)?,
        from: path,
    })
}

/// The images there, in order of their versions.
fn images(files: &Files, place: &str) -> Vec<String> {
    let mut names = files.names(&format!("{place}{DIRECTORY}"));
    names.retain(|name| name.to_ascii_lowercase().ends_with(".efi"));
    names.truncate(MAX_ENTRIES);
    names.sort_by_key(|name| parts(name));
    names
}
