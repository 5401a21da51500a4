//! The repairs of many hosts: a directory for each whose table can be repaired.

use super::mend::repaired;
use super::per_host::hand_out;
use crate::args::{MendArgs, MendFormat};
use crate::fleet::{self, Item, Names};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::policy::{self, InForce};
use crate::settings::Settings;
use crate::ui::{Ui, complain};
use crate::views;
use bradawl_change::aftermath::aftermath;
use bradawl_change::steps::Step;
use bradawl_documents::{Failure, MendLine, MendManyReport, MendReport, MendState, RollOut};
use bradawl_facts::Consequence;
use bradawl_facts::table::Table;
use bradawl_judgement::status::Counted;

/// One host's repair.
struct Repair {
    report: MendReport,
    roles: Vec<String>,
    old: Table,
    new: Table,
    after: Vec<Step>,
    counted: Counted,
}

pub fn run(ui: &Ui, args: &MendArgs, arg: &str, settings: &Settings) -> Result<Status, CommandError> {
    if args.write || args.choose || args.table.is_some() || args.format == MendFormat::Diff {
        let why =
            "--write, --choose, --table and diff are of one host; --into DIRECTORY writes the tables of many";
        return Err(CommandError::input(arg, why));
    }
    let force = policy::in_force(&args.policy, settings)?;
    let (mut lines, mut failed, mut names) = (Vec::new(), Vec::new(), Names::default());
    let (mut worst, mut open) = (None, None);
    let work = |item: Item| (item.name.clone(), one(args, item, &force));
    fleet::each(fleet::items(&[arg.to_owned()]), work, |(input, repair)| {
        match repair {
            Ok(mut repair) => {
                repair.report.host = names.take(&repair.report.host, &input);
                worst = worst.into_iter().chain(repair.counted.counts_as()).min();
                open = open.into_iter().chain(repair.counted.at_worst).min();
                lines.push(written(args, &repair)?);
            }
            Err(e) => failed.push(Failure { input, error: e.to_string() }),
        }
        Ok(())
    })?;
    let partly = !failed.is_empty();
    let report = MendManyReport::new(lines, failed);
    match args.format {
        MendFormat::Json => views::json(ui, &report)?,
        _ => ui.print(&views::mend_many::text(&report, ui.width()))?,
    }
    report.failed.iter().for_each(|f| complain(&f.error));
    let limit = Some(Consequence::Missing);
    Ok(Status::of(worst, limit, partly).or_not_known(open, limit))
}

fn one(args: &MendArgs, item: Item, force: &InForce) -> Result<Repair, CommandError> {
    let mut host = fleet::host(item, &args.with, None)?;
    input::boot_with(&mut host.record, args.init.as_ref());
    let file = input::chosen(&host, None)?;
    let old = input::parsed(file)?;
    let (report, new, counted) = repaired(&host, file, &old, args, force)?;
    let after = aftermath(&host.record, &old, &new);
    Ok(Repair { report, roles: host.record.host.roles.clone(), old, new, after, counted })
}

/// Its line, with its files written where there is a repair and a place for it.
fn written(args: &MendArgs, repair: &Repair) -> Result<MendLine, CommandError> {
    let mut line = MendLine::new(&repair.report, repair.roles.clone());
    let Some(into) = args.into.as_deref().filter(|_| line.state == MendState::Repaired) else {
        return Ok(line);
    };
    let report = &repair.report;
    let out = RollOut {
        schema: RollOut::SCHEMA,
        host: line.host.clone(),
        table: report.table.clone(),
        steps: report.beside.clone(),
        after: repair.after.clone(),
        outcome_before: report.before.outcome,
        outcome_after: report.after.outcome,
        verdict_after: report.after.verdict.clone(),
    };
    let folder = hand_out(into, &out, (&repair.old, &repair.new), ("mend.json", report))?;
    line.directory = Some(folder.display().to_string());
    Ok(line)
}
