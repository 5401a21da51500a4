//! Encrypted containers that crypttab(5) has unlocked.

use bradawl_facts::record::{CommandLine, CryptEntry, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Resolution, Source};
use std::borrow::Cow;

/// The containers that the init system opens: those of crypttab, unless the
/// kernel's command line switches it off, and those that the command line names
/// (recorded with 252). Where it names any, entries of others do not count
/// (systemd-cryptsetup-generator(8); not recorded).
pub(crate) fn crypttab(record: &Record) -> Cow<'_, [CryptEntry]> {
    let line = CommandLine::of(record);
    let systemd = record.host.boots_with().is_systemd();
    let entries = record.early.as_ref().and_then(|e| e.crypttab.as_deref()).unwrap_or_default();
    if !systemd || !line.words().any(|w| w.starts_with("luks")) {
        return Cow::Borrowed(entries);
    }
    if line.denies("luks") {
        return Cow::Borrowed(&[]);
    }
    let entries = if line.denies("luks.crypttab") { &[] } else { entries };
    let named = named_on(line);
    if named.is_empty() {
        return Cow::Borrowed(entries);
    }
    let of_name = |(uuid, name): (String, Option<String>)| {
        let source = format!("UUID={uuid}");
        let listed = entries.iter().find(|e| e.source.eq_ignore_ascii_case(&source)).cloned();
        listed.unwrap_or_else(|| CryptEntry {
            name: name.unwrap_or_else(|| format!("luks-{uuid}")),
            source,
            key: None,
            options: String::new(),
        })
    };
    Cow::Owned(named.into_iter().map(of_name).collect())
}

/// The UUIDs, and names, of containers on the command line.
fn named_on(line: CommandLine<'_>) -> Vec<(String, Option<String>)> {
    let plain = |uuid: &str| uuid.strip_prefix("luks-").unwrap_or(uuid).to_lowercase();
    let mut named: Vec<(String, Option<String>)> =
        line.values("luks.uuid").iter().map(|uuid| (plain(uuid), None)).collect();
    for value in line.values("luks.name") {
        let Some((uuid, name)) = value.split_once('=') else { continue };
        let (uuid, name) = (plain(uuid), Some(name.to_owned()));
        match named.iter_mut().find(|(other, _)| *other == uuid) {
            Some(there) => there.1 = name,
            None => named.push((uuid, name)),
        }
    }
    named
}

/// Whether the mapping is formatted at each boot, with a new key: `swap` in its
/// options.
pub(crate) fn made_anew(record: &Record, source: &Source) -> bool {
    let Source::Device(path) = source else { return false };
    let name = path.strip_prefix("/dev/mapper/").unwrap_or_default();
    let entries = crypttab(record);
    entries.iter().find(|e| e.name == name).is_some_and(|e| e.has("swap") && e.key.is_some())
}

/// Why the device of a mapping is not there yet, when crypttab has it: it
/// comes when it is unlocked.
pub(crate) fn unlocked_later(record: &Record, index: &Index<'_>, source: &Source) -> Option<String> {
    let Source::Device(path) = source else { return None };
    let name = path.strip_prefix("/dev/mapper/")?;
    let entries = crypttab(record);
    let entry = entries.iter().find(|e| e.name == name)?;
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
