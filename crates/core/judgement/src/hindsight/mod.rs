//! What a boot really did, held against what is forecast from the facts.

mod seen;

pub use seen::{EntrySeen, Seen};

use bradawl_boot::{EntryForecast, EntryState, Forecast, Outcome, Request, device_unit, forecast, requests};
use bradawl_facts::record::{BootRun, JobResult, JobRun, Record};
use bradawl_facts::table::Table;
use bradawl_resolve::Index;
use std::collections::HashMap;

/// A job that took this long is one that slowed the boot, in seconds.
const SLOW_S: f64 = 1.0;
/// Differences in when something happens below this are none: seconds.
const NEAR_S: f64 = 5.0;

/// A boot beside its forecast.
#[derive(Debug, Clone)]
#[non_exhaustive]
pub struct Hindsight {
    /// 0: the boot that is running; -1: the one before; and so on.
    pub boot: i32,
    /// When its journal begins, in seconds since 1970 UTC.
    pub began_s: Option<u64>,
    /// How it ended.
    pub ended: Ended,
    /// When, in seconds after the init system began its jobs; null: not known.
    pub ended_at_s: Option<f64>,
    /// Whether root is read-only; null: only the running boot tells.
    pub root_read_only: Option<bool>,
    /// One for every entry, in table order.
    pub entries: Vec<EntrySeen>,
    /// What took long, longest first.
    pub slow: Vec<Slow>,
    /// What the generator of mounts said about the table.
    pub complaints: Vec<String>,
    /// How the forecast from the same facts ends.
    pub forecast: Outcome,
    /// The forecast in one sentence.
    pub forecast_verdict: String,
    /// Whether the boot ended as forecast.
    pub agreement: Agreement,
}

/// How a boot ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ended {
    /// Somebody could log in.
    Login,
    /// In emergency mode.
    Emergency,
    /// In rescue mode.
    Rescue,
    /// It is not over: jobs still wait.
    Waiting,
    /// Nothing tells.
    NotKnown,
}

/// Whether what was seen is what was forecast.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Agreement {
    /// It is.
    Agreed,
    /// It is not.
    Differed,
    /// One of the two is not known.
    NotKnown,
}

/// A job that took long.
#[derive(Debug, Clone, PartialEq)]
pub struct Slow {
    /// The unit.
    pub unit: String,
    /// The line of the entry that it belongs to; null: none.
    pub line: Option<usize>,
    /// How long it took, in seconds.
    pub took_s: f64,
    /// How it ended; null: it has not.
    pub result: Option<JobResult>,
}

/// The jobs of a boot, by unit.
pub(crate) struct Jobs<'b> {
    by_unit: HashMap<&'b str, &'b JobRun>,
    init_at_s: f64,
}

impl<'b> Jobs<'b> {
    fn new(boot: &'b BootRun) -> Self {
        let mut by_unit = HashMap::new();
        // What was started again later is no part of the boot.
        for job in &boot.jobs {
            by_unit.entry(job.unit.as_str()).or_insert(job);
        }
        let first = boot.jobs.iter().filter_map(|j| j.began_s).fold(f64::INFINITY, f64::min);
        let init_at_s = boot.init_at_s.unwrap_or(if first.is_finite() { first } else { 0.0 });
        Jobs { by_unit, init_at_s }
    }

    pub fn of(&self, unit: &str) -> Option<&'b JobRun> {
        self.by_unit.get(unit).copied()
    }

    pub fn result(&self, unit: &str) -> Option<JobResult> {
        self.of(unit)?.result
    }

    /// How long a job took, in seconds; what began before the journal was there
    /// began with the others.
    pub fn took_s(&self, job: &JobRun) -> Option<f64> {
        let took = job.ended_s? - job.began_s.unwrap_or(self.init_at_s);
        Some((took.max(0.0) * 1000.0).round() / 1000.0)
    }

    /// A moment on the clock of the init system.
    pub fn at_s(&self, monotonic: f64) -> f64 {
        ((monotonic - self.init_at_s) * 1000.0).round() / 1000.0
    }
}

/// Holds a boot against the forecast from a record; `boot`: absent where the
/// host keeps no journal, so that only what is mounted now tells.
pub fn hindsight(record: &Record, table: &Table, boot: Option<&BootRun>) -> Hindsight {
    beside(record, table, boot, record)
}

/// The same with the forecast from other facts, such as those that were taken
/// before the boot.
pub fn beside(record: &Record, table: &Table, boot: Option<&BootRun>, earlier: &Record) -> Hindsight {
    let index = Index::new(earlier);
    let requests = requests(earlier, &index, table);
    let forecast = forecast(earlier, &index, &requests);
    let nothing = BootRun::default();
    let run = boot.unwrap_or(&nothing);
    let jobs = Jobs::new(run);
    let (ended, ended_at_s) = ended(record, run, &jobs);
    let running = run.offset == 0;
    let entries: Vec<EntrySeen> = requests
        .iter()
        .zip(&forecast.entries)
        .map(|(request, told)| seen::entry(record, (&jobs, running), request, told))
        .collect();
    let root = record.mounts.iter().flatten().rfind(|m| m.target == "/");
    let agreement = agreed(&forecast, ended, &entries);
    Hindsight {
        boot: run.offset,
        began_s: run.began_s,
        ended,
        ended_at_s,
        root_read_only: root.filter(|_| running).map(|m| m.options.split(',').any(|o| o == "ro")),
        slow: slow(run, &jobs, &requests),
        complaints: run.complaints.clone(),
        forecast: forecast.outcome,
        forecast_verdict: forecast.verdict.to_string(),
        agreement,
        entries,
    }
}

