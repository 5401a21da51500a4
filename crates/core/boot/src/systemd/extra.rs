//! Mounts and swap that the kernel's command line adds to the table
//! (`systemd.mount-extra=`, `systemd.swap-extra=`; recorded with 257, without
//! effect in 252).

use super::super::request::{Request, each};
use bradawl_catalogue::SystemdVersion;
use bradawl_facts::record::{CommandLine, Record};
use bradawl_facts::table::{Table, encode};
use bradawl_resolve::Index;

/// More of them are passed over.
const MAX_EXTRA: usize = 100;

/// What it adds, as requests of line 0.
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
    let text: Vec<u8> = mounts.chain(swaps).take(MAX_EXTRA).flatten().collect();
    let mut requests = each(record, index, &Table::parse(text));
    requests.iter_mut().for_each(|r| (r.entry.line, r.unmade) = (0, false));
    requests
}

fn as_line(fields: &[&str]) -> Vec<u8> {
    let fields = fields.iter().map(|f| encode(if f.is_empty() { b"defaults" } else { f.as_bytes() }));
    let mut line = fields.collect::<Vec<_>>().join(&b' ');
    line.push(b'\n');
    line
}
