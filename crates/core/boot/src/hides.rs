//! Mounts that hide what the system runs from: login never comes (recorded:
//! an empty file system over /usr, /usr/bin or /lib, and `noexec` on root or
//! /usr).

use super::forecast::{EntryState, Event, Forecast, Outcome};
use super::place::Places;
use super::request::Request;
use super::verdict::Ending;
use bradawl_catalogue::directories::Role;
use bradawl_catalogue::options::{in_force, program_on};
use bradawl_facts::Consequence;
use bradawl_facts::record::Record;
use bradawl_facts::text::visible;
use bradawl_resolve::Index;

/// Ends a boot that hides what it runs from.
pub(super) fn play(record: &Record, requests: &[Request<'_>], forecast: &mut Forecast) {
    if !forecast.outcome.reaches_login() || record.host.container == Some(true) {
        return;
    }
    let there = |n: usize| matches!(forecast.entries[n].state, EntryState::Mounted | EntryState::Unknown);
    let found =
        (0..requests.len()).filter(|n| there(*n)).find_map(|n| Some((n, hides(record, &requests[n])?)));
    let Some((n, why)) = found else { return };
    let entry = &mut forecast.entries[n];
    entry.consequence = Some(Consequence::Halt);
    entry.stall_s = None;
    entry.because(&why);
    (forecast.outcome, forecast.reaches_login) = (Outcome::Never, false);
    (forecast.stall_s, forecast.ends_in) = (None, "never".to_owned());
    forecast.verdict.ending = Ending::Never;
    let unit = forecast.entries[n].unit.clone().unwrap_or_default();
    forecast.events.retain(|e| e.unit != "login");
    forecast.events.push(Event { at_s: 0.0, unit, what: why.into() });
}

/// The first entry over what the system runs from now, on its root, of which
/// nobody has looked what it holds: its line.
pub(super) fn may_hide(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
    forecast: &Forecast,
) -> Option<usize> {
    let places = Places::new(record, index, requests);
    let open = |(n, request): &(usize, &Request<'_>)| {
        let over = request.target.as_deref().is_some_and(|t| Role::Programs.is_of(t));
        let there = forecast.entries[*n].state == EntryState::Mounted;
        // A host whose programs lie elsewhere has an empty directory there.
        let full = request.facts.is_some_and(|f| f.entries.is_some_and(|n| n > 0));
        let looked_at = request.source.wants_device() || request.entry.is_bind();
        over && there && full && looked_at && !places.is_mounted_now(*n)
    };
    requests.iter().enumerate().find(open).map(|(_, r)| r.line())
}

/// Why nothing can be run once an entry is mounted.
fn hides(record: &Record, request: &Request<'_>) -> Option<String> {
    let target = request.target.as_deref()?;
    let noexec = in_force(&request.entry.options, "noexec", program_on(record));
    let name = visible(target);
    if noexec && (target == "/" || Role::Programs.is_of(target)) {
        return Some(format!("noexec on {name}: no program can be run"));
    }
    let empty = matches!(request.mounted_type(), "tmpfs" | "ramfs") && Role::Programs.is_of(target);
    empty.then(|| format!("an empty {} lies over {name}: no program is there", request.mounted_type()))
}
