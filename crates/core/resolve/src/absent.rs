//! A host that has lost a device.

use crate::{Index, Resolution, Source};
use bradawl_facts::record::{Device, DeviceKind, Record};

/// Takes away the devices that answer to a name, with all that lies on them;
/// an array goes on with the members that are left. `None` when no device
/// answers; the record is then as it was.
pub fn take_away(record: &mut Record, name: &str) -> Option<()> {
    let Resolution::Found(found) = Index::new(record).resolve(&Source::parse(name)) else { return None };
    let mut gone: Vec<String> = found.iter().map(|d| d.path.clone()).collect();
    while let Some(path) = gone.pop() {
        let devices = record.devices.get_or_insert_default();
        devices.retain(|d| d.path != path);
        let mut above = Vec::new();
        for device in devices.iter_mut().filter(|d| d.parents.contains(&path)) {
            device.parents.retain(|p| *p != path);
            above.push(device.path.clone());
        }
        let holds = |device: &Device| device.kind == DeviceKind::Raid && !device.parents.is_empty();
        gone.extend(above.into_iter().filter(|p| !devices.iter().any(|d| d.path == *p && holds(d))));
    }
    Some(())
}
