//! Encrypted containers that crypttab(5) has unlocked.

use bradawl_facts::record::Record;
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};

/// Whether the mapping is formatted at each boot, with a new key: `swap` in its
/// options.
pub(crate) fn made_anew(record: &Record, source: &Source) -> bool {
    let Source::Device(path) = source else { return false };
    let name = path.strip_prefix("/dev/mapper/").unwrap_or_default();
    let crypttab = record.early.as_ref().and_then(|e| e.crypttab.as_ref());
    let entry = crypttab.and_then(|all| all.iter().find(|e| e.name == name));
    entry.is_some_and(|e| e.has("swap") && e.key.is_some())
}

/// Why the device of a mapping is not there yet, when crypttab has it: it
/// comes when it is unlocked.
pub(crate) fn unlocked_later(record: &Record, index: &Index<'_>, source: &Source) -> Option<String> {
    let Source::Device(path) = source else { return None };
    let name = path.strip_prefix("/dev/mapper/")?;
    let entry = record.early.as_ref()?.crypttab.as_ref()?.iter().find(|e| e.name == name)?;
    // systemd opens one with noauto too, for whoever asks for the mapping by
    // this name (recorded).
    let opened = !entry.has("noauto") || record.host.boots_with().is_systemd();
    let lost = matches!(index.resolve(&Source::parse(&entry.source)), Resolution::Absent);
    if lost || !opened {
        return None;
    }
    if made_anew(record, source) {
        return None;
    }
    Some(match &entry.key {
        Some(key) => format!("it comes when {} is unlocked with the key {}", visible(name), visible(key)),
        None => format!("it comes when somebody types the passphrase of {}", visible(name)),
    })
}
