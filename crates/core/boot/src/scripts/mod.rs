//! Inits that work through the table line by line with scripts: check what has
//! a pass number, mount in table order, activate swap. They wait for nothing.

mod busybox;
mod openrc;
mod sysvinit;

use super::forecast::{EntryForecast, EntryState, Event, Forecast, Outcome, missing_facts};
use super::need::Need;
use super::request::Request;
use super::trial::{Cause, Trial};
use super::verdict::{Absent, BootVerdict, Ending};
use bradawl_facts::Consequence;
use bradawl_facts::record::{BootsWith, Init, InitKind, PathKind, Record};
use bradawl_facts::text::visible;

/// How such an init goes about it.
pub(super) struct Scripts {
    /// Whether it checks entries with a pass number.
    checks: bool,
    /// Whether a device that is not there fails its check.
    lost_fails: bool,
    /// Whether a check that fails stops the boot.
    stops: bool,
    /// What it stops in.
    shell: &'static str,
    /// Whether it was recorded, or follows its scripts.
    recorded: bool,
}

/// The scripts of an init system; `None` when it has none.
fn scripts(kind: InitKind) -> Option<&'static Scripts> {
    match kind {
        InitKind::Sysvinit => Some(&sysvinit::SCRIPTS),
        InitKind::Openrc => Some(&openrc::SCRIPTS),
        InitKind::Busybox => Some(&busybox::SCRIPTS),
        InitKind::Systemd | InitKind::Other => None,
    }
}

