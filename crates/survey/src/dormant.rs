//! What lies in groups that are not active and arrays that do not run, read through
//! their members.

use crate::files::Files;
use crate::image::Disks;
use crate::view::View;
use bradawl_facts::record::{ContentKind, Device};
use std::collections::HashSet;
use std::sync::Arc;

/// More members than this are not opened.
const MAX_MEMBERS: usize = 256;

/// The volumes and arrays that would be there if everything were active. What
/// cannot be read through its members is left out.
pub(crate) fn dormant(files: &Files, devices: &[Device]) -> Vec<Device> {
    let is_closed = |d: &&Device| {
        let kind = d.content.as_ref().map(|c| c.kind);
        matches!(kind, Some(ContentKind::LvmPv | ContentKind::RaidMember)) && d.children.is_empty()
    };
    let members: Vec<&Device> = devices.iter().filter(is_closed).take(MAX_MEMBERS).collect();
    let mut disks = Disks::default();
    for member in &members {
        let bytes = member.size.and_then(|size| files.start(&member.path, size).ok());
        if let Some(bytes) = bytes {
            disks.adopt((*member).clone(), View::of(Arc::from(bytes)));
        }
    }
    disks.assemble();
    // Where the kernel does not say what lies on what, a volume may be active all the same.
    let names = |d: &Device| d.links.iter().flatten().chain([&d.path]).cloned().collect::<Vec<String>>();
    let known: HashSet<String> = devices.iter().flat_map(names).collect();
    let is_new = |d: &Device| !names(d).iter().any(|name| known.contains(name));
    disks.devices.into_iter().filter(|d| is_new(d) && d.content.is_some()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::probe::identify;
    use bradawl_facts::record::DeviceKind;
    use std::path::Path;

    /// The mirror's member among the images of the probes, as a device of a host.
    fn member(folder: &Path) -> Device {
        let packed =
            concat!(env!("CARGO_MANIFEST_DIR"), "/../core/facts/tests/fixtures/images/md-raid1-10-a.img.zst");
        let mut bytes = Vec::new();
        let file = std::fs::File::open(packed).unwrap();
        let mut unpacked = ruzstd::decoding::StreamingDecoder::new(file).unwrap();
        std::io::Read::read_to_end(&mut unpacked, &mut bytes).unwrap();
        std::fs::create_dir(folder.join("dev")).unwrap();
        std::fs::write(folder.join("dev/vdb"), &bytes).unwrap();
        let content = Some(identify(&bytes).unwrap());
        Device { size: Some(bytes.len() as u64), content, ..Device::new("/dev/vdb", DeviceKind::Disk) }
    }

    #[test]
    fn a_mirror_that_does_not_run_is_read_through_its_member() {
        let dir = tempfile::tempdir().unwrap();
        let mut devices = vec![member(dir.path())];
        let files = Files::own(dir.path().to_owned());
        let labels = |devices: &[Device]| -> Vec<Option<String>> {
            dormant(&files, devices).into_iter().map(|d| d.content.and_then(|c| c.label)).collect()
        };
        assert_eq!(labels(&devices), [Some("onmd10".to_owned())]);
        let running = Device::new("/dev/md127", DeviceKind::Raid);
        devices.push(Device { links: Some(vec!["/dev/md/zoo-10".to_owned()]), ..running });
        assert_eq!(labels(&devices), [], "it runs");
    }
}
