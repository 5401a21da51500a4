use crate::args::{AuditArgs, Format};
use crate::input;
use crate::outcome::{CommandError, Done};
use crate::ui::Ui;
use crate::views;
use crate::views::audit::Audited;
use bradawl_core::judgement::judge;
use bradawl_core::record::TableFile;
use bradawl_core::report::{AuditReport, Failure, HostAudit};
use bradawl_core::rules::RULES;

pub fn run(ui: &Ui, args: &AuditArgs) -> Result<Done, CommandError> {
    let given = args.judge.table.as_deref().map(input::table).transpose()?;
    let mut audited = Vec::new();
    let mut failed = Vec::new();
    if args.hosts.is_empty() {
        audited.push(one(&input::host(None, &args.with, given.as_ref())?, given.as_ref())?);
    }
    for arg in &args.hosts {
        match input::spread(arg) {
            Ok(records) => {
                for record in records {
                    let host = input::host(Some(&record), &args.with, given.as_ref());
                    match host.and_then(|h| one(&h, given.as_ref())) {
                        Ok(done) => audited.push(done),
                        Err(e) => failed.push(failure(&record, &e)),
                    }
                }
            }
            Err(e) => failed.push(failure(arg, &e)),
        }
    }
    finish(ui, args, audited, failed)
}

/// Takes out the findings that were not asked for.
fn filter(args: &AuditArgs, audited: &mut [Audited]) -> Result<(), CommandError> {
    if let Some(unknown) = args.only.iter().find(|name| !RULES.iter().any(|r| r.slug == name.as_str())) {
        return Err(CommandError::input(unknown.as_str(), "there is no rule of this name"));
    }
    for one in audited {
        one.audit.findings.retain(|f| {
            let named = args.only.is_empty() || args.only.iter().any(|name| name == f.rule);
            named && args.min.is_none_or(|min| min.reached_by(Some(f.consequence)))
        });
    }
    Ok(())
}

fn finish(
    ui: &Ui,
    args: &AuditArgs,
    mut audited: Vec<Audited>,
    failed: Vec<Failure>,
) -> Result<Done, CommandError> {
    let partly = !failed.is_empty();
    filter(args, &mut audited)?;
    let text = match args.summary {
        true => views::audit::overview(&audited, &failed, ui.width()),
        false => views::audit::text(&audited, &failed, ui.width()),
    };
    let report = AuditReport::new(audited.into_iter().map(|a| a.audit).collect(), failed);
    match args.judge.format {
        Format::Text => ui.print(&text)?,
        Format::Json => views::json(&report)?,
    }
    for failure in &report.failed {
        anstream::eprintln!("bradawl: {}", bradawl_core::text::visible(&failure.error));
    }
    Ok(match (partly, args.judge.fail_on.reached_by(report.worst())) {
        (true, _) => Done::Partly,
        (false, true) => Done::Found,
        (false, false) => Done::Fine,
    })
}

/// Judges one host.
pub fn one(host: &input::Host, given: Option<&TableFile>) -> Result<Audited, CommandError> {
    let file = input::chosen(host, given)?;
    let table = input::parsed(file)?;
    let judgement = judge(&host.record, &table);
    let (verdict, outcome, assumed) = match judgement.forecast {
        Ok(f) => (f.verdict, Some(f.outcome), f.assumed),
        Err(e) => (format!("the boot cannot be forecast: {e}"), None, Vec::new()),
    };
    let audit = HostAudit {
        host: host.record.host.name.clone(),
        table: file.path.clone(),
        verdict,
        outcome,
        findings: judgement.findings,
        unread: host.record.unread.clone(),
        assumed,
    };
    Ok(Audited { audit, table })
}

fn failure(input: &str, error: &CommandError) -> Failure {
    Failure { input: input.to_owned(), error: error.to_string() }
}
