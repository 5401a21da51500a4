//! What lies in groups that are not active and arrays that do not run, read through
//! their members.

use crate::files::Files;
use crate::image::Disks;
use crate::view::View;
use bradawl_facts::record::{ContentKind, Device};
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
    let is_new = |d: &Device| members.iter().all(|member| member.path != d.path);
    disks.devices.into_iter().filter(|d| is_new(d) && d.content.is_some()).collect()
}
