use crate::args::{AuditArgs, AuditFormat};
use crate::commands::judged::{Judged, one};
use crate::commands::per_host::{folder_name, make};
use crate::commands::swap;
use crate::fleet::{self, Item, Names};
use crate::fleet_missing::{self, Seen};
use crate::input;
use crate::kernel;
use crate::outcome::{CommandError, Status};
use crate::output::{self, Readers};
use crate::policy::{self, InForce};
use crate::rehearsed::{Limits, case, rehearsed, write_case};
use crate::settings::Settings;
use crate::ui::{Ui, complain, remark};
use crate::views;
use crate::views::audit::Audited;
use crate::views::host_page::Stores;
use bradawl_boot::{Forecast, requests};
use bradawl_change::rehearsal::RehearsalWishes;
use bradawl_change::what_if::{Supposed, supposing};
use bradawl_documents::fleet::{Fleet, MissingHost};
use bradawl_documents::{
    AuditReport, DevicesReport, Failure, HostAudit, PolicyUse, RehearseReport, Rehearsed,
};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Record, TableFile};
use bradawl_facts::table::Table;
use bradawl_facts::text::{count, visible};
use bradawl_judgement::Against;
use bradawl_judgement::baseline;
use bradawl_judgement::baseline::{Baseline, Book};
use bradawl_judgement::policy::Date;
use bradawl_judgement::rules::{Finding, RULES, leftovers};
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

