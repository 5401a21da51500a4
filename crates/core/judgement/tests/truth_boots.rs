//! The forecast against recorded boots of a real guest.
//!
//! `fixtures/boots-*.jsonl` holds, for every scenario, the table as booted,
//! the disks, and what happened. Misses that are known and not yet modelled
//! are listed with their reason; the list may only shrink.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_boot::{EntryState, Forecast, Outcome, mount_unit};
use bradawl_facts::Consequence;
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::{Boot, boots, record, surveyed};

/// Scenarios the model does not reach yet, and why.
const NOT_MODELLED: [(&str, &str); 7] = [
    (
        "pass-cracked-0-required",
        "recorded errors that nothing checks: told as not known, with the worst boot",
    ),
    (
        "crypt-key",
        "the opened container holds nothing, and is never ready; what it holds is not in the record",
    ),
    ("crypt-noauto", "the same: with a container that holds something it is opened (truth_behind.rs)"),
    ("crypt-wrong-key", "whether a key file opens its container is not in the record"),
    ("crypt-no-key", "the same"),
    ("swap-lost-6", "the machine was so loaded that the wait of 6 s took 8.4"),
    ("after-lost-6", "the same: 8.6"),
];

fn forecast(boot: &Boot) -> Forecast {
    judge(&record(boot), &Table::parse(boot.bytes())).forecast
}

/// The same from the record that the program took inside the guest: facts as
/// a survey finds them, and not as the recording describes its disks.
#[test]
fn agrees_from_surveyed_records() {
    let boots = boots("252");
    let mut right = [0; 3];
    let mut misses = Vec::new();
    for boot in &boots {
        let forecast = judge(&surveyed(boot), &Table::parse(boot.table.as_str())).forecast;
        let states = states_agree(boot, &forecast);
        let good = [outcome_agrees(boot, &forecast), states.is_ok(), stall_agrees(boot, &forecast)];
        for (n, good) in good.iter().enumerate() {
            right[n] += usize::from(*good);
        }
        if good.contains(&false) {
            misses.push(format!(
                "{}: {good:?} {:?} {:?} s, {states:?}",
                boot.id, forecast.outcome, forecast.stall_s
            ));
        }
    }
    println!(
        "252, surveyed: {} boots: outcome {}, states {}, stall {} right",
        boots.len(),
        right[0],
        right[1],
        right[2]
    );
    assert!(misses.is_empty(), "{misses:#?}");
}

fn outcome_agrees(boot: &Boot, forecast: &Forecast) -> bool {
    match boot.outcome.as_str() {
        "login" => forecast.reaches_login,
        "emergency" => forecast.outcome == Outcome::Emergency,
        "never" => forecast.outcome == Outcome::Never,
        "no-root" => forecast.outcome == Outcome::NoRoot,
        other => panic!("unknown outcome {other}"),
    }
}

/// The recorded wait for a lost device, where login or emergency mode came
/// only after it.
fn stall_agrees(boot: &Boot, forecast: &Forecast) -> bool {
    let ended = boot.login_s.or(boot.emergency_s);
    let longest = boot.waits.iter().copied().fold(0.0, f64::max);
    // A wait that ended more than 2 s before login held nothing up that the
    // loaded machine did not.
    let held = ended.is_some_and(|at| longest > 0.0 && at - longest < 10.0);
    match forecast.stall_s {
        None => boot.outcome == "never",
        // The initramfs gives up (recorded in the console: after 30 s).
        Some(s) if boot.outcome == "no-root" => s == 30.0,
        Some(s) if held => (s - longest).abs() <= 2.0,
        Some(s) => s == 0.0,
    }
}

/// Waits are recorded to within so many seconds.
const WAIT_S: f64 = 2.0;
/// What the loaded machine took for the boot itself, at most.
const MACHINE_S: f64 = 12.0;

/// The same for waits that are short beside the boot's own seconds: a boot that
/// ends at once when a wait does was held up by it. Where emergency mode came
/// is when it came; where the moment of login was lost, only the wait is told.
fn stall_agrees_nearly(boot: &Boot, forecast: &Forecast) -> bool {
    let Some(s) = forecast.stall_s else { return boot.outcome == "never" };
    let waited = |s: f64| boot.waits.iter().any(|wait| (wait - s).abs() <= WAIT_S);
    match (boot.login_s, boot.emergency_s) {
        (None, None) => boot.outcome == "login" && (s == 0.0 || waited(s)),
        (None, Some(at)) if s > 0.0 && !boot.waits.is_empty() => (at - s).abs() <= WAIT_S || waited(s),
        (Some(at), _) | (None, Some(at)) => {
            let held = boot.waits.iter().any(|wait| (0.0..0.9).contains(&(at - wait)));
            let in_time = (0.0..MACHINE_S).contains(&(at - s));
            if s > 0.0 { (boot.waits.is_empty() || waited(s)) && in_time } else { !held }
        }
    }
}

