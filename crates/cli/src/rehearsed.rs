//! A rehearsal of a table on this host, for every command that asks for one.

use crate::outcome::CommandError;
use crate::output::{self, Readers};
use crate::views;
use bradawl_boot::{EntryForecast, EntryState, Request, forecast, requests};
use bradawl_change::rehearsal::{Job, Plan, RehearsalWishes, Sequence, Step, sequence};
use bradawl_documents::{Case, CaseEntry, RehearsalResult, RehearseReport, Rehearsed};
use bradawl_facts::record::Record;
use bradawl_facts::secrets;
use bradawl_facts::table::Table;
use bradawl_rehearse::{End, HostState, NoRehearsal, Rehearsal, Setting};
use bradawl_resolve::Index;
use std::collections::{HashMap, HashSet};
use std::io;
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

/// How long it may take.
#[derive(Clone, Copy)]
pub struct Limits {
    each: Duration,
    all: Duration,
}

impl Limits {
    pub fn seconds(each: u64, all: u64) -> Self {
        Limits { each: Duration::from_secs(each), all: Duration::from_secs(all) }
    }
}

/// What came of an entry, before it is put beside the forecast.
#[derive(Clone)]
struct Came {
    result: RehearsalResult,
    why: String,
    options: Option<String>,
    /// Whether options of the entry were not in it.
    left_out: bool,
}

impl Came {
    fn new(result: RehearsalResult, why: impl Into<String>) -> Self {
        Came { result, why: why.into(), options: None, left_out: false }
    }
}

/// Rehearses the entries on the lines, all when there are none, and those they
/// lie on.
///
/// # Errors
/// When a line holds no entry, or this process may not have mounts of its own.
pub fn rehearsed(
    record: &Record,
    (path, table): (&str, &Table),
    lines: &[usize],
    wishes: RehearsalWishes,
    limits: Limits,
) -> Result<RehearseReport, CommandError> {
    let index = Index::new(record);
    let requests = requests(record, &index, table);
    let forecast = forecast(record, &index, &requests);
    if let Some(line) = lines.iter().find(|l| !requests.iter().any(|r| r.line() == **l)) {
        return Err(CommandError::input("--line", format!("line {line} of the table holds no entry")));
    }
    // What is asked for by its line is meant, noauto or not.
    let wishes = RehearsalWishes { noauto: wishes.noauto || !lines.is_empty(), ..wishes };
    let sequence = sequence(record, &index, &requests, wishes);
    let wanted = wanted(&sequence, &requests, lines);
    let state = |e: io::Error| CommandError::input("/proc/self/mountinfo", e);
    let before = HostState::now().map_err(state)?;
    let came = played(&sequence, &requests, &wanted, limits)?;
    let left_behind = settled(&before).map_err(state)?;
    let asked = |place: &usize| lines.is_empty() || lines.contains(&requests[*place].line());
    let order: Vec<usize> = sequence.steps.iter().map(|s| s.place).filter(asked).collect();
    let beside = |place: usize| {
        let entry = forecast.entries.iter().find(|e| e.line == requests[place].line())?;
        Some(beside_forecast(entry, came.get(&place)?.clone()))
    };
    Ok(RehearseReport {
        schema: "bradawl.rehearse/1",
        host: record.host.name.clone(),
        table: path.to_owned(),
        exact: wishes.exact,
        entries: order.into_iter().filter_map(beside).collect(),
        left_behind,
    })
}

/// Mounts the changed lines of this host's own table before it is written;
/// `None` where that is not possible: not root, no line that is new, no mounts of
/// its own.
pub fn of_change(record: &Record, path: &str, old: &Table, new: &Table) -> Option<RehearseReport> {
    let before: HashSet<String> = old.lines().iter().map(|l| old.line_text(l.number)).collect();
    let all = new.entries().into_iter().map(|e| e.line);
    let lines: Vec<usize> = all.filter(|n| !before.contains(&new.line_text(*n))).collect();
    if lines.is_empty() || !rustix::process::geteuid().is_root() {
        return None;
    }
    let limits = Limits::seconds(5, 30);
    rehearsed(record, (path, new), &lines, RehearsalWishes::default(), limits).ok()
}

