//! A layout laid on one host or many.

use super::per_host::{hand_out, make};
use crate::args::{Format, LayoutArgs, OtherForm};
use crate::fleet::{self, Item, Names};
use crate::input::{self, Host};
use crate::outcome::{CommandError, Status};
use crate::output::{self, Readers};
use crate::policy::{self, InForce};
use crate::settings::Settings;
use crate::ui::{Ui, complain};
use crate::views;
use bradawl_boot::requests;
use bradawl_change::aftermath::aftermath;
use bradawl_change::forms;
use bradawl_change::layout::{Derived, Laid, Layout, lay};
use bradawl_documents::{Failure, LayoutLine, LayoutReport, LayoutState, RollOut};
use bradawl_facts::Consequence;
use bradawl_facts::table::Table;
use bradawl_judgement::Against;
use bradawl_resolve::Index;
use std::path::Path;

/// No layout is larger.
const MAX_BYTES: u64 = 4 << 20;

/// One host with the layout.
struct One {
    host: Host,
    path: String,
    old: Table,
    laid: Laid,
}

pub fn run(ui: &Ui, args: &LayoutArgs, settings: &Settings) -> Result<Status, CommandError> {
    let file = match (&args.from, &args.file) {
        (Some(records), _) => return derived(ui, args, records),
        (None, Some(file)) => file,
        (None, None) => return Err(CommandError::input("layout", "give a file, or --from RECORDS")),
    };
    let name = file.display().to_string();
    let text = String::from_utf8(input::file(file, MAX_BYTES)?)
        .map_err(|_| CommandError::input(&name, "is not UTF-8"))?;
    let layout = Layout::parse(&text).map_err(|e| CommandError::input(&name, e))?;
    let force = policy::in_force(&args.policy, settings)?;
    let (mut lines, mut failed, mut names) = (Vec::new(), Vec::new(), Names::default());
    let mut shown = None;
    let alone = args.hosts.len() < 2 && !args.hosts.iter().any(|arg| fleet::is_many(arg));
    let mut take = |input: String, one: Result<One, CommandError>| {
        match one {
            Ok(one) => {
                let host = names.take(&one.host.record.host.name, &input);
                lines.push(written(args, &host, &one)?);
                shown = Some((one.path, one.old, one.laid.table));
            }
            Err(e) => failed.push(Failure { input, error: e.to_string() }),
        }
        Ok(())
    };
    if args.hosts.is_empty() {
        take("this host".to_owned(), one(input::host(None, &args.with, None)?, &layout, &force))?;
    } else {
        let work = |item: Item| {
            let input = item.name.clone();
            (input, fleet::host(item, &args.with, None).and_then(|host| one(host, &layout, &force)))
        };
        fleet::each(fleet::items(&args.hosts), work, |(input, one)| take(input, one))?;
    }
    let partly = !failed.is_empty();
    let report = LayoutReport::new(&name, lines, failed);
    let diff = shown.filter(|_| alone).map(|(path, old, new)| views::mend::diff(&path, &old, &new));
    match args.format {
        Format::Json => views::json(ui, &report)?,
        Format::Text => ui.print(&views::layout::text(&report, diff.as_deref(), ui.width()))?,
    }
    report.failed.iter().for_each(|f| complain(&f.error));
    let open = report.hosts.iter().any(|h| matches!(h.state, LayoutState::Refused | LayoutState::Unresolved));
    let worst = open.then_some(Consequence::Missing);
    Ok(Status::of(worst, Some(Consequence::Missing), partly))
}

/// A layout from records.
fn derived(ui: &Ui, args: &LayoutArgs, records: &str) -> Result<Status, CommandError> {
    let (mut derived, mut partly, mut names) = (Derived::default(), false, Names::default());
    let work = |item: Item| {
        let input = item.name.clone();
        let read = fleet::host(item, &args.with, None).and_then(|host| {
            let table = input::parsed(input::chosen(&host, None)?)?;
            Ok((host.record, table))
        });
        (input, read)
    };
    fleet::each(fleet::items(&[records.to_owned()]), work, |(input, read)| {
        match read {
            Ok((record, table)) => {
                let host = names.take(&record.host.name, &input);
                derived.take(&host, &record, &table);
            }
            Err(e) => {
                partly = true;
                complain(&e);
            }
        }
        Ok(())
    })?;
    ui.put(&derived.toml())?;
    Ok(Status::of(None, None, partly))
}

fn one(host: Host, layout: &Layout, force: &InForce) -> Result<One, CommandError> {
    let file = input::chosen(&host, None)?;
    let (path, old) = (file.path.clone(), input::parsed(file)?);
    let against =
        Against { policy: force.policy.as_ref(), earlier: None, today: policy::today(), fixes: false };
    let laid = lay(&host.record, &old, layout, &against);
    Ok(One { host, path, old, laid })
}

/// Its line, with its files written where its table changes and there is a place
/// for them.
fn written(args: &LayoutArgs, host: &str, one: &One) -> Result<LayoutLine, CommandError> {
    let mut line = LayoutLine::new(host, one.host.record.host.roles.clone(), &one.old, &one.laid);
    let Some(into) = args.into.as_deref().filter(|_| !line.lines.is_empty()) else { return Ok(line) };
    let (record, new) = (&one.host.record, &one.laid.table);
    let out = RollOut {
        schema: RollOut::SCHEMA,
        host: host.to_owned(),
        table: one.path.clone(),
        steps: line.steps.clone(),
        after: aftermath(record, &one.old, new),
        outcome_before: line.outcome_before,
        outcome_after: line.outcome_after,
        verdict_after: line.verdict_after.clone(),
    };
    let folder = hand_out(into, &out, (&one.old, new), ("layout.json", &line))?;
    also(&folder, args, one)?;
    line.directory = Some(folder.display().to_string());
    Ok(line)
}

/// Its entries in the other forms that were asked for.
fn also(folder: &Path, args: &LayoutArgs, one: &One) -> Result<(), CommandError> {
    let (record, table, lines) = (&one.host.record, &one.laid.table, one.laid.lines());
    let put = |path: &Path, text: &str| output::write(path, text.as_bytes(), Readers::Owner);
    if args.also.contains(&OtherForm::CloudInit) {
        put(&folder.join("cloud-config.yaml"), &forms::cloud_config(record, table, &lines))?;
    }
    if args.also.contains(&OtherForm::Units) {
        let index = Index::new(record);
        let units = folder.join("units");
        make(&units)?;
        for file in forms::unit_files(&requests(record, &index, table), &lines) {
            let path = units.join(&file.name);
            path.parent().map_or(Ok(()), make)?;
            put(&path, &file.text)?;
        }
    }
    Ok(())
}