/// What has come of it so far.
#[derive(Default)]
struct Gathered {
    fleet: Fleet,
    /// Kept only where all findings of all hosts are shown.
    audited: Vec<Audited>,
    page: views::fleet_page::Gathering,
    /// What the page of the only host shows.
    only: Option<Box<(Audited, Forecast, Stores)>>,
    hosts: Vec<String>,
    /// The hosts that were judged, as they are called.
    seen: Vec<Seen>,
    names: Names,
    failed: Vec<Failure>,
    /// Which exceptions of the policy have matched something.
    used: Vec<bool>,
    found: Book,
    #[cfg(feature = "parquet")]
    columns: Option<crate::columns::Sheets>,
}

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
    let exceptions = run.force.policy.as_ref().map_or(0, |p| p.exceptions.len());
    let mut all = Gathered {
        used: vec![false; exceptions],
        #[cfg(feature = "parquet")]
        columns: args.columns.as_deref().map(crate::columns::Sheets::new).transpose()?,
        ..Gathered::default()
    };
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
            let Audited { audit, table } = &judged.audited;
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

    /// Takes in a host, and shows it where nothing has to be waited for.
    fn take(&self, ui: &Ui, all: &mut Gathered, input: &str, judged: Judged) -> Result<(), CommandError> {
        let Judged { mut audited, used, forecast, mut counted, names, stores, .. } = judged;
        used.into_iter().for_each(|n| all.used[n] = true);
        let audit = &mut audited.audit;
        all.hosts.push(audit.host.clone());
        all.seen.push(Seen {
            host: audit.host.clone(),
            roles: audit.roles.clone(),
            taken_at_s: audit.taken_at_s,
        });
        audit.host = all.names.take(&audit.host, input);
        #[cfg(feature = "parquet")]
        if let (Some(sheets), Some(rows)) = (&mut all.columns, judged.columns) {
            sheets.add(&audit.host, *rows)?;
        }
        all.fleet.add_names(&audit.host, &names.0, names.1);
        if self.args.write_baseline.is_some() {
            all.found.add(&audit.host, &audit.findings);
        }
        if let Some(known) = &self.known {
            let known = known.keep_new(&audit.host, &mut audit.findings);
            audit.known = Some(known.len());
            counted.excuse(known.iter().map(|f| f.consequence));
        }
        counted.tell(&audit.findings);
        audit.counts_as = counted.counts_as();
        audit.may_count_as = counted.at_worst;
        let found = audit.findings.len();
        audit.findings.retain(|f| self.shows(f));
        audit.not_shown += found - audit.findings.len();
        all.fleet.add(audit);
        match self.format() {
            AuditFormat::Jsonl => ui.put(&views::machine::jsonl(audit, &self.force)?)?,
            AuditFormat::Html => self.keep_page(all, audited, forecast, stores)?,
            AuditFormat::Csv | AuditFormat::Prometheus => {}
            _ if self.args.summary => {}
            _ => all.audited.push(audited),
        }
        Ok(())
    }

    /// Keeps what the page shows of a host; with `--pages` it has a page of its own.
    fn keep_page(
        &self,
        all: &mut Gathered,
        audited: Audited,
        forecast: Forecast,
        stores: Option<Stores>,
    ) -> Result<(), CommandError> {
        let name = match (&self.args.pages, stores) {
            (Some(folder), Some(stores)) => {
                let policy = views::audit::policy_lines(None, audited.audit.silenced.len());
                let page = views::host_page::html(&audited, &forecast, &stores, &policy)?;
                make(&folder.join(HOST_PAGES))?;
                let name = format!("{HOST_PAGES}/{}.html", folder_name(&audited.audit.host).display());
                output::write(&folder.join(&name), page.as_bytes(), Readers::Owner)?;
                Some(name)
            }
            (None, Some(stores)) => {
                all.only = Some(Box::new((audited, forecast, stores)));
                return Ok(());
            }
            (_, None) => None,
        };
        all.page.add(&audited, &forecast, name);
        Ok(())
    }

    /// Writes the page of all hosts beside those of each.
    fn write_pages(&self, ui: &Ui, folder: &Path, page: &str, hosts: usize) -> Result<(), CommandError> {
        make(folder)?;
        output::write(&folder.join("index.html"), page.as_bytes(), Readers::Owner)?;
        let begin = folder.join("index.html");
        ui.print(&format!(
            "{} written; begin with {}\n",
            count(hosts + 1, "page"),
            visible(&begin.to_string_lossy())
        ))?;
        Ok(())
    }

    fn policy_use(&self, all: &Gathered) -> Option<PolicyUse> {
        let InForce { policy, ignored } = &self.force;
        let mut used = PolicyUse { ignored: ignored.clone(), ..PolicyUse::default() };
        let Some(policy) = policy else { return (!ignored.is_empty()).then_some(used) };
        let hosts: Vec<&str> = all.hosts.iter().map(String::as_str).collect();
        used.findings = leftovers(policy, self.today, &hosts, &all.used);
        used.findings.retain(|f| self.asks_for(f.rule));
        used.file = Some(policy.name.clone()).filter(|n| !n.is_empty());
        used.profiles.clone_from(&policy.profiles);
        Some(used)
    }

    /// Who is missing among the records.
    fn missing(&self, seen: &[Seen]) -> Result<Vec<MissingHost>, CommandError> {
        let mut missing = fleet_missing::failed(&self.args.hosts)?;
        // Of one that failed again the earlier record was judged.
        missing.retain(|m| !seen.iter().any(|s| s.host == m.host));
        if let Some(file) = &self.args.expect {
            missing.extend(fleet_missing::expected(file, seen, &missing)?);
        }
        missing.extend(self.args.max_age.iter().flat_map(|limit| fleet_missing::stale(seen, *limit)));
        Ok(missing)
    }

    fn finish(&self, ui: &Ui, mut all: Gathered) -> Result<Status, CommandError> {
        all.fleet.miss(self.missing(&all.seen)?);
        let mut policy = self.policy_use(&all);
        let of_policy = policy.iter().flat_map(|p| &p.findings).map(|f| f.consequence).min();
        let worst = all.fleet.worst().into_iter().chain(of_policy).min();
        let at_worst = all.fleet.at_worst();
        policy.iter_mut().for_each(|p| p.findings.retain(|f| self.shows(f)));
        let partly = !all.failed.is_empty();
        if let Some(path) = &self.args.write_baseline {
            let baseline = std::mem::take(&mut all.found).baseline();
            let json = serde_json::to_string_pretty(&baseline).map_err(std::io::Error::from)?;
            output::write(path, (json + "\n").as_bytes(), Readers::All)?;
        }
        let failed = all.failed.clone();
        #[cfg(feature = "parquet")]
        all.columns.take().map_or(Ok(()), crate::columns::Sheets::end)?;
        self.show(ui, all, policy)?;
        for failure in &failed {
            complain(&failure.error);
        }
        Ok(self.args.judge.status(worst, at_worst, partly))
    }

    fn show(&self, ui: &Ui, all: Gathered, policy: Option<PolicyUse>) -> Result<(), CommandError> {
        let Gathered { fleet, audited, page, only, failed, .. } = all;
        if !self.args.what_if.is_empty()
            && (self.args.summary
                || audited.len() > 1
                || only.is_none() && self.format() == AuditFormat::Html)
        {
            let all: Vec<&str> = self.args.what_if.iter().map(|(text, _)| text.as_str()).collect();
            remark(&format!("every host is judged supposing {}\n", all.join(", ")));
        }
        let width = ui.width();
        let given = self.table.is_some();
        match self.format() {
            AuditFormat::Text if self.args.summary => {
                ui.print(&views::audit::summary(&fleet.report(failed, policy), (width, self.args.all)))?;
            }
            AuditFormat::Text => {
                let elsewhere = fleet.elsewhere();
                ui.print(&views::audit::text(
                    &audited,
                    (&failed, fleet.missing()),
                    policy.as_ref(),
                    &elsewhere,
                    (width, ui.detail(), self.args.all),
                ))?;
            }
            AuditFormat::Json if self.args.summary => views::json(ui, &fleet.report(failed, policy))?,
            AuditFormat::Json => {
                let (elsewhere, missing) = (fleet.elsewhere(), fleet.missing().to_vec());
                views::json(ui, &AuditReport::new(audits(audited), policy, elsewhere, failed, missing))?
            }
            AuditFormat::Jsonl => {}
            AuditFormat::Sarif => views::json(
                ui,
                &views::machine::sarif(&audits(audited), policy.as_ref(), (&failed, fleet.missing()), given),
            )?,
            AuditFormat::Junit => {
                let audits = audits(audited);
                let absent = (failed.as_slice(), fleet.missing());
                ui.put(&views::machine::junit(&audits, policy.as_ref(), absent, self.args.judge.fail_on)?)?;
            }
            AuditFormat::Prometheus => ui.put(&views::machine::prometheus(&fleet.report(failed, policy)))?,
            AuditFormat::Csv => ui.put(&views::machine::csv(&fleet.report(failed, policy))?)?,
            AuditFormat::Html => match only {
                Some(only) => show_host(ui, &only, fleet.missing(), policy.as_ref())?,
                None => {
                    let report = fleet.report(failed, policy);
                    let hosts = report.hosts.len();
                    let page = views::fleet_page::html(&report, page)?;
                    match &self.args.pages {
                        Some(folder) => self.write_pages(ui, folder, &page, hosts)?,
                        None => ui.put(&page)?,
                    }
                }
            },
        }
        Ok(())
    }
}

/// The page of the only host.
fn show_host(
    ui: &Ui,
    (audited, forecast, stores): &(Audited, Forecast, Stores),
    missing: &[MissingHost],
    policy: Option<&PolicyUse>,
) -> Result<(), CommandError> {
    let mut policy = views::audit::policy_lines(policy, audited.audit.silenced.len());
    policy.extend(missing.iter().map(|m| format!("{}: {}", visible(&m.host), m.words())));
    ui.put(&views::host_page::html(audited, forecast, stores, &policy)?)?;
    Ok(())
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

fn audits(audited: Vec<Audited>) -> Vec<HostAudit> {
    audited.into_iter().map(|a| a.audit).collect()
}