/// What of a rehearsal speaks against writing a table: what does not mount
/// although the forecast has it mounted.
pub fn objections(report: &RehearseReport) -> Vec<String> {
    let bad = report.contradictions().filter(|e| e.is_bad());
    bad.map(|e| format!("line {} does not mount when it is tried: {}", e.line, e.why)).collect()
}

/// Where forecast and rehearsal differ, for a developer.
pub fn case(record: &Record, table: &Table, report: &RehearseReport) -> Case {
    let (index, host) = (Index::new(record), &record.host);
    let requests = requests(record, &index, table);
    let one = |e: &Rehearsed| {
        let request = requests.iter().find(|r| r.line() == e.line)?;
        Some(CaseEntry {
            text: secrets::masked(&table.line_text(e.line)).into_owned(),
            rehearsed: e.clone(),
            content: request.content().cloned(),
        })
    };
    let init = host.init.as_ref().map(|i| match &i.version {
        Some(version) => format!("{} {version}", i.kind.name()),
        None => i.kind.name().to_owned(),
    });
    Case {
        schema: "bradawl.case/1",
        bradawl: env!("CARGO_PKG_VERSION").to_owned(),
        kernel: host.kernel.clone(),
        init,
        mount_program: host.mount_program.clone(),
        exact: report.exact,
        entries: report.contradictions().filter_map(one).collect(),
    }
}

/// Writes the case, if there is one; says what it did.
///
/// # Errors
/// When it cannot be written.
pub fn write_case(path: &Path, case: &Case) -> Result<(), CommandError> {
    if case.entries.is_empty() {
        crate::ui::remark("forecast and rehearsal agree: no case was written\n");
        return Ok(());
    }
    let json = serde_json::to_string_pretty(case).map_err(io::Error::from)?;
    output::write(path, (json + "\n").as_bytes(), Readers::Owner)?;
    crate::ui::remark(&format!("the case is in {}\n", path.display()));
    Ok(())
}

