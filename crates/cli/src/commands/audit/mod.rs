//! `bradawl audit`: each host is judged on all cores, taken in as it comes, and
//! what is not shown by then is shown at the end.

mod gathered;
mod show;

use crate::args::{AuditArgs, AuditFormat};
use crate::commands::judged::{Judged, one};
use crate::commands::swap;
use crate::fleet::{self, Item};
use crate::input;
use crate::kernel;
use crate::outcome::{CommandError, Status};
use crate::policy::{self, InForce};
use crate::rehearsed::{Limits, case, rehearsed, write_case};
use crate::settings::Settings;
use crate::ui::Ui;
use crate::views::host_page::Stores;
use bradawl_boot::requests;
use bradawl_change::rehearsal::RehearsalWishes;
use bradawl_change::what_if::{Supposed, supposing};
use bradawl_documents::{DevicesReport, Failure, RehearseReport, Rehearsed};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Record, TableFile};
use bradawl_facts::table::Table;
use bradawl_judgement::Against;
use bradawl_judgement::baseline;
use bradawl_judgement::baseline::{Baseline, Book};
use bradawl_judgement::policy::Date;
use bradawl_judgement::rules::{Finding, RULES};
use bradawl_resolve::Index;
use std::path::Path;

/// What every host of the run is judged by.
struct Run<'a> {
    args: &'a AuditArgs,
    table: Option<TableFile>,
    earlier: Option<Record>,
    force: InForce,
    today: Date,
    known: Option<Book>,
}

/// Below the directory of `--pages`.
const HOST_PAGES: &str = "hosts";

pub fn run(ui: &Ui, args: &AuditArgs, settings: &Settings) -> Result<Status, CommandError> {
    if let Some(unknown) = args.only.iter().find(|name| !RULES.iter().any(|r| r.slug == name.as_str())) {
        return Err(CommandError::input(unknown.as_str(), "there is no rule of this name"));
    }
    let run = Run {
        args,
        table: args.judge.table.as_deref().map(input::table).transpose()?,
        earlier: args.since.as_deref().map(input::record_file).transpose()?,
        force: policy::in_force(&args.policy, settings)?,
        today: policy::today(),
        known: args.baseline.as_deref().map(read_baseline).transpose()?,
    };
    let mut all = run.nothing()?;
    if args.hosts.is_empty() {
        run.take(ui, &mut all, "this host", run.judge(None)?)?;
    } else {
        let judge = |item: Item| (item.name.clone(), run.judge(Some(item)));
        fleet::each(fleet::items(&args.hosts), judge, |(name, judged)| match judged {
            Ok(judged) => run.take(ui, &mut all, &name, judged),
            Err(e) => {
                all.failed.push(Failure { input: name, error: e.to_string() });
                Ok(())
            }
        })?;
    }
    run.finish(ui, all)
}

fn read_baseline(path: &Path) -> Result<Book, CommandError> {
    let name = path.display().to_string();
    let bytes = input::file(path, bradawl_facts::record::MAX_BYTES)?;
    let read: Baseline = serde_json::from_slice(&bytes).map_err(|e| CommandError::input(&name, e))?;
    match read.schema.as_str() {
        baseline::SCHEMA => Ok(Book::of(&read)),
        other => Err(CommandError::input(name, format!("schema is {other:?}, not {:?}", baseline::SCHEMA))),
    }
}

