use crate::args::{AuditArgs, AuditFormat};
use crate::fleet::{self, Item};
use crate::input;
use crate::kernel;
use crate::outcome::{CommandError, Done};
use crate::policy;
use crate::ui::Ui;
use crate::views;
use crate::views::audit::Audited;
use bradawl_core::advice::advise;
use bradawl_core::baseline::{self, Baseline, Book};
use bradawl_core::boot::Forecast;
use bradawl_core::fleet::Fleet;
use bradawl_core::judgement::{Against, judge_against};
use bradawl_core::policy::{Date, Policy};
use bradawl_core::record::{Record, TableFile};
use bradawl_core::report::{AuditReport, Failure, HostAudit, PolicyUse};
use bradawl_core::rules::{RULES, leftovers};
use std::path::Path;

/// What every host of the run is judged by.
struct Run<'a> {
    args: &'a AuditArgs,
    table: Option<TableFile>,
    earlier: Option<Record>,
    policy: Option<Policy>,
    today: Date,
    known: Option<Book>,
}

/// What has come of it so far.
#[derive(Default)]
struct Gathered {
    fleet: Fleet,
    /// Kept only where all findings of all hosts are shown.
    audited: Vec<Audited>,
    rows: Vec<views::fleet_page::Row>,
    hosts: Vec<String>,
    failed: Vec<Failure>,
    /// Which exceptions of the policy have matched something.
    used: Vec<bool>,
    found: Book,
}

/// One host, judged.
pub struct Judged {
    pub audited: Audited,
    /// The exceptions of the policy that matched something.
    pub used: Vec<usize>,
    pub forecast: Forecast,
}

