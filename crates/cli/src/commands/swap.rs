use crate::args::{Format, SwapArgs};
use crate::input;
use crate::outcome::{CommandError, Done};
use crate::swap_file;
use crate::ui::Ui;
use crate::views;
use bradawl_core::boot::{forecast, requests};
use bradawl_core::report::SwapReport;
use bradawl_core::resolve::Index;
use bradawl_core::swap::{Wanted, overview, plan};
use bradawl_core::table::Table;
use std::path::Path;

pub fn run(ui: &Ui, args: &SwapArgs) -> Result<Done, CommandError> {
    if let Some(path) = &args.file {
        return make(ui, args, path);
    }
    let given = args.table.as_deref().map(input::table).transpose()?;
    let host = input::host(args.host.as_deref(), &args.with, given.as_ref())?;
    let record = &host.record;
    // A host without a table has swap all the same.
    let (path, table) = match given.as_ref().or(record.tables.first()) {
        Some(file) => (file.path.clone(), input::parsed(file)?),
        None => ("/etc/fstab".to_owned(), Table::parse("")),
    };
    let index = Index::new(record);
    let requests = requests(record, &index, &table);
    let forecast = forecast(record, &index, &requests);
    let overview = overview(record, &index, &requests, &forecast);
    let plan = match args.want {
        Some(_) => Some(
            plan(record, &index, &overview, &args.wishes())
                .map_err(|e| CommandError::input(record.host.name.clone(), e))?,
        ),
        None => None,
    };
    let report = SwapReport {
        schema: "bradawl.swap/1",
        host: record.host.name.clone(),
        table: path,
        overview,
        swappiness: record.swapping.and_then(|s| s.swappiness),
        zswap: record.swapping.and_then(|s| s.zswap),
        plan,
    };
    match args.format {
        Format::Text => ui.print(&views::swap::text(&report, ui.width()))?,
        Format::Json => views::json(&report)?,
    }
    let faulty = report.overview.areas.iter().any(|a| a.line.is_some() && a.after_reboot == Some(false));
    Ok(if faulty { Done::Found } else { Done::Fine })
}

/// Makes a swap file.
fn make(ui: &Ui, args: &SwapArgs, path: &str) -> Result<Done, CommandError> {
    let Some(Wanted::Bytes(size)) = args.want else {
        return Err(CommandError::input("--want", "give the size of the file"));
    };
    let file = swap_file::SwapFile { path: Path::new(path), size, label: &args.label };
    let made = if args.write { Some(file.write()?) } else { None };
    ui.print(&views::swap::file(path, size, made.as_deref(), ui.width()))?;
    Ok(Done::Fine)
}
