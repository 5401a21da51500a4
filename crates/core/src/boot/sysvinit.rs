//! The script-driven init: checks what has a pass number, then mounts line by
//! line, then activates swap. It waits for nothing.
//!
//! Recorded with Debian 12's scripts: a device with a pass number that is not
//! there stops the boot, even with noauto; a mount that fails does not.

use super::Consequence;
use super::forecast::{EntryForecast, EntryState, Event, Forecast, Outcome};
use super::request::{Need, Request};
use super::trial::{Cause, Trial};
use crate::record::{PathKind, Record};
use crate::text::{count, visible};

pub(super) fn forecast(record: &Record, requests: &[Request<'_>]) -> Forecast {
    let entries: Vec<EntryForecast> = requests.iter().map(entry).collect();
    let halts = entries.iter().any(|e| e.consequence == Some(Consequence::Halt));
    let missing = entries.iter().any(|e| e.consequence == Some(Consequence::Missing));
    let outcome = match (halts, missing) {
        (true, _) => Outcome::Emergency,
        (false, true) => Outcome::Partial,
        (false, false) => Outcome::Up,
    };
    let absent = entries.iter().filter(|e| e.state.is_absent()).count();
    let verdict = match outcome {
        Outcome::Emergency => "boot will stop in the maintenance shell: a check fails".to_owned(),
        Outcome::Partial => format!("boot will reach login, but {} will be missing", count(absent, "entry")),
        _ => "boot will reach login with everything in place".to_owned(),
    };
    let version = record.host.init.as_ref().and_then(|i| i.version.as_deref());
    let mut events: Vec<Event> = entries
        .iter()
        .map(|e| Event { at_s: 0.0, unit: e.target.clone(), what: e.state.words().to_owned() })
        .collect();
    let ending = if halts { "maintenance shell" } else { "login" };
    events.push(Event { at_s: 0.0, unit: ending.to_owned(), what: "reached".to_owned() });
    Forecast {
        init: version.map_or_else(|| "sysvinit".to_owned(), |v| format!("sysvinit {v}")),
        outcome,
        reaches_login: outcome.reaches_login(),
        stall_s: Some(0.0),
        verdict,
        root_read_only: false,
        assumed: Vec::new(),
        entries,
        events,
    }
}

fn entry(request: &Request<'_>) -> EntryForecast {
    let (state, why) = settle(request);
    let lost = request.entry.pass > 0 && !request.nofail && matches!(request.need, Need::Missing(_));
    let check_fails = lost || matches!(request.trial, Trial::Fails(Cause::Check, _));
    let consequence = match state {
        _ if check_fails => Some(Consequence::Halt),
        EntryState::Failed | EntryState::Ignored => Some(Consequence::Missing),
        EntryState::Manual => match &request.need {
            // A disk that is plugged in now and then has its entry so.
            Need::Missing(near) if near.is_empty() => Some(Consequence::Note),
            Need::Missing(_) => Some(Consequence::Risk),
            _ => None,
        },
        _ => None,
    };
    EntryForecast {
        line: request.line(),
        source: request.entry.source.clone(),
        target: request.entry.target.clone(),
        state: if check_fails { EntryState::Failed } else { state },
        unit: None,
        stall_s: Some(0.0),
        consequence,
        why: if lost {
            format!("its check fails: no device answers to {}", visible(&request.entry.source))
        } else {
            why
        },
        because_of: None,
    }
}

fn settle(request: &Request<'_>) -> (EntryState, String) {
    if request.noauto {
        return (EntryState::Manual, "noauto: not mounted at boot".to_owned());
    }
    // The mount program reads the table here.
    if request.refused {
        return (EntryState::Ignored, "the mount program passes the line over".to_owned());
    }
    if !request.entry.is_swap() && request.target.is_none() {
        return (EntryState::Ignored, "its target is no path".to_owned());
    }
    match &request.need {
        Need::Missing(_) => {
            return (EntryState::Failed, format!("no device answers to {}", visible(&request.entry.source)));
        }
        Need::Unknown(why) => return (EntryState::Unknown, why.clone()),
        Need::None | Need::Present(_) => {}
    }
    match &request.trial {
        Trial::Fails(_, why) => (EntryState::Failed, why.clone()),
        Trial::Unknown(why) => (EntryState::Unknown, why.clone()),
        Trial::Works if request.entry.is_swap() => (EntryState::Active, String::new()),
        Trial::Works if request.facts.is_some_and(|f| f.kind == PathKind::Absent) => {
            (EntryState::Failed, format!("there is no folder {}", visible(&request.entry.target)))
        }
        Trial::Works => (EntryState::Mounted, String::new()),
    }
}
