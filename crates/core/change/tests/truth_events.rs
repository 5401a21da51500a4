//! Supposed events against boots at which they happened: servers that did not
//! answer, passphrases that nobody typed.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

#[path = "../../judgement/tests/guest/mod.rs"]
mod guest;

use bradawl_boot::server;
use bradawl_change::what_if::{Supposed, supposing};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::agreement::agreement;
use guest::{Boot, boots, record};
use std::collections::BTreeSet;

/// What a boot does with events supposed, where it is not what was recorded.
fn miss(boot: &Boot, events: &[Supposed]) -> Option<String> {
    let table = Table::parse(boot.bytes());
    let (record, table) = supposing(&record(boot), &table, events).unwrap();
    let forecast = judge(&record, &table).forecast;
    let mut good = agreement(boot, &forecast);
    // How long mounts were tried counts as a wait; the mount program's own tries
    // end up to half a minute later.
    let tried = boot.mounting_s.values().copied().fold(0.0, f64::max);
    good[2] |= forecast.stall_s.is_some_and(|s| s > 0.0 && (s..s + 28.0).contains(&(tried + 1.0)));
    let told = || {
        format!(
            "{}: {good:?} {}; recorded {} {:?} {:?}",
            boot.id, forecast.verdict, boot.outcome, boot.waits, boot.units
        )
    };
    good.contains(&false).then(told)
}

/// The figures that docs/model/verified.md tells.
fn told(what: &str, compared: usize, missed: usize) {
    let row = format!("| supposed events: {what} (`truth_events.rs`) | {compared} | {}", compared - missed);
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    assert!(std::fs::read_to_string(page).unwrap().contains(&row), "docs/model/verified.md lacks {row}");
}

#[test]
fn servers_that_did_not_answer() {
    let (mut compared, mut misses) = (0, Vec::new());
    for boot in ["behind", "more", "252", "paths"].iter().flat_map(|set| boots(set)) {
        let entries = Table::parse(boot.bytes()).entries();
        let of_network = entries.iter().filter(|e| bradawl_resolve::is_network_type(&e.fstype));
        let servers: BTreeSet<String> = of_network.filter_map(server).map(str::to_owned).collect();
        // Where no way leads to the server the kernel says so at once.
        if servers.is_empty() || boot.id.ends_with("no-route") {
            continue;
        }
        compared += 1;
        let events: Vec<Supposed> = servers.into_iter().map(Supposed::ServerDown).collect();
        misses.extend(miss(&boot, &events));
    }
    told("servers that did not answer", compared, misses.len());
    assert!(misses.is_empty(), "{} misses: {misses:#?}", misses.len());
}

#[test]
fn passphrases_that_nobody_typed() {
    let (mut compared, mut misses) = (0, Vec::new());
    for boot in ["crypt", "crypt-more"].iter().flat_map(|set| boots(set)) {
        let table = Table::parse(boot.bytes());
        let host = record(&boot);
        // Those that ask somebody; the recordings do not tell how long.
        if judge(&host, &table).forecast.worst.is_none_or(|w| w.asked.is_empty()) {
            continue;
        }
        compared += 1;
        let (host, table) = supposing(&host, &table, &[Supposed::Unattended]).unwrap();
        let forecast = judge(&host, &table).forecast;
        if agreement(&boot, &forecast)[..2] != [true, true] {
            misses.push(format!("{}: {}; recorded {}", boot.id, forecast.verdict, boot.outcome));
        }
    }
    told("passphrases that nobody typed", compared, misses.len());
    assert!(misses.is_empty(), "{} misses: {misses:#?}", misses.len());
}
