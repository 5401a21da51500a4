//! The forecast against recorded boots of what stands behind something else: a
//! container, a volume group, a server that does not answer.
//!
//! The servers of these boots answer nothing, so their worst boot is held
//! against the recording; nobody is at the console.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_boot::{EntryState, Forecast, Outcome};
use bradawl_facts::record::{PathFacts, PathKind, Programs, Record};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::{Boot, boots};

/// Boots that are not modelled, and why.
const NOT_MODELLED: [(&str, &str); 2] = [
    ("behind-noauto-wrong-key", "whether a key opens its container is not in the record"),
    (
        "behind-net-nfs-no-route",
        "a network without a route refuses at once; the worst boot supposes a server that is silent",
    ),
];

/// The guest as it was in these boots: it has the programs of network types.
fn record(boot: &Boot) -> Record {
    let mut record = guest::record(boot);
    let helpers = ["nfs", "nfs4", "cifs", "smb3"].map(String::from).to_vec();
    record.programs = Some(Programs { mount_helpers: helpers, ..record.programs.unwrap_or_default() });
    record.paths.push(PathFacts::new("/etc/missing", PathKind::Absent));
    record
}

/// How the boot ends and what it waits with nobody there and no server. A key
/// opens its container, unless the boot is about one that does not.
fn worst(boot: &Boot, forecast: &Forecast) -> (Outcome, Option<f64>) {
    let bad = ["-ask", "-net-", "-wrong-key"].iter().any(|what| boot.id.contains(what));
    forecast
        .worst
        .as_ref()
        .filter(|_| bad)
        .map_or((forecast.outcome, forecast.stall_s), |w| (w.outcome, w.stall_s))
}

fn outcome_agrees(boot: &Boot, outcome: Outcome) -> bool {
    match boot.outcome.as_str() {
        "login" => outcome.reaches_login(),
        "emergency" => outcome == Outcome::Emergency,
        "never" => outcome == Outcome::Never,
        other => panic!("unknown outcome {other}"),
    }
}

/// Waits for devices are recorded to within 2 s; a mount program that looks for
/// a helper of its own takes up to 20 s of this machine before it gives up.
fn stall_agrees(boot: &Boot, stall: Option<f64>) -> bool {
    let Some(stall) = stall else { return boot.outcome == "never" };
    let nofail = boot.table.contains("nofail");
    let devices = boot.waits.iter().copied().filter(|_| boot.outcome != "login" || !nofail);
    let mounting = boot.mounting_s.values().copied().filter(|_| !nofail);
    let held = devices.chain(mounting).fold(0.0, f64::max);
    (stall..stall + 28.0).contains(&(held + 1.0))
}

/// What is certain of an entry is what was found; of an unknown one nothing is
/// said.
fn states_agree(boot: &Boot, forecast: &Forecast) -> bool {
    forecast.entries.iter().all(|entry| {
        let Some(unit) = &entry.unit else { return true };
        let recorded = boot.units.get(unit).is_some_and(|s| s.contains("active mounted"));
        match entry.state {
            EntryState::Unknown => true,
            EntryState::Mounted | EntryState::Active => recorded || boot.outcome != "login",
            _ => !recorded,
        }
    })
}

/// Entries that are refused before a server is asked, so that nothing about
/// them is uncertain.
const CERTAIN: [&str; 8] = [
    "net-nfs-no-colon",
    "net-nfs-slashes",
    "net-nfs-no-host",
    "net-cifs-no-credentials",
    "net-cifs-colon",
    "net-cifs-no-share",
    "net-cifs-one-slash",
    "net-sshfs",
];

#[test]
fn agrees_with_recorded_boots() {
    let boots = boots("behind");
    let mut right = 0;
    let mut misses = Vec::new();
    for boot in &boots {
        let forecast = judge(&record(boot), &Table::parse(boot.bytes())).forecast;
        let (outcome, stall) = worst(boot, &forecast);
        let local =
            outcome != forecast.outcome || boot.local_fs.is_none_or(|l| l == forecast.local_fs_reached);
        let certain = !CERTAIN.iter().any(|id| boot.id.ends_with(id))
            || forecast.entries.iter().any(|e| e.state.is_absent());
        let good = [
            outcome_agrees(boot, outcome),
            stall_agrees(boot, stall),
            states_agree(boot, &forecast),
            certain,
            local,
        ];
        if good.contains(&false) {
            misses.push((boot.id.as_str(), format!("{good:?} {outcome:?} {stall:?}, {}", boot.outcome)));
        } else {
            right += 1;
        }
    }
    println!("behind: {right} of {} boots right", boots.len());
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{new:#?}");
    assert!(NOT_MODELLED.iter().all(|(id, _)| misses.iter().any(|(miss, _)| miss == id)), "modelled now");
}
