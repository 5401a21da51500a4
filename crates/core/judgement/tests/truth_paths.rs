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

use bradawl_boot::{EntryState, Forecast, Outcome};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::{Boot, boots, record};

/// Boots that are not forecast as they went, and why.
const NOT_MODELLED: &[(&str, &str)] = &[
    (
        "new-requires-service-fails",
        "no record tells whether a service succeeds: told as assumed, with the worst",
    ),
    ("path-requires-missing-beside-swap", "a swap file on a root that stays read-only is not activated"),
    ("path-mount-dropin-timeout", "drop-ins of device units are not read"),
];

/// Waits are recorded to within so many seconds.
const WAIT_S: f64 = 2.0;

/// What is compared of a boot, each by itself.
fn agreement(boot: &Boot, forecast: &Forecast) -> [bool; 5] {
    // What is not known is told as such: the worst of it counts too.
    if let Some(worst) = &forecast.not_known
        && boot.outcome != "login"
    {
        let ends = match boot.outcome.as_str() {
            "emergency" => worst.outcome == Outcome::Emergency,
            _ => worst.outcome == Outcome::Never,
        };
        return [ends, true, true, true, true];
    }
    let outcome = match boot.outcome.as_str() {
        "login" => forecast.outcome.reaches_login(),
        "emergency" => forecast.outcome == Outcome::Emergency,
        "never" => forecast.outcome == Outcome::Never,
        other => panic!("unknown outcome {other}"),
    };
    let there = |unit: &str| {
        let recorded = boot.units.get(unit).map_or("", String::as_str);
        recorded.contains("active mounted") || recorded.contains("active active")
    };
    // A boot that hid what lists them has no states to tell.
    let states = boot.units.is_empty()
        || forecast.entries.iter().filter(|e| e.target != "/").all(|e| {
            let Some(unit) = &e.unit else { return true };
            match e.state {
                // Not to be sure is not to be wrong.
                EntryState::Unknown => true,
                EntryState::Mounted | EntryState::Active => there(unit) || boot.outcome != "login",
                _ => !there(unit),
            }
        });
    let longest = boot.waits.iter().copied().fold(0.0, f64::max);
    let ended = boot.login_s.or(boot.emergency_s);
    let held = ended.is_some_and(|at| longest > 0.0 && (0.0..0.9).contains(&(at - longest)));
    let waits = match forecast.stall_s {
        Some(0.0) => !held,
        Some(s) => boot.waits.iter().any(|w| (w - s).abs() <= WAIT_S),
        None => boot.outcome == "never",
    };
    let root = boot.mounted.iter().rfind(|m| m.split(' ').nth(1) == Some("/"));
    let read_only = root.and_then(|m| m.split(' ').nth(3)).map(|o| o.split(',').any(|o| o == "ro"));
    let root = boot.outcome != "login" || read_only.is_none_or(|ro| ro == forecast.root_read_only);
    // A boot that never came to a report tells nothing of it.
    let told = boot.local_fs.filter(|_| boot.outcome != "never");
    let local = told.is_none_or(|reached| reached == forecast.local_fs_reached);
    [outcome, states, waits, root, local]
}

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
    // docs/verified.md tells the figures.
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/verified.md");
    let page = std::fs::read_to_string(page).unwrap();
    figures.iter().for_each(|figure| assert!(page.contains(figure), "not told: {figure}"));
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{} new: {new:#?}", new.len());
    let stale: Vec<_> = NOT_MODELLED.iter().filter(|(id, _)| !misses.iter().any(|(m, _)| m == id)).collect();
    assert!(stale.is_empty(), "modelled now: {stale:?}");
}