/// How the boot ended, and when.
fn ended(record: &Record, boot: &BootRun, jobs: &Jobs<'_>) -> (Ended, Option<f64>) {
    const ENDS: [(&str, Ended); 4] = [
        ("emergency.target", Ended::Emergency),
        ("rescue.target", Ended::Rescue),
        ("multi-user.target", Ended::Login),
        ("graphical.target", Ended::Login),
    ];
    let reached = |unit: &str| jobs.of(unit).filter(|j| j.result == Some(JobResult::Done))?.ended_s;
    let first = ENDS.iter().filter_map(|(unit, end)| Some((*end, reached(unit)?)));
    if let Some((end, at)) = first.min_by(|a, b| a.1.total_cmp(&b.1)) {
        return (end, Some(jobs.at_s(at)));
    }
    let active = |unit: &str| {
        let all = record.manager.iter().flatten();
        boot.offset == 0 && all.into_iter().any(|u| u.name == unit && u.active.as_deref() == Some("active"))
    };
    if let Some((_, end)) = ENDS.iter().find(|(unit, _)| active(unit)) {
        return (*end, None);
    }
    let waits = boot.jobs.iter().any(|j| j.result.is_none());
    (if waits && boot.offset == 0 { Ended::Waiting } else { Ended::NotKnown }, None)
}

/// What took long: the longest first.
fn slow(boot: &BootRun, jobs: &Jobs<'_>, requests: &[Request<'_>]) -> Vec<Slow> {
    let line = |unit: &str| {
        let device = |r: &&Request<'_>| device_unit(&r.path);
        let check = |r: &&Request<'_>| format!("systemd-fsck@{}", device(r).replace(".device", ".service"));
        let own = |r: &&Request<'_>| r.unit == unit || device(r) == unit || check(r) == unit;
        requests.iter().find(own).map(Request::line)
    };
    // A target is done when all it waits for is.
    let own = boot.jobs.iter().filter(|j| !j.unit.ends_with(".target"));
    let mut slow: Vec<Slow> = own
        .filter(|j| jobs.result(&j.unit) == j.result && j.result != Some(JobResult::Dependency))
        .filter_map(|j| Some((j, jobs.took_s(j)?)))
        .filter(|(_, took)| *took >= SLOW_S)
        .map(|(j, took_s)| Slow { unit: j.unit.clone(), line: line(&j.unit), took_s, result: j.result })
        .collect();
    slow.sort_by(|a, b| b.took_s.total_cmp(&a.took_s));
    // A job may have been queued twice.
    slow.dedup_by(|a, b| a.unit == b.unit);
    slow
}

/// Whether the whole boot went as forecast.
fn agreed(forecast: &Forecast, ended: Ended, entries: &[EntrySeen]) -> Agreement {
    let login = match ended {
        Ended::Login => true,
        Ended::Emergency => false,
        // Asked for on the command line, or by hand; or nothing tells. That the
        // entries are as a boot that stops would have them is not that it stopped.
        Ended::Rescue | Ended::Waiting | Ended::NotKnown => {
            return match entries_agree(entries) {
                Agreement::Agreed if !forecast.reaches_login => Agreement::NotKnown,
                other => other,
            };
        }
    };
    match forecast.outcome {
        Outcome::NotKnown => Agreement::NotKnown,
        outcome if outcome.reaches_login() != login => Agreement::Differed,
        _ => entries_agree(entries),
    }
}

fn entries_agree(entries: &[EntrySeen]) -> Agreement {
    let all = |agreement: Agreement| entries.iter().all(|e| e.agreement == agreement);
    match () {
        () if entries.iter().any(|e| e.agreement == Agreement::Differed) => Agreement::Differed,
        () if all(Agreement::NotKnown) => Agreement::NotKnown,
        () => Agreement::Agreed,
    }
}

/// Whether an entry went as forecast.
pub(crate) fn compared(told: &EntryForecast, seen: Seen, waited_s: Option<f64>) -> Agreement {
    let same = match (told.state, seen) {
        (EntryState::Unknown, _) | (_, Seen::NotKnown) => return Agreement::NotKnown,
        (EntryState::Mounted, seen) => seen == Seen::Mounted,
        (EntryState::Active, seen) => seen == Seen::Active,
        // What has touched it is no matter of the boot.
        (EntryState::OnAccess, seen) => matches!(seen, Seen::OnAccess | Seen::Mounted),
        // Somebody may have mounted it by hand since.
        (EntryState::Manual, _) => true,
        (EntryState::Ignored, seen) => !matches!(seen, Seen::Failed | Seen::TimedOut),
        (EntryState::TimedOut | EntryState::Failed | EntryState::Blocked, seen) => seen.is_absent(),
    };
    let late = || {
        let stall = told.stall_s.unwrap_or(f64::INFINITY);
        waited_s.is_some_and(|waited| told.state == EntryState::TimedOut && (waited - stall).abs() > NEAR_S)
    };
    if same && !late() { Agreement::Agreed } else { Agreement::Differed }
}

#[cfg(test)]
mod tests;
