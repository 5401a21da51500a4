//! What the failure of an entry starts by a drop-in (`OnFailure=`): a unit that ends the boot
//! stands beside login then, or takes its place (recorded).

use super::forecast::{EntryForecast, Forecast, Outcome, Worst};
use super::verdict::{BootVerdict, Ending};
use bradawl_facts::record::Record;

/// Units that end a boot, and what in.
const ENDS: [(&str, &str); 5] = [
    ("emergency.target", "emergency mode"),
    ("emergency.service", "emergency mode"),
    ("rescue.target", "rescue mode"),
    ("rescue.service", "rescue mode"),
    ("halt.target", "halt.target"),
];
/// Units that switch the machine off, or have it begin anew.
const OFF: [&str; 4] = ["poweroff.target", "reboot.target", "kexec.target", "exit.target"];

/// How the boot may end for what entries start that are not there.
pub(super) fn may_end(record: &Record, forecast: &Forecast) -> Option<Worst> {
    if !record.host.boots_with().is_systemd() {
        return None;
    }
    forecast.entries.iter().filter(|e| e.state.is_absent()).find_map(|entry| {
        let ending = started(record, entry).find_map(ending)?;
        let stall_s = entry.stall_s;
        let verdict = BootVerdict { early_s: 0.0, stall_s, ending, at_worst: None };
        Some(Worst {
            outcome: Outcome::Emergency,
            stall_s,
            verdict,
            lines: vec![entry.line],
            asked: Vec::new(),
        })
    })
}

fn ending(unit: &str) -> Option<Ending> {
    let place = ENDS.iter().find(|(name, _)| *name == unit).map(|(_, place)| (*place).to_owned());
    match place {
        Some(place) => Some(Ending::Stops { place, check: false }),
        None => OFF.contains(&unit).then_some(Ending::Off),
    }
}

/// What an entry's failure starts.
fn started<'r>(record: &'r Record, entry: &'r EntryForecast) -> impl Iterator<Item = &'r str> {
    let units = record.units.iter().flatten().filter(|u| entry.unit.as_deref() == Some(&u.name) && !u.masked);
    units.flat_map(|unit| &unit.on_failure).map(String::as_str)
}

/// Other units that failures start: the entry's, and what it starts.
pub(super) fn not_played<'r>(
    record: &'r Record,
    entries: &'r [EntryForecast],
) -> impl Iterator<Item = (&'r EntryForecast, &'r str)> {
    let absent = entries.iter().filter(|e| e.state.is_absent());
    let each = absent.flat_map(|entry| started(record, entry).map(move |unit| (entry, unit)));
    each.filter(|(_, unit)| ending(unit).is_none())
}
