//! A boot beside its forecast.

use crate::args::{HindsightArgs, HindsightFormat};
use crate::fleet::{self, Item, Names};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::output::{self, Readers};
use crate::ui::{Ui, complain, remark};
use crate::views;
use bradawl_documents::Failure;
use bradawl_documents::hindsight::{HindsightCase, HindsightFleet, HindsightReport};
use bradawl_facts::record::{BootRun, Record, TableFile};
use bradawl_facts::table::Table;
use bradawl_judgement::hindsight::{Agreement, Hindsight, beside};
use std::collections::BTreeMap;
use std::path::Path;

/// So many boots are listed at most.
const LISTED: u32 = 20;

pub fn run(ui: &Ui, args: &HindsightArgs) -> Result<Status, CommandError> {
    if let Some(arg) = args.host.as_ref().filter(|arg| fleet::is_many(arg)) {
        return many(ui, args, arg);
    }
    if matches!(args.format, HindsightFormat::Csv | HindsightFormat::Prometheus | HindsightFormat::Html) {
        return Err(CommandError::input("--format", "csv, prometheus and html are of many hosts"));
    }
    let record = record(args)?;
    if args.list {
        let all: Vec<HindsightReport> =
            boots(&record).iter().map(|boot| report(None, &record, Some(boot))).collect::<Result<_, _>>()?;
        match args.format {
            HindsightFormat::Json => views::json(ui, &all)?,
            _ => ui.print(&views::hindsight::list(&all, ui.width()))?,
        }
        return Ok(Status::Fine);
    }
    let boot = boots(&record).iter().find(|b| b.offset == args.boot);
    if boot.is_none() && args.boot != 0 {
        let why = format!(
            "nothing is known of boot {}; a survey on the host itself, as root, keeps the journal's jobs",
            args.boot
        );
        return Err(CommandError::input(record.host.name, why));
    }
    let report = report(args.before.as_deref(), &record, boot)?;
    match args.format {
        HindsightFormat::Json => views::json(ui, &report)?,
        _ => ui.print(&views::hindsight::text(&report, ui.width()))?,
    }
    if let Some(path) = &args.case {
        write_case(path, &record, &report)?;
    }
    Ok(status(&report.hindsight))
}

fn boots(record: &Record) -> &[BootRun] {
    record.boots.as_deref().unwrap_or_default()
}

/// The host's record; of this host with as many boots as are asked for.
fn record(args: &HindsightArgs) -> Result<Record, CommandError> {
    if args.host.is_some() || !args.with.disk.is_empty() {
        return Ok(input::host(args.host.as_deref(), &args.with, None)?.record);
    }
    let mut survey = input::survey(Vec::new());
    survey.earlier_boots = if args.list { LISTED } else { args.boot.unsigned_abs() };
    Ok(survey.live()?)
}

/// The last boot of a host, shown.
pub fn shown(ui: &Ui, host: &input::Host) -> Result<(), CommandError> {
    let boot = boots(&host.record).iter().find(|b| b.offset == 0);
    let report = report(None, &host.record, boot)?;
    Ok(ui.print(&views::hindsight::text(&report, ui.width()))?)
}

fn report(
    before: Option<&str>,
    record: &Record,
    boot: Option<&BootRun>,
) -> Result<HindsightReport, CommandError> {
    let host = input::Host { record: record.clone() };
    let file = input::chosen(&host, None)?;
    let table = input::parsed(file)?;
    let before = before.map(input::record_file).transpose()?;
    let hindsight = beside(record, &table, boot, before.as_ref().unwrap_or(record));
    Ok(HindsightReport {
        schema: "bradawl.hindsight/1",
        host: record.host.name.clone(),
        table: file.path.clone(),
        table_changed_since: changed_since(file, boot),
        from_before: before.is_some(),
        hindsight,
    })
}

/// Whether a table was changed after a boot had begun.
fn changed_since(file: &TableFile, boot: Option<&BootRun>) -> Option<bool> {
    Some(file.modified_s? > boot?.began_s?)
}

fn status(hindsight: &Hindsight) -> Status {
    match hindsight.agreement {
        Agreement::Agreed => Status::Fine,
        Agreement::Differed => Status::Found,
        Agreement::NotKnown => Status::NotKnown,
    }
}

fn write_case(path: &Path, record: &Record, report: &HindsightReport) -> Result<(), CommandError> {
    if report.hindsight.agreement != Agreement::Differed {
        remark("forecast and boot agree: no case was written\n");
        return Ok(());
    }
    let case = HindsightCase::new(record, report);
    output::write(path, (views::json_whole(&case) + "\n").as_bytes(), Readers::Owner)?;
    remark(&format!("the case is in {}\n", path.display()));
    Ok(())
}

/// A host's name, the types in its table by line, and its last boot.
type OfHost = (String, BTreeMap<usize, String>, Hindsight);

/// The last boots of many hosts.
fn many(ui: &Ui, args: &HindsightArgs, arg: &str) -> Result<Status, CommandError> {
    if args.list || args.case.is_some() || args.boot != 0 || args.before.is_some() {
        let why = "--list, --boot, --before and --case are of one host";
        return Err(CommandError::input(arg, why));
    }
    let judge = |item: Item| -> (String, Result<OfHost, CommandError>) {
        let input = item.name.clone();
        let judged = fleet::host(item, &args.with, None).and_then(|host| {
            let table: Table = input::parsed(input::chosen(&host, None)?)?;
            let types = table.entries().into_iter().map(|e| (e.line, e.fstype)).collect();
            let boot = boots(&host.record).iter().find(|b| b.offset == 0);
            let hindsight = beside(&host.record, &table, boot, &host.record);
            Ok((host.record.host.name, types, hindsight))
        });
        (input, judged)
    };
    let (mut all, mut failed, mut names) = (HindsightFleet::default(), Vec::new(), Names::default());
    fleet::each(fleet::items(&[arg.to_owned()]), judge, |(input, judged)| {
        match judged {
            Ok((host, types, hindsight)) => all.add(&names.take(&host, &input), &types, &hindsight),
            Err(e) => failed.push(Failure { input, error: e.to_string() }),
        }
        Ok(())
    })?;
    let report = all.finish(failed);
    match args.format {
        HindsightFormat::Text => ui.print(&views::hindsight::fleet(&report, ui.width()))?,
        HindsightFormat::Json => views::json(ui, &report)?,
        HindsightFormat::Csv => ui.put(&views::hindsight::csv(&report)?)?,
        HindsightFormat::Prometheus => ui.put(&views::hindsight::prometheus(&report))?,
        HindsightFormat::Html => ui.put(&views::hindsight::html(&report)?)?,
    }
    report.failed.iter().for_each(|f| complain(&f.error));
    Ok(match (report.failed.is_empty(), report.boots.differed) {
        (false, _) => Status::Partly,
        (true, 0) => Status::Fine,
        (true, _) => Status::Found,
    })
}
