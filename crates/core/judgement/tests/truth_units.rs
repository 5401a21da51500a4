//! The forecast against recorded boots about the init system's own side: what
//! its generator aborts at or rejects, drop-ins, units of one's own, services
//! that entries ask for, file systems made and grown by the boot
//! (`lab/boot-scenarios-units.py`, booted by `lab/run-machine.py`).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::agreement::agreement;
use guest::{boots, record};

/// Boots that are not forecast as they went, and why.
const NOT_MODELLED: &[(&str, &str)] = &[
    ("crypt-headless-key", "what an unopened container holds is not known: an empty one is never ready"),
    ("crypt-unknown-option", "the same"),
    ("crypt-netdev", "the same"),
    ("crypt-header-missing", "whether a key opens its container is not known: told as assumed"),
    ("crypt-key-on-device", "the same"),
    (
        "unit-local-fs-requires-nofail",
        "the guest was slow: local-fs.target, which does not wait for the entry, was not reached when its wait ended",
    ),
    ("unit-service-hangs", "no record tells whether a service succeeds: told as assumed, with the worst"),
];

#[test]
fn agrees_with_boots_about_units() {
    let mut misses = Vec::new();
    for set in ["units", "units-257", "crypt-more", "conditions"] {
        let boots = boots(set);
        let before = misses.len();
        for boot in &boots {
            let forecast = judge(&record(boot), &Table::parse(boot.bytes())).forecast;
            // Nobody was at the recording's console: of passphrases the worst counts.
            let typed = forecast.worst.as_ref().filter(|w| set == "crypt-more" && !w.asked.is_empty());
            let good = match typed {
                Some(worst) => vec![boot.outcome == worst.outcome.name()],
                None => agreement(boot, &forecast).to_vec(),
            };
            if good.contains(&false) {
                let told = format!(
                    "{good:?} {}; recorded {} {:?} {:?}",
                    forecast.verdict, boot.outcome, boot.waits, boot.units
                );
                misses.push((boot.id.clone(), told));
            }
        }
        println!("{set}: {} boots, {} right in all", boots.len(), boots.len() + before - misses.len());
    }
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{} new: {new:#?}", new.len());
    let stale: Vec<_> = NOT_MODELLED.iter().filter(|(id, _)| !misses.iter().any(|(m, _)| m == id)).collect();
    assert!(stale.is_empty(), "modelled now: {stale:?}");
}