impl Run<'_> {
    fn judge(&self, item: Option<Item>) -> Result<Judged, CommandError> {
        let mut host = match item {
            None => input::host(None, &self.args.with, self.table.as_ref())?,
            Some(item) => fleet::host(item, &self.args.with, self.table.as_ref())?,
        };
        input::boot_with(&mut host.record, self.args.judge.init.as_ref());
        input::ask_generator(&mut host, self.args.hosts.first(), self.table.as_ref(), &self.args.judge)?;
        let against = Against {
            policy: self.force.policy.as_ref(),
            earlier: self.earlier.as_ref(),
            today: self.today,
            fixes: self.tells_fixes(),
        };
        self.suppose(&mut host)?;
        let mut judged = one(&host, self.table.as_ref(), &against, self.wants_advice())?;
        judged.stores = if self.is_page() { Some(stores(&host, self.table.as_ref())?) } else { None };
        let audit = &mut judged.audited.audit;
        audit.supposed = self.args.what_if.iter().map(|(text, _)| text.clone()).collect();
        if self.args.ask_kernel {
            let answers = kernel::ask_table(&host.record, &judged.audited.table);
            audit.kernel = Some(answers.map_err(|e| CommandError::input("--ask-kernel", e))?);
        }
        if self.args.rehearse {
            let report = rehearse(&host.record, &audit.table, &judged.audited.table)?;
            if let Some(path) = &self.args.case {
                write_case(path, &case(&host.record, &judged.audited.table, &report))?;
            }
            // The forecast is not to be trusted about these.
            if report.contradictions().any(Rehearsed::is_bad) {
                judged.counted.at_worst = Some(Consequence::Halt);
            }
            audit.rehearsal = Some(report);
        }
        let unasked: Vec<Finding> = audit.findings.extract_if(.., |f| !self.asks_for(f.rule)).collect();
        audit.not_shown = unasked.len();
        judged.counted.excuse(unasked.iter().map(|f| f.consequence));
        #[cfg(feature = "parquet")]
        if self.args.columns.is_some() {
            let crate::views::audit::Audited { audit, table } = &judged.audited;
            let rows = crate::columns::Rows::of(&host.record, table, audit, &judged.forecast);
            judged.columns = Some(Box::new(rows));
        }
        Ok(judged)
    }

    /// Pages are of HTML.
    fn format(&self) -> AuditFormat {
        if self.args.pages.is_some() { AuditFormat::Html } else { self.args.format }
    }

    /// Whether a page is asked for about one host.
    fn is_page(&self) -> bool {
        let one = || self.args.hosts.len() <= 1 && !self.args.hosts.iter().any(|h| fleet::is_many(h));
        self.args.pages.is_some() || self.format() == AuditFormat::Html && !self.args.summary && one()
    }

    /// Changes the host as `--what-if` has it.
    fn suppose(&self, host: &mut input::Host) -> Result<(), CommandError> {
        if self.args.what_if.is_empty() {
            return Ok(());
        }
        let supposed: Vec<Supposed> = self.args.what_if.iter().map(|(_, one)| one.clone()).collect();
        if supposed.iter().any(Supposed::is_of_table) {
            let why =
                "audit judges the table as it stands; give the changed table with --table, or ask forecast";
            return Err(CommandError::input("--what-if", why));
        }
        let table = input::parsed(input::chosen(host, self.table.as_ref())?)?;
        let changed = supposing(&host.record, &table, &supposed);
        host.record = changed.map_err(|e| CommandError::input("--what-if", e))?.0;
        Ok(())
    }

    /// Repairs are looked for only where they are told.
    fn wants_advice(&self) -> bool {
        let told = matches!(
            self.format(),
            AuditFormat::Text | AuditFormat::Json | AuditFormat::Jsonl | AuditFormat::Html
        );
        told && !self.args.summary
    }

    /// Fixes are tried only where they are told.
    fn tells_fixes(&self) -> bool {
        let sums = matches!(self.format(), AuditFormat::Csv | AuditFormat::Prometheus | AuditFormat::Junit);
        !sums && !self.args.summary
    }

    fn asks_for(&self, rule: &str) -> bool {
        self.args.only.is_empty() || self.args.only.iter().any(|name| name == rule)
    }

    /// What is not shown counts all the same.
    fn shows(&self, finding: &Finding) -> bool {
        self.args.min.is_none_or(|min| min.limit().is_some_and(|limit| finding.consequence <= limit))
    }
}

/// Devices and swap of a host, for its page.
fn stores(host: &input::Host, given: Option<&TableFile>) -> Result<Stores, CommandError> {
    let table = input::parsed(input::chosen(host, given)?)?;
    let index = Index::new(&host.record);
    let devices = DevicesReport::new(&host.record, &requests(&host.record, &index, &table), None);
    Ok(Stores { devices, swap: swap::looked_at(host, given)?.overview })
}

/// Mounts the entries of this host's table in the order of the boot.
fn rehearse(record: &Record, path: &str, table: &Table) -> Result<RehearseReport, CommandError> {
    if !rustix::process::geteuid().is_root() {
        return Err(CommandError::input("--rehearse", "only root may have the kernel mount"));
    }
    rehearsed(record, (path, table), &[], RehearsalWishes::default(), Limits::seconds(20, 300))
}
