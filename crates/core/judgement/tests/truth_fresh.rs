//! The forecast against boots of mixed kinds that were written down before the model
//! was asked about any (`lab/boot-scenarios-fresh.py`, booted by `lab/run-machine.py`).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::agreement::agreement;
use guest::{boots, record};

/// Boots that are not forecast as they went, and why.
const NOT_MODELLED: &[(&str, &str)] = &[
    (
        "fresh-entry-job-limit",
        "the recording times devices alone: its emergency mode came after 7 s, as forecast",
    ),
    ("fresh-local-fs-limit", "JobTimeoutSec= of a target is not played: told as assumed"),
    ("fresh-entry-wanted-only", "the guest was slow: a limit of 6 s took it 11"),
    ("fresh-swapfile-behind-lost-nofail", "the same: 27 s"),
    ("fresh-var-lost-nofail", "the same: 10 s"),
    ("fresh-parent-automount-lost", "the same: 11 s"),
    ("fresh-image-behind-lost", "the same: 16 s"),
    (
        "fresh-word-start-limit",
        "the same: a sound mount took longer than the 8 s that the scenario leaves it",
    ),
    (
        "mixed-dropin-conflicts",
        "which of two units that exclude each other is left out hangs on the transaction: told as not known",
    ),
    ("mixed-service-conflicts", "the same"),
    ("third-swap-job-limit", "the recording times devices alone: login came after 15 s, as forecast"),
    (
        "third-automount-lost-service",
        "the recording times multi-user.target, which a service has wait; login itself comes before",
    ),
    ("third-automount-lost-needed", "the same"),
    ("third-mask-tmp-entry", "something starts the other entry later, with a masked /tmp alone"),
    ("third-makes-directory", "no record tells whether a service succeeds: told as assumed"),
    ("third-stops-mount", "no record tells what a service does"),
    (
        "third-local-requires-online",
        "all is there as forecast; local-fs.target itself is what the circle lost",
    ),
    ("third-netdev-parent", "the same"),
    ("third-opt-tmpfs-huge", "a kernel without huge pages, whose configuration is not in this record"),
    ("dots-onfailure-reboot", "what OnFailure= starts may come before login or not: told as not known"),
    (
        "mixed-multi-user-after-nofail",
        "the recording times multi-user.target, which a drop-in has wait; login itself comes before",
    ),
    ("mixed-net-virtiofs", "whether the virtual machine has the share is in no record: told as assumed"),
    ("fresh-service-before-local", "no record tells whether a service succeeds: told as assumed"),
];

#[test]
fn agrees_with_boots_written_down_before() {
    agrees("fresh", "");
    agrees("mixed", ", the second time");
    agrees("dots", ", what that showed");
    agrees("third", ", the third time");
    agrees("mixed-262", ", some of them with 262");
}

/// Holds a set against the forecast, and the page's row that names it with these words.
fn agrees(set: &str, words: &str) {
    let mut misses = Vec::new();
    let boots = boots(set);
    for boot in &boots {
        let forecast = judge(&record(boot), &Table::parse(boot.bytes())).forecast;
        let good = agreement(boot, &forecast).to_vec();
        if good.contains(&false) {
            let states: Vec<_> = forecast.entries.iter().map(|e| (&e.unit, e.state)).collect();
            let told = format!(
                "{good:?} {}; {states:?} recorded {} {:?} {:?}",
                forecast.verdict, boot.outcome, boot.waits, boot.units
            );
            misses.push((boot.id.clone(), told));
        }
    }
    let right = boots.len() - misses.len();
    println!("{set}: {} boots, {right} right in all", boots.len());
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    let row = format!("(`truth_fresh.rs`){words} | {} | {right} ", boots.len());
    let page = std::fs::read_to_string(page).unwrap();
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{} new: {new:#?}", new.len());
    let stale: Vec<_> = NOT_MODELLED
        .iter()
        .filter(|(id, _)| id.starts_with(set))
        .filter(|(id, _)| !misses.iter().any(|(m, _)| m == id))
        .collect();
    assert!(stale.is_empty(), "modelled now: {stale:?}");
    assert!(page.contains(&row), "docs/model/verified.md lacks {row}");
}