/// Places of the entries on the lines and of all that they lie on.
fn wanted(sequence: &Sequence, requests: &[Request<'_>], lines: &[usize]) -> Vec<usize> {
    let mut wanted: Vec<usize> = Vec::new();
    for step in sequence.steps.iter().rev() {
        let asked = lines.is_empty() || lines.contains(&requests[step.place].line());
        let under = sequence.steps.iter().any(|s| wanted.contains(&s.place) && s.on.contains(&step.place));
        if asked || under {
            wanted.push(step.place);
        }
    }
    wanted
}

/// Tries the wanted steps one after another.
fn played(
    sequence: &Sequence,
    requests: &[Request<'_>],
    wanted: &[usize],
    limits: Limits,
) -> Result<HashMap<usize, Came>, CommandError> {
    let mut came: HashMap<usize, Came> = HashMap::new();
    let mut rehearsal = None;
    let stop = Instant::now() + limits.all;
    for step in sequence.steps.iter().filter(|s| wanted.contains(&s.place)) {
        let told = match (held_up(step, requests, &came), &step.plan) {
            (Some(held), _) => held,
            (None, Plan::Told(true, why)) => Came::new(RehearsalResult::Works, why),
            (None, Plan::Told(false, why)) => Came::new(RehearsalResult::Refused, why),
            (None, Plan::Skipped(why)) => Came::new(RehearsalResult::Skipped, why),
            (None, Plan::Try(job)) => {
                let began = match rehearsal.take() {
                    Some(began) => began,
                    None => begun(sequence)?,
                };
                tried(rehearsal.insert(began), job, limits, stop)
            }
        };
        came.insert(step.place, told);
    }
    Ok(came)
}

fn begun(sequence: &Sequence) -> Result<Rehearsal, CommandError> {
    let mut command = Command::new("/proc/self/exe");
    command.args(["rehearse", "--stage"]);
    let setting = Setting { shown: sequence.shown.clone(), away: sequence.away.clone() };
    Rehearsal::begin(command, setting).map_err(|e| {
        let why = match &e {
            NoRehearsal::NotHere { .. } => format!(
                "not possible here: {e}. In a container or a chroot the kernel keeps mounts from this process; run it on the host itself"
            ),
            NoRehearsal::NoProcess(_) => e.to_string(),
        };
        CommandError::input("rehearse", why)
    })
}

/// What becomes of an entry because of another that it lies on.
fn held_up(step: &Step, requests: &[Request<'_>], came: &HashMap<usize, Came>) -> Option<Came> {
    let of = |place: &usize| Some((requests[*place].line(), came.get(place)?.result));
    let on: Vec<(usize, RehearsalResult)> = step.on.iter().filter_map(of).collect();
    let bad = |r: RehearsalResult| matches!(r, RehearsalResult::Refused | RehearsalResult::TooLong);
    if let Some((line, _)) = on.iter().find(|(_, r)| step.bound && bad(*r)) {
        let why = format!("it lies on line {line}, which does not mount: the boot leaves it out");
        return Some(Came::new(RehearsalResult::Refused, why));
    }
    let untried = |r: RehearsalResult| matches!(r, RehearsalResult::Skipped | RehearsalResult::Failed);
    let (line, _) = on.iter().find(|(_, r)| untried(*r))?;
    Some(Came::new(RehearsalResult::Skipped, format!("it needs line {line}, which was not tried")))
}

fn tried(rehearsal: &mut Rehearsal, job: &Job, limits: Limits, stop: Instant) -> Came {
    let left = stop.saturating_duration_since(Instant::now());
    if left.is_zero() {
        return Came::new(RehearsalResult::Skipped, "the time for all of it is up");
    }
    let limit = left.min(limits.each);
    match rehearsal.attempt(job, limit) {
        End::Works { options } => Came {
            options: Some(options).filter(|o| !o.is_empty()),
            left_out: !job.left_out.is_empty(),
            ..Came::new(RehearsalResult::Works, views::rehearse::how(job))
        },
        End::Untried { why } => Came::new(RehearsalResult::Skipped, why),
        End::Refused { at, why } => Came::new(RehearsalResult::Refused, format!("{at}: {why}")),
        End::TooLong => {
            Came::new(RehearsalResult::TooLong, format!("it did not end within {} s", limit.as_secs()))
        }
        End::Failed { why } => Came::new(RehearsalResult::Failed, why),
    }
}

/// What differs from before. The kernel lets go of devices a little later than
/// of the mounts on them.
fn settled(before: &HostState) -> io::Result<Vec<String>> {
    let until = Instant::now() + Duration::from_secs(2);
    loop {
        let differs = before.differs(&HostState::now()?);
        if differs.is_empty() || Instant::now() > until {
            return Ok(differs);
        }
        std::thread::sleep(Duration::from_millis(20));
    }
}

fn beside_forecast(entry: &EntryForecast, came: Came) -> Rehearsed {
    // What was left out may be what the forecast is about.
    let came = match came.result {
        RehearsalResult::Works if came.left_out && entry.state == EntryState::Failed => {
            let why = format!("{}; --exact tries the entry as it stands", came.why);
            Came::new(RehearsalResult::Skipped, why)
        }
        _ => came,
    };
    // An entry that is not mounted at boot may still work, or not.
    let says = match entry.state {
        EntryState::Mounted | EntryState::Active | EntryState::OnAccess => Some(true),
        EntryState::TimedOut | EntryState::Failed => Some(false),
        _ => None,
    };
    let found = match came.result {
        RehearsalResult::Works => Some(true),
        RehearsalResult::Refused => Some(false),
        _ => None,
    };
    Rehearsed {
        line: entry.line,
        source: entry.source.clone(),
        target: entry.target.clone(),
        result: came.result,
        why: came.why,
        options: came.options,
        forecast: entry.state,
        forecast_why: entry.why.clone(),
        differs: says.zip(found).is_some_and(|(says, found)| says != found),
    }
}
