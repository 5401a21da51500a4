use crate::args::{DevicesArgs, DevicesFormat};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::ui::Ui;
use crate::views;
use bradawl_boot::requests;
use bradawl_documents::{DeviceOverview, DevicesReport};
use bradawl_resolve::Index;

pub fn run(ui: &Ui, args: &DevicesArgs) -> Result<Status, CommandError> {
    let (first, more) = match args.hosts.split_first() {
        Some((first, more)) => (Some(first.as_str()), more),
        None => (None, &[][..]),
    };
    let mut with = crate::args::WithArgs { disk: more.iter().map(Into::into).collect(), ..args.with };
    with.disk.extend(args.with.disk.iter().cloned());
    let record = input::host(first, &with, None)?.record;
    let since = args.since.as_deref().map(input::record_file).transpose()?;
    let table = input::own_table(&record)?;
    let index = Index::new(&record);
    let asked = requests(&record, &index, &table);
    let mut report = DevicesReport::new(&record, &asked, since.as_ref());
    if args.free {
        report.devices.retain(DeviceOverview::is_empty);
        report.dormant.clear();
    }
    match args.format {
        DevicesFormat::Text => ui.print(&views::devices::text(&report, &record.unread, ui.width()))?,
        DevicesFormat::Json => views::json(ui, &report)?,
        DevicesFormat::Svg => ui.put(&views::stack::svg(&report))?,
        DevicesFormat::Dot => ui.put(&views::stack_dot::dot(&report))?,
        DevicesFormat::Html => ui.put(&views::stack::html(&report))?,
    }
    Ok(Status::Fine)
}
