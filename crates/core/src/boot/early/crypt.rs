//! Encrypted containers that crypttab(5) has unlocked.

use crate::record::Record;
use crate::resolve::{Index, Resolution, Source};
use crate::text::visible;

/// Why the device of a mapping is not there yet, when crypttab has it: it
/// comes when it is unlocked.
pub(in crate::boot) fn unlocked_later(record: &Record, index: &Index<'_>, source: &Source) -> Option<String> {
    let Source::Device(path) = source else { return None };
    let name = path.strip_prefix("/dev/mapper/")?;
    let entry = record.early.as_ref()?.crypttab.as_ref()?.iter().find(|e| e.name == name)?;
    if matches!(index.resolve(&Source::parse(&entry.source)), Resolution::Absent) {
        return None;
    }
    Some(match &entry.key {
        Some(key) => format!("it comes when {} is unlocked with the key {}", visible(name), visible(key)),
        None => format!("it comes when somebody types the passphrase of {}", visible(name)),
    })
}
