use crate::args::{Format, SwapArgs};
use crate::input::{self, Host};
use crate::outcome::{CommandError, Status};
use crate::swap_file;
use crate::ui::Ui;
use crate::views;
use bradawl_boot::{forecast, requests};
use bradawl_change::swap_plan::{Wanted, plan};
use bradawl_documents::SwapReport;
use bradawl_facts::record::TableFile;
use bradawl_facts::table::Table;
use bradawl_judgement::swap_overview::overview;
use bradawl_resolve::Index;
use std::path::Path;

pub fn run(ui: &Ui, args: &SwapArgs) -> Result<Status, CommandError> {
    if let Some(path) = &args.file {
        return make(ui, args, path);
    }
    let given = args.table.as_deref().map(input::table).transpose()?;
    let host = input::host(args.host.as_deref(), &args.with, given.as_ref())?;
    let mut report = looked_at(&host, given.as_ref())?;
    if args.want.is_some() {
        let (record, index) = (&host.record, Index::new(&host.record));
        let plan = plan(record, &index, &report.overview, &args.wishes());
        report.plan = Some(plan.map_err(|e| CommandError::input(record.host.name.clone(), e))?);
    }
    match args.format {
        Format::Text => ui.print(&views::swap::text(&report, ui.width()))?,
        Format::Json => views::json(&report)?,
    }
    let faulty = report.overview.areas.iter().any(|a| a.line.is_some() && a.after_reboot == Some(false));
    Ok(if faulty { Status::Found } else { Status::Fine })
}

/// All swap of a host, without a plan.
fn looked_at(host: &Host, given: Option<&TableFile>) -> Result<SwapReport, CommandError> {
    let record = &host.record;
    // A host without a table has swap all the same.
    let (path, table) = match given.or(record.tables.first()) {
        Some(file) => (file.path.clone(), input::parsed(file)?),
        None => ("/etc/fstab".to_owned(), Table::parse("")),
    };
    let index = Index::new(record);
    let requests = requests(record, &index, &table);
    let forecast = forecast(record, &index, &requests);
    Ok(SwapReport {
        schema: "bradawl.swap/1",
        host: record.host.name.clone(),
        table: path,
        overview: overview(record, &index, &requests, &forecast),
        swappiness: record.swapping.as_ref().and_then(|s| s.swappiness),
        zswap: record.swapping.as_ref().and_then(|s| s.zswap),
        plan: None,
    })
}

/// All swap of a host that is shown.
pub fn shown(ui: &Ui, host: &Host) -> Result<(), CommandError> {
    Ok(ui.print(&views::swap::text(&looked_at(host, None)?, ui.width()))?)
}

/// Makes a swap file.
fn make(ui: &Ui, args: &SwapArgs, path: &str) -> Result<Status, CommandError> {
    let Some(Wanted::Bytes(size)) = args.want else {
        return Err(CommandError::input("--want", "give the size of the file"));
    };
    let file = swap_file::SwapFile { path: Path::new(path), size, label: &args.label };
    let made = if args.write { Some(file.write()?) } else { None };
    ui.print(&views::swap::file(path, size, made.as_deref(), ui.width()))?;
    Ok(Status::Fine)
}