/// Whether root was left as the forecast says: writable, or read-only. A boot
/// that stopped may not have come to it.
fn root_agrees(boot: &Boot, forecast: &Forecast) -> bool {
    let root = boot.mounted.iter().rfind(|m| m.split(' ').nth(1) == Some("/"));
    let options = root.and_then(|m| m.split(' ').nth(3)).filter(|_| boot.outcome == "login");
    options.is_none_or(|o| o.split(',').any(|o| o == "ro") == forecast.root_read_only)
}

/// Whether what the forecast says of each entry is what was found mounted.
fn states_agree(boot: &Boot, forecast: &Forecast) -> Result<(), String> {
    for entry in &forecast.entries {
        let Some(unit) = &entry.unit else { continue };
        let recorded = boot.units.get(unit).map(String::as_str);
        // What was mounted after the units were listed counts too.
        let mounted = || boot.mounted.iter().any(|m| is_mount_of(m, unit));
        let active = recorded.is_some_and(|s| s.contains("active mounted") || s.contains("active active"));
        let there = active || (boot.outcome == "login" && mounted());
        let forecast_there = matches!(entry.state, EntryState::Mounted | EntryState::Active);
        // Emergency mode may stop entries that would have worked.
        if there != forecast_there && !(boot.outcome != "login" && forecast_there) {
            return Err(format!("{} ({unit}): {:?}, recorded {recorded:?}", entry.target, entry.state));
        }
    }
    Ok(())
}

/// Whether a line of what was mounted (source, target, type, options) is the
/// mount itself, and not its automount.
fn is_mount_of(line: &str, unit: &str) -> bool {
    let mut words = line.split(' ').skip(1);
    words.next().is_some_and(|target| mount_unit(target) == unit) && words.next() != Some("autofs")
}

/// The same by what was mounted, where there are no units; a boot that stopped
/// had mounted nothing yet.
fn mounts_agree(boot: &Boot, forecast: &Forecast) -> Result<(), String> {
    let paths = forecast.entries.iter().filter(|e| e.target.starts_with('/') && boot.outcome == "login");
    for entry in paths {
        let recorded = boot.mounted.iter().any(|m| is_mount_of(m, &mount_unit(&entry.target)));
        if recorded != (entry.state == EntryState::Mounted) {
            return Err(format!("{}: {:?}, recorded {recorded}", entry.target, entry.state));
        }
    }
    Ok(())
}

/// The forecast of a boot that nobody attends.
fn unattended(boot: &Boot) -> (Outcome, Option<f64>) {
    let forecast = forecast(boot);
    let worst = forecast.worst.filter(|w| !w.asked.is_empty());
    worst.map_or((forecast.outcome, forecast.stall_s), |w| (w.outcome, w.stall_s))
}

/// How far the forecasts of one set of boots agree: outcome, states, stall.
fn agreement(name: &str, misses: &mut Vec<(String, String)>) -> String {
    let boots = boots(name);
    let mut right = [0; 4];
    for boot in &boots {
        let mut forecast = forecast(boot);
        if name == "crypt" {
            (forecast.outcome, forecast.stall_s) = unattended(boot);
            forecast.reaches_login = forecast.outcome.reaches_login();
        }
        let scripts = name == "sysv";
        let states = if scripts { mounts_agree(boot, &forecast) } else { states_agree(boot, &forecast) };
        let good = [
            outcome_agrees(boot, &forecast),
            states.is_ok(),
            stall_of_set(name, boot, &forecast),
            root_agrees(boot, &forecast),
        ];
        good.iter().zip(&mut right).for_each(|(good, right)| *right += usize::from(*good));
        if good.contains(&false) {
            misses.push((
                boot.id.clone(),
                format!("{good:?} {:?} {:?} s, {states:?}", forecast.outcome, forecast.stall_s),
            ));
        }
    }
    format!(
        "{name:<6} {:>5} boots  {:>5} outcome  {:>5} states  {:>5} stall  {:>5} root",
        boots.len(),
        right[0],
        right[1],
        right[2],
        right[3]
    )
}

/// Whether the wait agrees, as far as a set's seconds tell.
fn stall_of_set(name: &str, boot: &Boot, forecast: &Forecast) -> bool {
    match name {
        // Scripts wait for nothing; their seconds are the boot's own.
        "sysv" => forecast.stall_s == Some(0.0),
        "247" | "257" | "262" | "more" | "crypt" => stall_agrees_nearly(boot, forecast),
        _ => stall_agrees(boot, forecast),
    }
}

