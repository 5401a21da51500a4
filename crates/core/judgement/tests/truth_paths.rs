//! The forecast against recorded boots about what a path means at that moment:
//! images, swap files, binds, overlays and targets on other entries' mounts,
//! what hides the system, root's remount, services that entries ask for.
//!
//! `fixtures/boots-paths.jsonl` was given, `boots-paths-own.jsonl` recorded by
//! `lab/boot-scenarios-paths.py`. What the record cannot tell, or the model does
//! not know yet, is listed with its reason; the list may only shrink.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_boot::Outcome;
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::agreement::agreement;
use guest::{boots, record};

/// Boots that are not forecast as they went, and why.
const NOT_MODELLED: &[(&str, &str)] = &[(
    "new-requires-service-fails",
    "no record tells whether a service succeeds: told as assumed, with the worst",
)];

#[test]
fn agrees_with_boots_about_paths() {
    let (mut misses, mut figures) = (Vec::new(), Vec::new());
    for set in ["paths", "paths-own"] {
        let boots = boots(set);
        let (mut right, mut whole, mut sure_and_wrong) = ([0; 5], 0, 0);
        for boot in &boots {
            let forecast = judge(&record(boot), &Table::parse(boot.bytes())).forecast;
            let good = agreement(boot, &forecast);
            good.iter().zip(&mut right).for_each(|(good, right)| *right += usize::from(*good));
            whole += usize::from(!good.contains(&false));
            if good.contains(&false) {
                sure_and_wrong += usize::from(forecast.outcome != Outcome::NotKnown);
                misses.push((
                    boot.id.clone(),
                    format!(
                        "{good:?} {}; recorded {} {:?} {:?}",
                        forecast.verdict, boot.outcome, boot.waits, boot.units
                    ),
                ));
            }
        }
        figures.push(format!("| {} | {whole}; ", boots.len()));
        println!(
            "{set}: {} boots: {whole} right in all; outcome {}, states {}, waits {}, root {}, local-fs {}; {sure_and_wrong} sure and wrong",
            boots.len(),
            right[0],
            right[1],
            right[2],
            right[3],
            right[4]
        );
    }
    // docs/model/verified.md tells the figures.
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    let page = std::fs::read_to_string(page).unwrap();
    figures.iter().for_each(|figure| assert!(page.contains(figure), "not told: {figure}"));
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{} new: {new:#?}", new.len());
    let stale: Vec<_> = NOT_MODELLED.iter().filter(|(id, _)| !misses.iter().any(|(m, _)| m == id)).collect();
    assert!(stale.is_empty(), "modelled now: {stale:?}");
}
