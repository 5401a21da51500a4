use super::{pack, survey_many};
use crate::args::{Format, SurveyArgs};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::output::{self, Readers};
use crate::settings::Settings;
use crate::ui::Ui;
use crate::views;
use std::io::{self, Read as _, Write as _};
use std::path::{Path, PathBuf};

pub fn run(ui: &Ui, args: &SurveyArgs, settings: &Settings) -> Result<Status, CommandError> {
    if args.look {
        return answer(bradawl_survey::look_for);
    }
    if args.generate {
        return answer(bradawl_survey::generate);
    }
    if args.many.collector {
        ui.put(&bradawl_survey::collected::collector())?;
        return Ok(Status::Fine);
    }
    if let (Some(hosts), Some(folder)) = (&args.many.hosts, &args.output) {
        return survey_many::over_ssh(ui, args, &list(hosts, settings)?, folder);
    }
    if let (Some(outputs), Some(folder)) = (&args.many.from_collected, &args.output) {
        return survey_many::from_collected(ui, args, outputs, folder);
    }
    if let (Some(records), Some(into)) = (&args.many.pack, &args.output) {
        return pack::run(ui, records, into);
    }
    let given = args.table.as_deref().map(input::table).transpose()?;
    let mut record = match args.boots {
        0 => input::host(args.host.as_deref(), &args.with, given.as_ref())?.record,
        earlier if args.host.is_none() && args.with.disk.is_empty() => {
            let mut survey = input::survey(given.clone().into_iter().collect());
            survey.earlier_boots = earlier;
            survey.live()?
        }
        _ => return Err(CommandError::input("--boots", "only this host's own journal can be asked")),
    };
    if let Some(table) = given {
        record.tables = vec![table];
    }
    if args.redact {
        record.redact();
    }
    if let Some(path) = &args.output {
        let json = views::json_whole(&record) + "\n";
        output::write(path, json.as_bytes(), Readers::Owner)?;
    }
    match args.format {
        Format::Json if args.output.is_none() => ui.put(&(views::json_whole(&record) + "\n"))?,
        Format::Json => {}
        Format::Text => {
            ui.print(&views::survey::text(&record, ui.width()))?;
            if let Some(path) = &args.output {
                ui.print(&format!("Record written to {}.\n", path.display()))?;
            }
        }
    }
    Ok(Status::Fine)
}

/// The list of hosts: the one named, else that of the settings.
fn list(named: &Path, settings: &Settings) -> Result<PathBuf, CommandError> {
    match &settings.hosts {
        _ if !named.as_os_str().is_empty() => Ok(named.to_owned()),
        Some(set) => Ok(set.value.clone()),
        None => Err(CommandError::input("--hosts", "give a FILE: the settings name no list of hosts")),
    }
}

/// A process that looks at what may not answer, or runs what is not trusted:
/// request in, answer out.
fn answer(to: fn(&[u8]) -> Vec<u8>) -> Result<Status, CommandError> {
    let mut request = Vec::new();
    io::stdin().lock().take(16 << 20).read_to_end(&mut request)?;
    io::stdout().lock().write_all(&to(&request))?;
    Ok(Status::Fine)
}
