use super::guest;
use crate::args::{Format, RehearseArgs, WithArgs};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::rehearsed::{Limits, case, rehearsed, write_case};
use crate::ui::Ui;
use crate::views;
use bradawl_boot::swap::{Area, Fate, Place, activate, file_system};
use bradawl_change::rehearsal::{Job, RehearsalWishes, Way};
use bradawl_documents::{RehearsalResult, Rehearsed};
use bradawl_facts::record::{PathKind, Record};
use bradawl_rehearse::guest::become_bound;
use bradawl_rehearse::{End, answer, serve};
use bradawl_survey::look_at_swap_file;
use std::io::{self, BufReader, Read as _};
use std::process::Command;

pub fn run(ui: &Ui, args: &RehearseArgs) -> Result<Status, CommandError> {
    match (args.one, args.stage) {
        (true, _) => return one(ui),
        (_, true) => return stage(),
        _ => {}
    }
    if let (true, Some((program, arguments))) = (args.machine, args.words.split_first()) {
        let failed = become_bound(program, arguments);
        let why = format!("{failed}; install a machine monitor, or name one with --monitor");
        return Err(CommandError::input(program.display().to_string(), why));
    }
    if let Some(image) = &args.guest {
        return guest::run(ui, args, image);
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
    let wishes = RehearsalWishes {
        exact: args.exact,
        by_program: args.mount_program,
        noauto: args.noauto,
        network: args.network,
        programs: args.run_programs,
    };
    let limits = Limits::seconds(args.limit, args.limit_all);
    let report = rehearsed(&host.record, (&file.path, &table), &args.line, wishes, limits)?;
    if let Some(path) = &args.case {
        write_case(path, &case(&host.record, &table, &report))?;
    }
    match args.format {
        Format::Text => ui.print(&views::rehearse::text(&report, ui.width()))?,
        Format::Json => views::json(ui, &report)?,
    }
    Ok(match report.entries.iter().any(|e| e.result == RehearsalResult::Failed) {
        true => Status::Partly,
        false if report.entries.iter().any(Rehearsed::is_bad) => Status::Found,
        false => Status::Fine,
    })
}

/// The process that owns the namespace.
fn stage() -> Result<Status, CommandError> {
    let one = || {
        let mut command = Command::new("/proc/self/exe");
        command.args(["rehearse", "--one"]);
        command
    };
    serve(BufReader::new(io::stdin()), io::stdout(), one)?;
    Ok(Status::Fine)
}

/// The process that tries one entry: job in, end out.
fn one(ui: &Ui) -> Result<Status, CommandError> {
    let mut text = Vec::new();
    io::stdin().lock().take(1 << 20).read_to_end(&mut text)?;
    let job: Job = serde_json::from_slice(&text).map_err(|e| CommandError::input("standard input", e))?;
    let end = if job.way == Way::Swap { swap_file(&job.source) } else { answer(&job) };
    views::json(ui, &end)?;
    Ok(Status::Fine)
}

/// What a swap file is, where it lies now: on what the entries before it have
/// mounted.
fn swap_file(path: &str) -> End {
    let (mounts, facts) = look_at_swap_file(path);
    let Some(facts) = facts.filter(|f| f.kind == PathKind::File) else {
        return End::Refused { at: path.to_owned(), why: "there is no such file".to_owned() };
    };
    let mut record = Record::new("");
    record.mounts = Some(mounts);
    let area = Area {
        place: Place::File(&facts, file_system(&record, &facts)),
        content: facts.content.as_ref(),
        page_size: Some(rustix::param::page_size() as u64),
        program: None,
    };
    match activate(&area, &[]).fate {
        Fate::Taken => End::Works { options: String::new() },
        Fate::Refused(why) => End::Refused { at: "its header".to_owned(), why },
        Fate::Unknown(why) => End::Untried { why },
    }
}
