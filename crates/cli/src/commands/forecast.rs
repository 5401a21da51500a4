use crate::args::{ForecastArgs, ForecastFormat, UnitsForm};
use crate::fleet::{self, Item, Names};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::ui::{Ui, complain};
use crate::views;
use bradawl_boot::{requests, units};
use bradawl_change::advice::advise;
use bradawl_change::what_if::{Supposed, supposing};
use bradawl_documents::{ForecastReport, UnitsReport, WhatIf};
use bradawl_facts::record::{Record, TableFile};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use bradawl_judgement::status::{at_worst, of_boot};
use bradawl_resolve::Index;

pub fn run(ui: &Ui, args: &ForecastArgs) -> Result<Status, CommandError> {
    let given = args.judge.table.as_deref().map(input::table).transpose()?;
    if let Some(arg) = args.host.as_ref().filter(|arg| fleet::is_many(arg)) {
        return many(ui, args, arg, given.as_ref());
    }
    let mut host = input::host(args.host.as_deref(), &args.with, given.as_ref())?;
    input::boot_with(&mut host.record, args.judge.init.as_ref());
    input::ask_generator(&mut host, args.host.as_ref(), given.as_ref(), &args.judge)?;
    if let Some(form) = args.units {
        return write_units(ui, &host, given.as_ref(), form);
    }
    let mut report = one(&host, given.as_ref())?;
    if !args.what_if.is_empty() {
        let table = input::parsed(input::chosen(&host, given.as_ref())?)?;
        report.what_if = Some(what_if(&host.record, &table, &args.what_if)?);
    }
    match args.format {
        ForecastFormat::Text => ui.print(&views::forecast::text(&report, ui.width()))?,
        ForecastFormat::Json => views::json(ui, &report)?,
        ForecastFormat::Html => ui.put(&views::forecast::html(&report)?)?,
    }
    Ok(args.judge.status(of_boot(&report.forecast), at_worst(&report.forecast), false))
}

/// Forecasts all hosts of a directory or of a file with a record a line: a line
/// for each, or with `json` a document a line.
fn many(ui: &Ui, args: &ForecastArgs, arg: &str, given: Option<&TableFile>) -> Result<Status, CommandError> {
    if args.units.is_some() || args.format == ForecastFormat::Html {
        let why = "--units and html are of one host; give one record (audit --format html accepts many)";
        return Err(CommandError::input(arg, why));
    }
    let judge = |item: Item| -> Result<(String, ForecastReport), CommandError> {
        let name = item.name.clone();
        let mut host = fleet::host(item, &args.with, given)?;
        input::boot_with(&mut host.record, args.judge.init.as_ref());
        let mut report = one(&host, given)?;
        if !args.what_if.is_empty() {
            let table = input::parsed(input::chosen(&host, given)?)?;
            report.what_if = Some(what_if(&host.record, &table, &args.what_if)?);
        }
        Ok((name, report))
    };
    let (mut partly, mut worst, mut open, mut names) = (false, None, None, Names::default());
    let mut same = 0;
    fleet::each(fleet::items(&[arg.to_owned()]), judge, |report| {
        match report {
            Ok((input, mut report)) => {
                report.host = names.take(&report.host, &input);
                // With a change it is the boot with it that counts.
                let counts = report.what_if.as_ref().map_or(&report.forecast, |w| &w.forecast);
                worst = worst.into_iter().chain(of_boot(counts)).min();
                open = open.into_iter().chain(at_worst(counts)).min();
                match args.format {
                    ForecastFormat::Text if report.what_if.as_ref().is_some_and(|w| alike(&report, w)) => {
                        same += 1
                    }
                    ForecastFormat::Json => ui.print(&views::json_line(&report)?)?,
                    _ => ui.print(&views::forecast::line(&report, ui.width()))?,
                }
            }
            Err(e) => {
                partly = true;
                complain(&e);
            }
        }
        Ok(())
    })?;
    if !args.what_if.is_empty() && args.format == ForecastFormat::Text {
        ui.print(&views::forecast::as_before(same))?;
    }
    Ok(args.judge.status(worst, open, partly))
}

/// Whether a boot goes as before.
fn alike(report: &ForecastReport, other: &WhatIf) -> bool {
    report.forecast.verdict.to_string() == other.forecast.verdict.to_string()
}

/// Forecasts one host.
pub fn one(host: &input::Host, given: Option<&TableFile>) -> Result<ForecastReport, CommandError> {
    let name = host.record.host.name.clone();
    let file = input::chosen(host, given)?;
    let table = input::parsed(file)?;
    let judgement = judge(&host.record, &table);
    let advice = advise(&host.record, &table, &judgement);
    Ok(ForecastReport {
        schema: "bradawl.forecast/1",
        host: name,
        table: file.path.clone(),
        forecast: judgement.forecast,
        advice,
        what_if: None,
    })
}

/// The boot with changes that are only thought.
fn what_if(record: &Record, table: &Table, changes: &[(String, Supposed)]) -> Result<WhatIf, CommandError> {
    let (texts, changes): (Vec<String>, Vec<Supposed>) = changes.iter().cloned().unzip();
    let supposed = supposing(record, table, &changes);
    let (record, table) = supposed.map_err(|e| CommandError::input("--what-if", e))?;
    Ok(WhatIf { changes: texts, forecast: judge(&record, &table).forecast })
}

fn write_units(
    ui: &Ui,
    host: &input::Host,
    given: Option<&TableFile>,
    form: UnitsForm,
) -> Result<Status, CommandError> {
    let table = input::parsed(input::chosen(host, given)?)?;
    if !host.record.host.boots_with().is_systemd() {
        return Err(CommandError::input(host.record.host.name.clone(), "its init system has no units"));
    }
    let index = Index::new(&host.record);
    let made = units(&host.record, &requests(&host.record, &index, &table));
    let report = UnitsReport { schema: "bradawl.units/1", host: host.record.host.name.clone(), made };
    match form {
        UnitsForm::Dot => ui.print(&views::forecast::dot(&report))?,
        UnitsForm::Json => views::json(ui, &report)?,
    }
    Ok(Status::Fine)
}
