use crate::args::{Format, ResolveArgs};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::ui::Ui;
use crate::views;
use bradawl_documents::ResolveReport;
use bradawl_resolve::Index;

pub fn run(ui: &Ui, args: &ResolveArgs) -> Result<Status, CommandError> {
    let record = input::host(args.host.as_deref(), &args.with, None)?.record;
    let report = ResolveReport::new(&record, &Index::new(&record), &args.names);
    match args.format {
        Format::Text => ui.print(&views::resolve::text(&report, ui.width()))?,
        Format::Json => views::json(ui, &report)?,
    }
    Ok(if report.all_found() { Status::Fine } else { Status::Found })
}