/// systemd 252, more of it that the first set leaves open, encrypted containers
/// (nobody is at the console), what differs in 257, and the script-driven init.
#[test]
fn agrees_with_recorded_boots() {
    let mut misses = Vec::new();
    for name in ["252", "more", "crypt", "247", "257", "262", "sysv"] {
        println!("{}", agreement(name, &mut misses));
    }
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{new:#?}");
    let mut stale = NOT_MODELLED.iter().filter(|(known, _)| !misses.iter().any(|(id, _)| id == known));
    assert!(stale.next().is_none(), "modelled now: {:?}", stale.collect::<Vec<_>>());
}

/// What a recorded boot did to somebody who waits for it, as a consequence;
/// `None` when everything asked for was there.
fn happened(boot: &Boot, forecast: &Forecast) -> Option<Consequence> {
    if boot.outcome != "login" {
        return Some(Consequence::Halt);
    }
    let asked = forecast.entries.iter().filter(|e| e.state != EntryState::Manual);
    let absent = asked.filter(|e| e.state != EntryState::OnAccess).any(|e| {
        let state = e.unit.as_ref().map(|u| boot.units.get(u).map_or("", String::as_str));
        !state.is_none_or(|s| s.contains("active mounted") || s.contains("active active"))
    });
    let longest = boot.waits.iter().copied().fold(0.0, f64::max);
    let late = longest > 0.0 && boot.login_s.is_some_and(|at| at - longest < 10.0 && at > longest);
    match (absent, late) {
        (true, true) => Some(Consequence::Stall),
        (true, false) => Some(Consequence::Missing),
        (false, _) => None,
    }
}

/// The worst finding says what really happened, and stands on the line that
/// it happened to.
#[test]
fn findings_agree_with_what_happened() {
    let mut tally = std::collections::BTreeMap::new();
    for boot in boots("252") {
        if NOT_MODELLED.iter().any(|(id, _)| *id == boot.id) {
            continue;
        }
        let judgement = judge(&record(&boot), &Table::parse(boot.table.as_str()));
        let forecast = judgement.forecast;
        let worst = judgement.findings.first();
        let said = worst.map(|f| f.consequence);
        let context = || format!("{}: {:#?}", boot.id, judgement.findings);
        let happened = happened(&boot, &forecast);
        *tally.entry(happened.map_or("up", Consequence::name)).or_insert(0) += 1;
        match happened {
            Some(happened) => assert_eq!(said, Some(happened), "{}", context()),
            // Root left read-only is missing, with every unit there.
            None if forecast.root_read_only && forecast.outcome == Outcome::Partial => {
                assert_eq!(said, Some(Consequence::Missing), "{}", context())
            }
            // A line that is passed over has no unit to look at.
            None if forecast.entries.iter().any(|e| e.state == EntryState::Ignored) => {}
            None => assert!(said.is_none_or(|s| s >= Consequence::Risk), "{}", context()),
        }
        let touched = |line: usize| forecast.entries.iter().find(|e| e.line == line);
        if let Some(entry) =
            worst.filter(|f| f.consequence <= Consequence::Missing).and_then(|f| touched(f.line?))
        {
            // What is blamed for a read-only root is there itself.
            let blamed = entry.line == 1 || forecast.root_read_only;
            assert!(entry.state.is_absent() || blamed, "{}", context());
        }
    }
    println!("what happened in the recorded boots: {tally:?}");
    assert!(["halt", "stall", "missing", "up"].iter().all(|c| tally.contains_key(c)), "{tally:?}");
}

/// Findings and forecast never contradict each other: what ends a boot has a
/// finding that says so, and nothing else claims to.
#[test]
fn findings_agree_with_the_forecast() {
    for boot in ["252", "more", "crypt", "sysv"].iter().flat_map(|name| boots(name)) {
        let judgement = judge(&record(&boot), &Table::parse(boot.bytes()));
        let forecast = judgement.forecast;
        let worst = judgement.findings.iter().map(|f| f.consequence).min();
        let halts = worst == Some(Consequence::Halt);
        let ends = !forecast.reaches_login;
        assert_eq!(halts, ends, "{}: {:?}, {:#?}", boot.id, forecast.outcome, judgement.findings);
        let harmless = worst.is_none_or(|w| w >= Consequence::Risk);
        if forecast.outcome == Outcome::Up {
            // All is there, though it may come late.
            let late = worst == Some(Consequence::Stall) && forecast.stall_s > Some(0.0);
            assert!(harmless || late, "{}: {:#?}", boot.id, judgement.findings);
        }
        if forecast.outcome == Outcome::Partial {
            assert!(!harmless, "{}: partial, but no finding says what is missing", boot.id);
        }
    }
}

/// The figures in docs/model/verified.md are those of the recordings.
#[test]
fn the_docs_tell_the_figures() {
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    let page = std::fs::read_to_string(page).unwrap();
    for (set, row) in [
        ("252", "| systemd 252 | "),
        ("257", "| systemd 257 | "),
        ("247", "| systemd 247 | "),
        ("262", "| systemd 262 | "),
        ("more", "| systemd 252, recorded after the model was made | "),
        ("crypt", "| systemd 252: containers of crypttab | "),
        ("paths", "| systemd 252: what a path means (`truth_paths.rs`), given | "),
        ("paths-own", "| systemd 252: the same, recorded here | "),
        ("behind", "| systemd 252: behind containers, groups and servers (`truth_behind.rs`) | "),
    ] {
        let count = boots(set).len();
        assert!(page.contains(&format!("{row}{count} | ")), "{set}: {count}");
    }
    let early = format!("other targets (`truth_early.rs`) | {} | ", guest::EARLY);
    assert!(page.contains(&early), "{early}");
}
