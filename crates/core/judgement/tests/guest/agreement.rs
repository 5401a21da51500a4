//! A forecast against what was recorded, part by part.

use super::Boot;
use bradawl_boot::{EntryState, Forecast, Outcome};

/// Waits are recorded to within so many seconds.
const WAIT_S: f64 = 2.0;

fn stops(forecast: &Forecast, place: &str) -> bool {
    forecast.outcome == Outcome::Emergency && forecast.ends_in == place
}

/// What is compared of a boot, each by itself.
pub fn agreement(boot: &Boot, forecast: &Forecast) -> [bool; 5] {
    // What is not known is told as such: the worst of it counts too.
    if let Some(worst) = &forecast.not_known
        && boot.outcome != "login"
    {
        let ends = match boot.outcome.as_str() {
            "emergency" => worst.outcome == Outcome::Emergency,
            "no-root" => worst.outcome == Outcome::NoRoot,
            _ => worst.outcome == Outcome::Never,
        };
        return [ends, true, true, true, true];
    }
    let outcome = match boot.outcome.as_str() {
        "login" => forecast.outcome.reaches_login(),
        "emergency" => forecast.outcome == Outcome::Emergency,
        "never" => forecast.outcome == Outcome::Never,
        "rescue" => stops(forecast, "rescue mode"),
        "off" => stops(forecast, "off"),
        "shell" => stops(forecast, "a shell"),
        "halfway" => forecast.outcome == Outcome::Emergency && forecast.ends_in.contains('.'),
        "no-root" | "initramfs" => forecast.outcome == Outcome::NoRoot,
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
    // The initramfs' own waits are not recorded here.
    let early = forecast.outcome == Outcome::NoRoot;
    let waits = match forecast.stall_s.filter(|_| !early) {
        None if early => true,
        Some(0.0) => !held,
        Some(s) => boot.waits.iter().any(|w| (w - s).abs() <= WAIT_S),
        None => boot.outcome == "never",
    };
    let root = boot.mounted.iter().rfind(|m| m.split(' ').nth(1) == Some("/"));
    let read_only = root.and_then(|m| m.split(' ').nth(3)).map(|o| o.split(',').any(|o| o == "ro"));
    let root = boot.outcome != "login" || read_only.is_none_or(|ro| ro == forecast.root_read_only);
    // A boot that never came to a report tells nothing of it.
    let reports = matches!(boot.outcome.as_str(), "login" | "emergency" | "rescue");
    let told = boot.local_fs.filter(|_| reports);
    let local = told.is_none_or(|reached| reached == forecast.local_fs_reached);
    [outcome, states, waits, root, local]
}
