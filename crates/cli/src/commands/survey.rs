use super::survey_many;
use crate::args::{Format, SurveyArgs};
use crate::atomic;
use crate::input;
use crate::outcome::{CommandError, Done};
use crate::ui::Ui;
use crate::views;

pub fn run(ui: &Ui, args: &SurveyArgs) -> Result<Done, CommandError> {
    if args.many.collector {
        ui.print(&bradawl_survey::collected::collector())?;
        return Ok(Done::Fine);
    }
    if let (Some(hosts), Some(folder)) = (&args.many.hosts, &args.output) {
        return survey_many::over_ssh(ui, args, hosts, folder);
    }
    if let (Some(outputs), Some(folder)) = (&args.many.from_collected, &args.output) {
        return survey_many::from_collected(ui, args, outputs, folder);
    }
    let given = args.table.as_deref().map(input::table).transpose()?;
    let mut record = input::host(args.host.as_deref(), &args.with, given.as_ref())?.record;
    if let Some(table) = given {
        record.tables = vec![table];
    }
    if let Some(path) = &args.output {
        let mut json = views::json_text(&record);
        json.push('\n');
        atomic::write(path, json.as_bytes())?;
    }
    match args.format {
        Format::Json if args.output.is_none() => views::json(&record)?,
        Format::Json => {}
        Format::Text => {
            ui.print(&views::survey::text(&record, ui.width()))?;
            if let Some(path) = &args.output {
                ui.print(&format!("Record written to {}.\n", path.display()))?;
            }
        }
    }
    Ok(Done::Fine)
}
