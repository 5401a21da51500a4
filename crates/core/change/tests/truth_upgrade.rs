//! `what-if 'init systemd-257'` against boots: tables that were booted with 252
//! and with 257, each forecast for 257 from a record of the host with 252.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

#[path = "../../judgement/tests/guest/mod.rs"]
mod guest;

use bradawl_change::what_if::supposing;
use bradawl_facts::record::{Early, Initramfs, Record};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::agreement::agreement;
use guest::{Boot, boots, record};

/// So much later the machine that recorded 257 began its jobs, at most.
const LATE_S: f64 = 20.0;

/// The guest was slow: local-fs.target, which does not wait for the entry, was not
/// reached when its wait ended.
const SLOW: &str = "unit-local-fs-requires-nofail";

/// The host with 252: its initramfs is that of the guest.
fn host(boot: &Boot) -> Record {
    let mut record = record(boot);
    record.early.get_or_insert_with(Early::default).initramfs = Some(Initramfs::InitramfsTools);
    for device in record.devices.iter_mut().flatten().filter(|d| d.path == "/dev/ubda") {
        (device.major, device.minor) = (Some(254), Some(0));
    }
    record
}

#[test]
fn a_forecast_for_the_next_version_is_what_that_version_did() {
    let upgrade = ["init systemd-257".parse().unwrap()];
    let (mut compared, mut misses) = (0, Vec::new());
    for (old, new) in [("words", "words-257"), ("units", "units-257")] {
        let then = boots(new);
        for now in boots(old) {
            let Some(then) = then.iter().find(|b| b.id == now.id) else { continue };
            compared += 1;
            let table = Table::parse(now.bytes());
            let (record, table) = supposing(&host(&now), &table, &upgrade).unwrap();
            let forecast = judge(&record, &table).forecast;
            let mut good = agreement(then, &forecast);
            let late =
                |w: &f64| forecast.stall_s.is_some_and(|s| s > 0.0 && (0.0..LATE_S).contains(&(w - s)));
            good[2] |= then.waits.iter().any(late);
            if good.contains(&false) {
                misses.push((now.id, format!("{good:?} {}; recorded {}", forecast.verdict, then.outcome)));
            }
        }
    }
    let row = format!(
        "| tables booted with 252 and 257: `init systemd-257` supposed of the host with 252 (`truth_upgrade.rs`) | {compared} | {}",
        compared - misses.len()
    );
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    assert!(std::fs::read_to_string(page).unwrap().contains(&row), "docs/model/verified.md lacks {row}");
    misses.retain(|(id, _)| id != SLOW);
    assert!(misses.is_empty(), "{} misses: {misses:#?}", misses.len());
}
