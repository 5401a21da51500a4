//! What is beyond any real host. A record that holds more comes from nobody's
//! survey, and judging it could take without end.

use super::{Content, Device, Record};

/// Something of which a record holds more than any real host has.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("it has {count} {what}, more than any real host ({most})")]
pub struct Unreal {
    /// Of what there are too many.
    pub what: &'static str,
    /// How many there are.
    pub count: usize,
    /// How many there may be.
    pub most: usize,
}

/// Linux has room for 32 (`MAX_SWAPFILES`).
const MAX_SWAPS: usize = 64;
/// Linux reads 2 to 16 KiB, by architecture.
const MAX_COMMAND_LINE: usize = 16 << 10;

impl Record {
    /// Checks that it is within what a host may have.
    ///
    /// # Errors
    /// [`Unreal`] names the first that is not.
    pub fn check_size(&self) -> Result<(), Unreal> {
        let early = self.early.as_ref();
        let len = |list: Option<usize>| list.unwrap_or(0);
        within("devices", self.devices().len(), 100_000)?;
        within("volumes that are not active", self.dormant.len(), 100_000)?;
        within("mounts", len(self.mounts.as_ref().map(Vec::len)), 200_000)?;
        within("active swap areas", len(self.swaps.as_ref().map(Vec::len)), MAX_SWAPS)?;
        within("paths", self.paths.len(), 100_000)?;
        within("file systems looked into", self.inside.len(), 1000)?;
        within("paths in them", self.inside.iter().map(|i| i.paths.len()).sum(), 100_000)?;
        within("units that entries name", len(self.services.as_ref().map(Vec::len)), 50_000)?;
        within("units", len(self.units.as_ref().map(Vec::len)), 50_000)?;
        within("tables", self.tables.len(), 1000)?;
        within("things unread", self.unread.len(), 200_000)?;
        within("containers in crypttab", len(early.and_then(|e| Some(e.crypttab.as_ref()?.len()))), 4096)?;
        within("declared arrays", len(early.and_then(|e| Some(e.arrays.as_ref()?.len()))), 4096)?;
        within("bytes of command line", len(self.command_line.as_ref().map(String::len)), MAX_COMMAND_LINE)?;
        self.devices().iter().chain(&self.dormant).try_for_each(device)
    }
}

fn within(what: &'static str, count: usize, most: usize) -> Result<(), Unreal> {
    if count > most { Err(Unreal { what, count, most }) } else { Ok(()) }
}

fn device(device: &Device) -> Result<(), Unreal> {
    within("names of one device", device.links.as_ref().map_or(0, Vec::len), 1000)?;
    within("devices below another", device.parents.len(), 20_000)?;
    within("devices on another", device.children.len(), 20_000)?;
    device.content.as_ref().map_or(Ok(()), content)
}

fn content(content: &Content) -> Result<(), Unreal> {
    within("partitions of one disk", content.partitions.len(), 5000)?;
    within("subvolumes of one file system", content.subvolumes.as_ref().map_or(0, Vec::len), 200_000)?;
    let group = content.group.as_ref();
    within("volumes of one group", group.map_or(0, |g| g.volumes.len() + g.inner.len()), 50_000)?;
    within("physical volumes of one group", group.map_or(0, |g| g.pv_uuids.len()), 20_000)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::{ActiveSwap, DeviceKind, LoadError};

    #[test]
    fn what_no_host_has_is_no_record() {
        let mut record = Record::new("kelp");
        assert_eq!(record.check_size(), Ok(()));
        let area = ActiveSwap { path: "/dev/vdb".into(), size: 1, used: 0, priority: 0 };
        record.swaps = Some(vec![area; 65]);
        let error = record.check_size().unwrap_err().to_string();
        assert_eq!(error, "it has 65 active swap areas, more than any real host (64)");
        let json = serde_json::to_vec(&record).unwrap();
        assert!(matches!(Record::from_json(&json), Err(LoadError::Unreal(_))));
        record.swaps = None;
        let links = Some(vec!["/dev/disk/by-label/x".to_owned(); 1001]);
        record.devices = Some(vec![Device { links, ..Device::new("/dev/vdb", DeviceKind::Disk) }]);
        assert_eq!(record.check_size().unwrap_err().what, "names of one device");
    }
}
