use crate::args::{ForecastArgs, Format};
use crate::input;
use crate::outcome::{CommandError, Done};
use crate::ui::Ui;
use crate::views;
use bradawl_core::judgement::judge;
use bradawl_core::record::TableFile;
use bradawl_core::report::ForecastReport;

pub fn run(ui: &Ui, args: &ForecastArgs) -> Result<Done, CommandError> {
    let given = args.judge.table.as_deref().map(input::table).transpose()?;
    let host = input::host(args.host.as_deref(), &args.with, given.as_ref())?;
    let report = one(&host, given.as_ref())?;
    match args.judge.format {
        Format::Text => ui.print(&views::forecast::text(&report, ui.width()))?,
        Format::Json => views::json(&report)?,
    }
    let worst = report.forecast.entries.iter().filter_map(|e| e.consequence).min();
    Ok(if args.judge.fail_on.reached_by(worst) { Done::Found } else { Done::Fine })
}

/// Forecasts one host.
pub fn one(host: &input::Host, given: Option<&TableFile>) -> Result<ForecastReport, CommandError> {
    let name = host.record.host.name.clone();
    let file = input::chosen(host, given)?;
    let table = input::parsed(file)?;
    let forecast = judge(&host.record, &table).forecast.map_err(|e| CommandError::input(name.clone(), e))?;
    Ok(ForecastReport { schema: "bradawl.forecast/1", host: name, table: file.path.clone(), forecast })
}