pub fn run(ui: &Ui, args: &AuditArgs) -> Result<Done, CommandError> {
    if let Some(unknown) = args.only.iter().find(|name| !RULES.iter().any(|r| r.slug == name.as_str())) {
        return Err(CommandError::input(unknown.as_str(), "there is no rule of this name"));
    }
    let run = Run {
        args,
        table: args.judge.table.as_deref().map(input::table).transpose()?,
        earlier: args.since.as_deref().map(input::record_file).transpose()?,
        policy: policy::in_force(&args.policy)?,
        today: policy::today(),
        known: args.baseline.as_deref().map(read_baseline).transpose()?,
    };
    let exceptions = run.policy.as_ref().map_or(0, |p| p.exceptions.len());
    let mut all = Gathered { used: vec![false; exceptions], ..Gathered::default() };
    if args.hosts.is_empty() {
        run.take(ui, &mut all, run.judge(None)?)?;
    } else {
        let judge = |item: Item| (item.name.clone(), run.judge(Some(item)));
        fleet::each(fleet::items(&args.hosts), judge, |(name, judged)| match judged {
            Ok(judged) => run.take(ui, &mut all, judged),
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
    let bytes = input::file(path, bradawl_core::record::MAX_BYTES)?;
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
        let against =
            Against { policy: self.policy.as_ref(), earlier: self.earlier.as_ref(), today: self.today };
        let mut judged = one(&host, self.table.as_ref(), &against, self.wants_advice())?;
        let audit = &mut judged.audited.audit;
        if self.args.ask_kernel {
            let answers = kernel::ask_table(&host.record, &judged.audited.table);
            audit.kernel = Some(answers.map_err(|e| CommandError::input("--ask-kernel", e))?);
        }
        audit.findings.retain(|f| self.asks_for(f.rule, f.consequence));
        Ok(judged)
    }

    /// Repairs are looked for only where they are told.
    fn wants_advice(&self) -> bool {
        let told = matches!(
            self.args.format,
            AuditFormat::Text | AuditFormat::Json | AuditFormat::Jsonl | AuditFormat::Html
        );
        told && !self.args.summary
    }

    fn asks_for(&self, rule: &str, consequence: bradawl_core::boot::Consequence) -> bool {
        let args = self.args;
        let named = args.only.is_empty() || args.only.iter().any(|name| name == rule);
        named && args.min.is_none_or(|min| min.reached_by(Some(consequence)))
    }

    /// Takes in a host, and shows it where nothing has to be waited for.
    fn take(&self, ui: &Ui, all: &mut Gathered, judged: Judged) -> Result<(), CommandError> {
        let Judged { mut audited, used, forecast } = judged;
        used.into_iter().for_each(|n| all.used[n] = true);
        let audit = &mut audited.audit;
        if self.args.write_baseline.is_some() {
            all.found.add(&audit.host, &audit.findings);
        }
        if let Some(known) = &self.known {
            audit.known = Some(known.keep_new(&audit.host, &mut audit.findings));
        }
        all.fleet.add(audit);
        all.hosts.push(audit.host.clone());
        match self.args.format {
            AuditFormat::Jsonl => ui.print(&views::machine::jsonl(audit)?)?,
            AuditFormat::Html => all.rows.push(views::fleet_page::Row::new(audit, &forecast)),
            AuditFormat::Csv | AuditFormat::Prometheus => {}
            _ if self.args.summary => {}
            _ => all.audited.push(audited),
        }
        Ok(())
    }

    fn policy_use(&self, all: &Gathered) -> Option<PolicyUse> {
        let policy = self.policy.as_ref()?;
        let hosts: Vec<&str> = all.hosts.iter().map(String::as_str).collect();
        let mut findings = leftovers(policy, self.today, &hosts, &all.used);
        findings.retain(|f| self.asks_for(f.rule, f.consequence));
        Some(PolicyUse {
            file: Some(policy.name.clone()).filter(|n| !n.is_empty()),
            profiles: policy.profiles.clone(),
            findings,
        })
    }

    fn finish(&self, ui: &Ui, mut all: Gathered) -> Result<Done, CommandError> {
        let policy = self.policy_use(&all);
        let of_policy = policy.iter().flat_map(|p| &p.findings).map(|f| f.consequence).min();
        let worst = all.fleet.worst().into_iter().chain(of_policy).min();
        let partly = !all.failed.is_empty();
        if let Some(path) = &self.args.write_baseline {
            let baseline = std::mem::take(&mut all.found).baseline();
            let json = serde_json::to_string_pretty(&baseline).map_err(std::io::Error::from)?;
            crate::atomic::write_for_all(path, (json + "\n").as_bytes())?;
        }
        let failed = all.failed.clone();
        self.show(ui, all, policy)?;
        for failure in &failed {
            anstream::eprintln!("bradawl: {}", bradawl_core::text::visible(&failure.error));
        }
        Ok(match (partly, self.args.judge.fail_on.reached_by(worst)) {
            (true, _) => Done::Partly,
            (false, true) => Done::Found,
            (false, false) => Done::Fine,
        })
    }

    fn show(&self, ui: &Ui, all: Gathered, policy: Option<PolicyUse>) -> Result<(), CommandError> {
        let Gathered { fleet, audited, rows, failed, .. } = all;
        let width = ui.width();
        match self.args.format {
            AuditFormat::Text if self.args.summary => {
                ui.print(&views::audit::summary(&fleet.report(failed), width))?;
            }
            AuditFormat::Text => ui.print(&views::audit::text(&audited, &failed, policy.as_ref(), width))?,
            AuditFormat::Json if self.args.summary => views::json(&fleet.report(failed))?,
            AuditFormat::Json => views::json(&AuditReport::new(audits(audited), policy, failed))?,
            AuditFormat::Jsonl => {}
            AuditFormat::Sarif => {
                views::json(&views::machine::sarif(&audits(audited), policy.as_ref(), &failed))?
            }
            AuditFormat::Junit => {
                ui.print(&views::machine::junit(&audits(audited), &failed, self.args.judge.fail_on)?)?;
            }
            AuditFormat::Prometheus => ui.print(&views::machine::prometheus(&fleet.report(failed)))?,
            AuditFormat::Csv => ui.print(&views::machine::csv(&fleet.report(failed))?)?,
            AuditFormat::Html => ui.print(&views::fleet_page::html(&fleet.report(failed), rows)?)?,
        }
        Ok(())
    }
}

fn audits(audited: Vec<Audited>) -> Vec<HostAudit> {
    audited.into_iter().map(|a| a.audit).collect()
}

/// Judges one host; with the smallest repair if that is told.
pub fn one(
    host: &input::Host,
    given: Option<&TableFile>,
    against: &Against<'_>,
    with_advice: bool,
) -> Result<Judged, CommandError> {
    let file = input::chosen(host, given)?;
    let table = input::parsed(file)?;
    let judgement = judge_against(&host.record, &table, against);
    let advice = if with_advice { advise(&host.record, &table, &judgement) } else { None };
    let forecast = judgement.forecast;
    let facts = &host.record.host;
    let audit = HostAudit {
        roles: facts.roles.clone(),
        table: file.path.clone(),
        verdict: forecast.verdict.clone(),
        outcome: Some(forecast.outcome),
        stall_s: forecast.stall_s,
        taken_at_s: facts.taken_at_s,
        findings: judgement.findings,
        silenced: judgement.applied.silenced,
        unread: host.record.unread.clone(),
        assumed: forecast.assumed.clone(),
        advice,
        ..HostAudit::empty(facts.name.as_str())
    };
    Ok(Judged { audited: Audited { audit, table }, used: judgement.applied.used, forecast })
}
