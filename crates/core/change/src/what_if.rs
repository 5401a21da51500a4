//! Changes that are only thought: to the table, or to the host's disks.

use crate::edit::{Change, EditError, changed};
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_resolve::take_away;
use std::str::FromStr;

/// One thing supposed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Supposed {
    /// A change to the table.
    Table(Change),
    /// `without /dev/sdb`: the device, and all on it, is not there.
    WithoutDevice(String),
}

/// Why something cannot be supposed.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Unthinkable {
    /// The change cannot be made.
    #[error(transparent)]
    Edit(#[from] EditError),
    /// No device matches the name.
    #[error("no device matches {0}")]
    Device(String),
}

impl FromStr for Supposed {
    type Err = EditError;

    fn from_str(text: &str) -> Result<Self, EditError> {
        match text.trim().strip_prefix("without ").map(str::trim) {
            Some(name) if !name.is_empty() && !name.starts_with("line ") => {
                Ok(Supposed::WithoutDevice(name.to_owned()))
            }
            _ => text.parse().map(Supposed::Table),
        }
    }
}

/// The host and the table with all this so; lines keep the numbers they have
/// in the table.
///
/// # Errors
/// When something names a line or a device that is not there.
pub fn supposing(
    record: &Record,
    table: &Table,
    supposed: &[Supposed],
) -> Result<(Record, Table), Unthinkable> {
    let mut record = record.clone();
    let mut changes = Vec::new();
    for one in supposed {
        match one {
            Supposed::Table(change) => changes.push(change.clone()),
            Supposed::WithoutDevice(name) => {
                take_away(&mut record, name).ok_or_else(|| Unthinkable::Device(name.clone()))?;
            }
        }
    }
    let table = changed(&record, table, &changes)?;
    Ok((record, table))
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{Device, DeviceKind};

    #[test]
    fn forms() {
        let off = Supposed::Table(Change::Off(4));
        assert_eq!("without line 4".parse(), Ok(off.clone()));
        assert_eq!("line 4: off".parse(), Ok(off));
        assert_eq!("without /dev/sdb".parse(), Ok(Supposed::WithoutDevice("/dev/sdb".into())));
        for wrong in ["", "line 4", "without ", "without line x", "+a"] {
            assert!(wrong.parse::<Supposed>().is_err(), "{wrong}");
        }
    }

    #[test]
    fn a_disk_goes_with_all_on_it() {
        let mut record = Record::new("quayside");
        let disk = Device::new("/dev/sdb", DeviceKind::Disk);
        let mut part = Device::new("/dev/sdb1", DeviceKind::Partition);
        part.parents = vec!["/dev/sdb".into()];
        let other = Device::new("/dev/sdc", DeviceKind::Disk);
        record.devices = Some(vec![disk, part, other]);
        let table = Table::parse("LABEL=a /a xfs\nLABEL=b /b xfs\n");
        let changes = ["without /dev/sdb", "without line 1"].map(|c| c.parse().unwrap());
        let (record, table) = supposing(&record, &table, &changes).unwrap();
        assert_eq!(record.devices.unwrap().len(), 1);
        assert_eq!(table.bytes(), b"# off: LABEL=a /a xfs\nLABEL=b /b xfs\n");
        let absent = [Supposed::WithoutDevice("/dev/sdz".into())];
        assert!(supposing(&Record::new("kelp"), &table, &absent).is_err());
    }
}
