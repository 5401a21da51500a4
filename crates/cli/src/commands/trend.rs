//! Many surveys of the same hosts, one after the other.

use crate::args::{TrendArgs, TrendFormat};
use crate::fleet::{self, Names};
use crate::outcome::{CommandError, Status};
use crate::policy;
use crate::settings::Settings;
use crate::ui::{Ui, complain};
use crate::views;
use bradawl_documents::Failure;
use bradawl_documents::trend::Trend;
use bradawl_facts::Consequence;
use bradawl_judgement::Against;
use std::path::{Path, PathBuf};

pub fn run(ui: &Ui, args: &TrendArgs, settings: &Settings) -> Result<Status, CommandError> {
    let surveys = surveys(&args.surveys)?;
    let force = policy::in_force(&args.policy, settings)?;
    let against =
        Against { policy: force.policy.as_ref(), earlier: None, today: policy::today(), fixes: false };
    let (mut trend, mut failed) = (Trend::default(), Vec::new());
    for survey in &surveys {
        trend.begin(&name(survey));
        let mut names = Names::default();
        let arg = [survey.display().to_string()];
        let work = |item: fleet::Item| {
            let input = item.name.clone();
            let host = fleet::host(item, &args.with, None);
            (input, host.and_then(|host| super::judged::one(&host, None, &against, false)))
        };
        fleet::each(fleet::items(&arg), work, |(input, judged)| {
            match judged {
                Ok(judged) => {
                    let audit = &judged.audited.audit;
                    let host = names.take(&audit.host, &input);
                    trend.add(&host, audit.taken_at_s, judged.forecast.outcome, &audit.findings);
                }
                Err(e) => failed.push(Failure { input, error: e.to_string() }),
            }
            Ok(())
        })?;
        trend.end();
    }
    let partly = !failed.is_empty();
    let report = trend.report(failed);
    match args.format {
        TrendFormat::Text => ui.print(&views::trend::text(&report, ui.width()))?,
        TrendFormat::Json => views::json(ui, &report)?,
        TrendFormat::Prometheus => ui.put(&views::trend::prometheus(&report))?,
    }
    report.failed.iter().for_each(|f| complain(&f.error));
    let lost = report.surveys.last().is_some_and(|s| s.lost > 0);
    Ok(Status::of(lost.then_some(Consequence::Halt), Some(Consequence::Halt), partly))
}

/// The surveys that the arguments stand for.
fn surveys(args: &[String]) -> Result<Vec<PathBuf>, CommandError> {
    let [one] = args else { return Ok(args.iter().map(PathBuf::from).collect()) };
    let failed = |e: std::io::Error| CommandError::input(one, crate::input::plain(&e));
    let folder = Path::new(one);
    if !folder.is_dir() {
        return Ok(vec![folder.to_owned()]);
    }
    let mut inside: Vec<PathBuf> =
        std::fs::read_dir(folder).map_err(failed)?.flatten().map(|e| e.path()).collect();
    inside.retain(|p| p.is_dir() || fleet::is_many(&p.to_string_lossy()));
    inside.sort();
    // A directory of records is one survey itself.
    Ok(if inside.is_empty() { vec![folder.to_owned()] } else { inside })
}

fn name(survey: &Path) -> String {
    let name = survey.file_name().unwrap_or(survey.as_os_str()).to_string_lossy().into_owned();
    match survey.is_dir() {
        true => name,
        false => name
            .split(".json")
            .next()
            .unwrap_or_default()
            .split(".ndjson")
            .next()
            .unwrap_or_default()
            .to_owned(),
    }
}
