//! systemd's boot: entries become units; devices are waited for side by side;
//! a required local mount that fails ends in emergency mode.
//!
//! What is modelled follows systemd.mount(5), systemd-fstab-generator(8) and
//! 127 recorded boots of version 252 (test `truth_boots`).

mod ending;
mod settle;

use super::forecast::{EntryForecast, EntryState, Event, Forecast, Outcome};
use super::request::Request;
use crate::record::{InitKind, Origin, Record};
use crate::resolve::Index;
use settle::Settled;

/// `DefaultDeviceTimeoutSec` when nothing is configured.
const DEVICE_TIMEOUT_S: f64 = 90.0;

pub(super) fn forecast(record: &Record, index: &Index<'_>, requests: &[Request<'_>]) -> Forecast {
    let configured = record.host.init.as_ref().and_then(|i| i.device_timeout_s);
    let settled = settle::settle_all(requests, configured.unwrap_or(DEVICE_TIMEOUT_S));
    let entries: Vec<EntryForecast> = requests.iter().zip(settled).map(|(r, s)| entry(r, s)).collect();
    let read_only = ending::root_read_only(record, requests);
    let (mut outcome, mut stall_s) = ending::outcome(requests, &entries, read_only);
    let mut events = ending::events(&entries, outcome, stall_s);
    if let Some(root) = ending::lost_root(record, index) {
        (outcome, stall_s) = (Outcome::NoRoot, Some(0.0));
        let what = format!("root={root} is not found: boot ends in the initramfs");
        events = vec![Event { at_s: 0.0, unit: "/".to_owned(), what }];
    }
    Forecast {
        init: init_name(record),
        outcome,
        reaches_login: outcome.reaches_login(),
        stall_s,
        verdict: ending::verdict(outcome, stall_s, &entries, read_only),
        root_read_only: read_only,
        assumed: assumed(record, &entries),
        entries,
        events,
    }
}

fn entry(request: &Request<'_>, settled: Settled) -> EntryForecast {
    EntryForecast {
        line: request.line(),
        source: request.entry.source.clone(),
        target: request.entry.target.clone(),
        unit: settle::unit(request, &settled),
        consequence: ending::consequence(request, &settled),
        state: settled.state,
        stall_s: settled.at,
        why: settled.why,
        because_of: settled.because_of,
    }
}

fn init_name(record: &Record) -> String {
    let version = record.host.init.as_ref().and_then(|i| i.version.as_deref());
    version.map_or_else(|| "systemd".to_owned(), |v| format!("systemd {v}"))
}

fn assumed(record: &Record, entries: &[EntryForecast]) -> Vec<String> {
    let mut assumed = Vec::new();
    match record.host.init.as_ref().map(|i| (i.kind, i.running)) {
        None => assumed.push("the init system is not known: systemd is assumed".to_owned()),
        Some((InitKind::Systemd, Some(false))) => {
            assumed.push("systemd is installed but not running: this host may not boot with it".to_owned());
        }
        Some((InitKind::Other, _)) => {
            assumed.push("the first process is no init system known here: systemd is assumed".to_owned());
        }
        _ => {}
    }
    if record.host.origin == Some(Origin::Image) {
        assumed.push("the images given are all the disks that the host has".to_owned());
    }
    for entry in entries.iter().filter(|e| e.state == EntryState::Unknown && e.because_of.is_none()) {
        assumed.push(format!("line {}: {}; it is taken to work", entry.line, entry.why));
    }
    assumed
}