/// The boot of a host whose init works with scripts; `None` for others.
pub(super) fn forecast(record: &Record, requests: &[Request<'_>]) -> Option<Forecast> {
    let init = record.host.init.as_ref()?;
    Some(played(init, scripts(init.kind)?, requests))
}

fn played(init: &Init, scripts: &Scripts, requests: &[Request<'_>]) -> Forecast {
    let entries: Vec<EntryForecast> = requests.iter().map(|r| entry(scripts, r)).collect();
    let halts = entries.iter().any(|e| e.consequence == Some(Consequence::Halt));
    let missing = entries.iter().any(|e| e.consequence == Some(Consequence::Missing));
    let outcome = match (halts, missing) {
        (true, _) => Outcome::Emergency,
        (false, true) => Outcome::Partial,
        (false, false) => Outcome::Up,
    };
    let absent = entries.iter().filter(|e| e.state.is_absent()).count();
    let ending = match outcome {
        Outcome::Emergency => Ending::Stops { place: scripts.shell.to_owned(), check: true },
        Outcome::Partial => Ending::Without(Absent::Entries(absent)),
        _ => Ending::Whole,
    };
    let verdict = BootVerdict { early_s: 0.0, stall_s: Some(0.0), ending, at_worst: None };
    let name = init.kind.name();
    let mut events: Vec<Event> = entries
        .iter()
        .map(|e| Event { at_s: 0.0, unit: e.target.clone(), what: e.state.words().into() })
        .collect();
    let place = if halts { scripts.shell } else { "login" };
    events.push(Event { at_s: 0.0, unit: place.to_owned(), what: "reached".into() });
    Forecast {
        beside: Vec::new(),
        init: init.version.as_ref().map_or_else(|| name.to_owned(), |v| format!("{name} {v}")),
        model: BootsWith::Scripts(init.kind),
        outcome,
        reaches_login: outcome.reaches_login(),
        ends_in: place.to_owned(),
        ended_by: None,
        stall_s: Some(0.0),
        before_init_s: 0.0,
        verdict,
        root_read_only: false,
        local_fs_reached: !halts,
        missing_facts: missing_facts(&entries),
        worst: None,
        not_known: None,
        assumed: match scripts.recorded {
            true => Vec::new(),
            false => vec![format!("{name} follows the scripts it comes with; no boot of it was recorded")],
        },
        entries,
        events,
    }
}

fn entry(scripts: &Scripts, request: &Request<'_>) -> EntryForecast {
    let (state, why) = settle(scripts, request);
    let asked = scripts.checks && request.entry.pass > 0;
    let lost = request.lost().filter(|_| asked && scripts.lost_fails && !request.nofail);
    let check_fails = lost.is_some() || (asked && matches!(request.trial, Trial::Fails(Cause::Check, _)));
    let consequence = match state {
        _ if check_fails && scripts.stops => Some(Consequence::Halt),
        _ if check_fails => Some(Consequence::Missing),
        EntryState::Failed | EntryState::Ignored => Some(Consequence::Missing),
        EntryState::Manual => match &request.need {
            // A disk that is plugged in now and then has its entry so.
            Need::Missing(_) if request.look_alikes().is_empty() => Some(Consequence::Note),
            Need::Missing(_) => Some(Consequence::Risk),
            _ => None,
        },
        _ => None,
    };
    let why = lost.map_or(why, |lost| format!("its check fails: {lost}"));
    EntryForecast {
        line: request.line(),
        source: request.entry.source.clone(),
        target: request.entry.target.clone(),
        state: if check_fails { EntryState::Failed } else { state },
        unit: None,
        stall_s: Some(0.0),
        consequence,
        cause: why.clone(),
        why,
        because_of: None,
        doubt: (state == EntryState::Unknown).then(|| request.doubt()).flatten(),
        lacks_directory: state == EntryState::Failed
            && request.trial == Trial::Works
            && request.lost().is_none()
            && lacks_directory(request),
        on_circle: false,
        chain: Vec::new(),
    }
}

/// Whether the directory of its target is known not to be there: scripts make
/// none.
fn lacks_directory(request: &Request<'_>) -> bool {
    !request.entry.is_swap() && request.facts.is_some_and(|f| f.kind == PathKind::Absent)
}

fn settle(scripts: &Scripts, request: &Request<'_>) -> (EntryState, String) {
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
    if let Some(lost) = request.lost() {
        return (EntryState::Failed, lost);
    }
    if let Need::Unknown(why) = &request.need {
        return (EntryState::Unknown, why.why.clone());
    }
    match &request.trial {
        Trial::Fails(Cause::Check, _) if !scripts.checks => (EntryState::Mounted, String::new()),
        Trial::Fails(_, why) => (EntryState::Failed, why.clone()),
        Trial::Unknown(why) => (EntryState::Unknown, why.why.clone()),
        Trial::Works if request.entry.is_swap() => (EntryState::Active, String::new()),
        Trial::Works if lacks_directory(request) => {
            (EntryState::Failed, format!("there is no directory {}", visible(&request.entry.target)))
        }
        Trial::Works => (EntryState::Mounted, String::new()),
    }
}

#[cfg(test)]
mod tests {
    use super::super::requests;
    use super::*;
    use bradawl_facts::record::DeviceKind;
    use bradawl_facts::record::{Content, ContentKind, Device};
    use bradawl_facts::table::Table;
    use bradawl_resolve::Index;

    #[test]
    fn each_goes_about_it_in_its_own_way() {
        let table =
            Table::parse("LABEL=lost /srv/lost ext4 defaults 0 2\nLABEL=hurt /srv/hurt ext4 defaults 0 2\n");
        let mut hurt = Device::new("/dev/vdb", DeviceKind::Disk);
        let content = Content::new(ContentKind::Filesystem, Some("ext4"));
        hurt.content = Some(Content { label: Some("hurt".into()), state: Some("errors".into()), ..content });
        let states = |kind: InitKind| {
            let mut record = Record::new("kelp");
            record.host.init = Some(Init::new(kind, None));
            record.devices = Some(vec![hurt.clone()]);
            let index = Index::new(&record);
            let forecast = forecast(&record, &requests(&record, &index, &table)).unwrap();
            (forecast.outcome, forecast.entries.iter().map(|e| e.consequence).collect::<Vec<_>>())
        };
        use Consequence::{Halt, Missing};
        assert_eq!(states(InitKind::Sysvinit), (Outcome::Emergency, vec![Some(Halt), Some(Halt)]));
        assert_eq!(states(InitKind::Openrc), (Outcome::Emergency, vec![Some(Missing), Some(Halt)]));
        assert_eq!(states(InitKind::Busybox), (Outcome::Partial, vec![Some(Missing), None]));
    }
}
