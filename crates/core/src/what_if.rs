//! Changes that are only thought: to the table, or to the host's disks.

use crate::edit::{with_options, without_line};
use crate::record::{Device, Record};
use crate::resolve::{Index, Resolution, Source};
use crate::table::Table;
use std::str::FromStr;

/// One change.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Change {
    /// `line 4: +nofail -discard`: options added and taken out.
    Options {
        /// The line, from 1.
        line: usize,
        /// Options to add.
        add: Vec<String>,
        /// Options to take out, by name or with their value.
        drop: Vec<String>,
    },
    /// `without line 4`: the entry is not there.
    WithoutLine(usize),
    /// `without /dev/sdb`: the device, and all on it, is not there.
    WithoutDevice(String),
}

/// Why a change cannot be thought.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum Unthinkable {
    /// It is none of the forms.
    #[error(
        "{0:?} is no change; one looks like \"line 4: +nofail\", \"line 4: -discard\", \"without line 4\", \
         \"without /dev/sdb\""
    )]
    Form(String),
    /// The table has no entry there.
    #[error("line {0} of the table holds no entry")]
    Line(usize),
    /// No device answers to the name.
    #[error("no device answers to {0}")]
    Device(String),
}

impl FromStr for Change {
    type Err = Unthinkable;

    fn from_str(text: &str) -> Result<Self, Unthinkable> {
        let form = || Unthinkable::Form(text.to_owned());
        let text = text.trim();
        if let Some(what) = text.strip_prefix("without ").map(str::trim) {
            return match what.strip_prefix("line ") {
                Some(number) => Ok(Change::WithoutLine(number.trim().parse().map_err(|_| form())?)),
                None if what.is_empty() => Err(form()),
                None => Ok(Change::WithoutDevice(what.to_owned())),
            };
        }
        let (line, words) = text.strip_prefix("line ").and_then(|t| t.split_once(':')).ok_or_else(form)?;
        let line = line.trim().parse().map_err(|_| form())?;
        let (mut add, mut drop) = (Vec::new(), Vec::new());
        for word in words.split_whitespace() {
            match (word.strip_prefix('+'), word.strip_prefix('-')) {
                (Some(option), _) if !option.is_empty() => add.extend(option.split(',').map(str::to_owned)),
                (_, Some(option)) if !option.is_empty() => drop.extend(option.split(',').map(str::to_owned)),
                _ => return Err(form()),
            }
        }
        if add.is_empty() && drop.is_empty() { Err(form()) } else { Ok(Change::Options { line, add, drop }) }
    }
}

/// The host and the table after these changes, made in this order; lines keep
/// the numbers they have in the table.
///
/// # Errors
/// When a change names a line or a device that is not there.
pub fn changed(record: &Record, table: &Table, changes: &[Change]) -> Result<(Record, Table), Unthinkable> {
    let (mut record, mut table) = (record.clone(), Table::parse(table.bytes()));
    for change in changes {
        match change {
            Change::Options { line, add, drop } => {
                table = with_options(&table, *line, add, drop).ok_or(Unthinkable::Line(*line))?;
            }
            Change::WithoutLine(line) => {
                table = without_line(&table, *line).ok_or(Unthinkable::Line(*line))?;
            }
            Change::WithoutDevice(name) => take_away(&mut record, name)?,
        }
    }
    Ok((record, table))
}

/// Takes a device away, with what lies on it.
fn take_away(record: &mut Record, name: &str) -> Result<(), Unthinkable> {
    let found = match Index::new(record).resolve(&Source::parse(name)) {
        Resolution::Found(devices) => devices.iter().map(|d| d.path.clone()).collect::<Vec<_>>(),
        _ => return Err(Unthinkable::Device(name.to_owned())),
    };
    let mut gone = found;
    let mut at = 0;
    let devices = record.devices.get_or_insert_default();
    while at < gone.len() {
        let below = |d: &&Device| d.parents.contains(&gone[at]) && !gone.contains(&d.path);
        let more: Vec<String> = devices.iter().filter(below).map(|d| d.path.clone()).collect();
        gone.extend(more);
        at += 1;
    }
    devices.retain(|d| !gone.contains(&d.path));
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::record::DeviceKind;

    #[test]
    fn forms_of_changes() {
        let options = |line, add: &[&str], drop: &[&str]| {
            let own = |words: &[&str]| words.iter().map(|w| (*w).to_owned()).collect();
            Ok(Change::Options { line, add: own(add), drop: own(drop) })
        };
        assert_eq!("line 4: +nofail".parse(), options(4, &["nofail"], &[]));
        assert_eq!(" line 12: -discard +a=1,b".parse(), options(12, &["a=1", "b"], &["discard"]));
        assert_eq!("without line 4".parse(), Ok(Change::WithoutLine(4)));
        assert_eq!("without /dev/sdb".parse(), Ok(Change::WithoutDevice("/dev/sdb".into())));
        for wrong in
            ["", "line 4", "line x: +a", "line 4:", "line 4: nofail", "without ", "without line x", "+a"]
        {
            assert!(wrong.parse::<Change>().is_err(), "{wrong}");
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
        let (record, table) = changed(&record, &table, &changes).unwrap();
        assert_eq!(record.devices.unwrap().len(), 1);
        assert_eq!(table.bytes(), b"# LABEL=a /a xfs\nLABEL=b /b xfs\n");
        let absent = [Change::WithoutDevice("/dev/sdz".into())];
        assert!(changed(&Record::new("kelp"), &table, &absent).is_err());
    }
}
