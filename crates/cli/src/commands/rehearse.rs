use crate::args::{Format, RehearseArgs, WithArgs};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::ui::Ui;
use crate::views;
use bradawl_boot::{EntryForecast, EntryState, forecast, requests};
use bradawl_change::rehearsal::{Job, Plan, RehearsalWishes, plan};
use bradawl_documents::{RehearsalResult, RehearseReport, Rehearsed};
use bradawl_rehearse::{End, HostState, answer, rehearse};
use bradawl_resolve::Index;
use std::io::{self, Read as _};
use std::process::Command;
use std::time::{Duration, Instant};

pub fn run(ui: &Ui, args: &RehearseArgs) -> Result<Status, CommandError> {
    if args.one {
        return one(ui);
    }
    if !rustix::process::geteuid().is_root() {
        return Err(CommandError::input("rehearse", "only root may have the kernel mount"));
    }
    let given = args.table.as_deref().map(input::table).transpose()?;
    let mut record = input::host(None, &WithArgs::default(), given.as_ref())?.record;
    // What is there now is tried, also where the next boot would not have it.
    record.host.origin = None;
    let host = input::Host { record };
    let file = input::chosen(&host, given.as_ref())?;
    let table = input::parsed(file)?;
    let index = Index::new(&host.record);
    let requests = requests(&host.record, &index, &table);
    let forecast = forecast(&host.record, &index, &requests);
    let state = |e: io::Error| CommandError::input("/proc/self/mountinfo", e);
    let before = HostState::now().map_err(state)?;
    let wishes = RehearsalWishes { exact: args.exact, network: args.network, programs: args.run_programs };
    let stop = Instant::now() + Duration::from_secs(args.limit_all);
    let asked = requests.iter().filter(|r| args.line.is_empty() || args.line.contains(&r.line()));
    let mut entries = Vec::new();
    for request in asked {
        let Some(entry) = forecast.entries.iter().find(|e| e.line == request.line()) else { continue };
        let (result, why, options) = match plan(&host.record, &index, request, wishes) {
            Plan::Try(job) => tried(&job, args, stop),
            Plan::Told(true, why) => (RehearsalResult::Works, why, None),
            Plan::Told(false, why) => (RehearsalResult::Refused, why, None),
            Plan::Skipped(why) => (RehearsalResult::Skipped, why, None),
        };
        entries.push(rehearsed(entry, result, why, options));
    }
    if let Some(line) = args.line.iter().find(|line| !entries.iter().any(|e| e.line == **line)) {
        return Err(CommandError::input("--line", format!("line {line} of the table holds no entry")));
    }
    let left_behind = before.differs(&HostState::now().map_err(state)?);
    let report = RehearseReport {
        schema: "bradawl.rehearse/1",
        host: host.record.host.name.clone(),
        table: file.path.clone(),
        exact: args.exact,
        entries,
        left_behind,
    };
    match args.format {
        Format::Text => ui.print(&views::rehearse::text(&report, ui.width()))?,
        Format::Json => views::json(ui, &report)?,
    }
    let bad = |e: &Rehearsed| matches!(e.result, RehearsalResult::Refused | RehearsalResult::TooLong);
    Ok(match report.entries.iter().any(|e| e.result == RehearsalResult::Failed) {
        true => Status::Partly,
        false if report.entries.iter().any(bad) => Status::Found,
        false => Status::Fine,
    })
}

/// The process that tries one entry: job in, end out.
fn one(ui: &Ui) -> Result<Status, CommandError> {
    let mut text = Vec::new();
    io::stdin().lock().take(1 << 20).read_to_end(&mut text)?;
    let job: Job = serde_json::from_slice(&text).map_err(|e| CommandError::input("standard input", e))?;
    views::json(ui, &answer(&job))?;
    Ok(Status::Fine)
}

fn tried(job: &Job, args: &RehearseArgs, stop: Instant) -> (RehearsalResult, String, Option<String>) {
    let left = stop.saturating_duration_since(Instant::now());
    if left.is_zero() {
        return (RehearsalResult::Skipped, "the time for all of it is up".to_owned(), None);
    }
    let mut command = Command::new("/proc/self/exe");
    command.args(["rehearse", "--one"]);
    let limit = left.min(Duration::from_secs(args.limit));
    match rehearse(job, command, limit) {
        End::Works { options, beside } => {
            let why = views::rehearse::how(job, beside);
            (RehearsalResult::Works, why, Some(options).filter(|o| !o.is_empty()))
        }
        End::Refused { at, why } => (RehearsalResult::Refused, format!("{at}: {why}"), None),
        End::TooLong => {
            (RehearsalResult::TooLong, format!("it did not end within {} s", limit.as_secs()), None)
        }
        End::Failed { why } => (RehearsalResult::Failed, why, None),
    }
}

fn rehearsed(
    entry: &EntryForecast,
    result: RehearsalResult,
    why: String,
    options: Option<String>,
) -> Rehearsed {
    // An entry that is not mounted at boot may still work, or not.
    let says = match entry.state {
        EntryState::Mounted | EntryState::Active | EntryState::OnAccess => Some(true),
        EntryState::TimedOut | EntryState::Failed => Some(false),
        _ => None,
    };
    let found = match result {
        RehearsalResult::Works => Some(true),
        RehearsalResult::Refused => Some(false),
        _ => None,
    };
    let differs = says.zip(found).is_some_and(|(says, found)| says != found);
    Rehearsed {
        line: entry.line,
        source: entry.source.clone(),
        target: entry.target.clone(),
        result,
        why,
        options,
        forecast: entry.state,
        forecast_why: entry.why.clone(),
        differs,
    }
}
