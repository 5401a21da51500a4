//! Mounts and swap beside the table: those that the kernel's command line adds
//! (`systemd.mount-extra=`, `systemd.swap-extra=`; recorded with 257, without
//! effect in 252), and mount units of the host's own that the boot starts.

use super::super::request::{Request, each};
use bradawl_catalogue::SystemdVersion;
use bradawl_facts::map::Set;
use bradawl_facts::record::{CommandLine, LocalUnit, Record};
use bradawl_facts::table::{Table, encode};
use bradawl_resolve::Index;

/// More of them are passed over.
const MAX_EXTRA: usize = 100;

/// Those of the command line, as requests of line 0.
pub(super) fn extra<'a>(record: &'a Record, index: &'a Index<'a>) -> Vec<Request<'a>> {
    if !SystemdVersion::of(record).knows_extra() {
        return Vec::new();
    }
    let line = CommandLine::of(record);
    let mounts = line.values("systemd.mount-extra").into_iter().filter_map(|value| {
        let mut parts = value.splitn(4, ':');
        let (what, target) = (parts.next()?, parts.next()?);
        let fstype = parts.next().filter(|t| !t.is_empty()).unwrap_or("auto");
        Some(as_line(&[what, target, fstype, parts.next().unwrap_or("defaults"), "0", "2"]))
    });
    let swaps = line.values("systemd.swap-extra").into_iter().map(|value| {
        let (what, options) = value.split_once(':').unwrap_or((&value, "defaults"));
        as_line(&[what, "none", "swap", options, "0", "0"])
    });
    beside(record, index, mounts.chain(swaps))
}

fn beside<'a>(
    record: &'a Record,
    index: &'a Index<'a>,
    lines: impl Iterator<Item = Vec<u8>>,
) -> Vec<Request<'a>> {
    let text: Vec<u8> = lines.take(MAX_EXTRA).flatten().collect();
    let mut requests = each(record, index, &Table::parse(text));
    requests.iter_mut().for_each(|r| (r.entry.line, r.unmade) = (0, false));
    requests
}

/// Mount units of the host's own that the boot starts and no entry stands for, as requests of
/// line 0: local-fs.target fails with those that it requires.
pub(super) fn own_units<'a>(
    record: &'a Record,
    index: &'a Index<'a>,
    requests: &[Request<'_>],
) -> Vec<Request<'a>> {
    let lines = unasked_mounts(record, |name| requests.iter().any(|r| r.unit == name)).filter_map(|unit| {
        let fstype = unit.fstype.as_deref().unwrap_or("auto");
        let options = unit.options.as_deref().unwrap_or("defaults");
        // The target that demands it says so itself; the unit's own words say nothing of it.
        let options = format!("{options},nofail");
        Some(as_line(&[unit.what.as_deref()?, unit.target.as_deref()?, fstype, &options, "0", "0"]))
    });
    beside(record, index, lines)
}

/// Mount units of the host's own that the boot starts and no entry stands for.
fn unasked_mounts(record: &Record, is_entry: impl Fn(&str) -> bool) -> impl Iterator<Item = &LocalUnit> {
    let local = record.units.as_deref().unwrap_or_default();
    let of_targets = local.iter().filter(|u| u.name.ends_with(".target"));
    let by_target: Set<&str> =
        of_targets.flat_map(|u| u.requires.iter().chain(&u.wants)).map(String::as_str).collect();
    let own = local.iter().filter(|u| u.name.ends_with(".mount") && !u.drop_ins && !u.masked);
    let started = own.filter(move |u| u.wanted == Some(true) || by_target.contains(u.name.as_str()));
    started.filter(move |u| !is_entry(&u.name))
}

fn as_line(fields: &[&str]) -> Vec<u8> {
    let fields = fields.iter().map(|f| encode(if f.is_empty() { b"defaults" } else { f.as_bytes() }));
    let mut line = fields.collect::<Vec<_>>().join(&b' ');
    line.push(b'\n');
    line
}
