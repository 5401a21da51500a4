use crate::args::{AuditArgs, Format};
use crate::input;
use crate::kernel;
use crate::outcome::{CommandError, Done};
use crate::policy;
use crate::ui::Ui;
use crate::views;
use crate::views::audit::Audited;
use bradawl_core::advice::advise;
use bradawl_core::boot::Forecast;
use bradawl_core::judgement::{Against, judge_against};
use bradawl_core::policy::{Date, Policy};
use bradawl_core::record::{Record, TableFile};
use bradawl_core::report::{AuditReport, Failure, HostAudit, PolicyUse};
use bradawl_core::rules::{Finding, RULES, leftovers};

/// What every host of the run is judged by.
struct Run<'a> {
    args: &'a AuditArgs,
    table: Option<TableFile>,
    earlier: Option<Record>,
    policy: Option<Policy>,
    today: Date,
    audited: Vec<Audited>,
    failed: Vec<Failure>,
    /// Which exceptions of the policy have matched something.
    used: Vec<bool>,
}

pub fn run(ui: &Ui, args: &AuditArgs) -> Result<Done, CommandError> {
    if let Some(unknown) = args.only.iter().find(|name| !RULES.iter().any(|r| r.slug == name.as_str())) {
        return Err(CommandError::input(unknown.as_str(), "there is no rule of this name"));
    }
    let policy = policy::in_force(&args.policy)?;
    let mut run = Run {
        args,
        table: args.judge.table.as_deref().map(input::table).transpose()?,
        earlier: args.since.as_deref().map(input::record_file).transpose()?,
        used: vec![false; policy.as_ref().map_or(0, |p| p.exceptions.len())],
        policy,
        today: policy::today(),
        audited: Vec::new(),
        failed: Vec::new(),
    };
    if args.hosts.is_empty() {
        run.judge(None)?;
    }
    for arg in &args.hosts {
        match input::spread(arg) {
            Ok(records) => records.iter().for_each(|record| run.judge_or_note(record)),
            Err(e) => run.failed.push(failure(arg, &e)),
        }
    }
    run.finish(ui)
}

impl Run<'_> {
    fn judge_or_note(&mut self, host: &str) {
        if let Err(e) = self.judge(Some(host)) {
            self.failed.push(failure(host, &e));
        }
    }

    fn judge(&mut self, host: Option<&str>) -> Result<(), CommandError> {
        let mut host = input::host(host, &self.args.with, self.table.as_ref())?;
        input::boot_with(&mut host.record, self.args.judge.init.as_ref());
        let against =
            Against { policy: self.policy.as_ref(), earlier: self.earlier.as_ref(), today: self.today };
        let (mut audited, used) = one(&host, self.table.as_ref(), &against)?;
        if self.args.ask_kernel {
            let answers = kernel::ask_table(&host.record, &audited.table);
            audited.audit.kernel = Some(answers.map_err(|e| CommandError::input("--ask-kernel", e))?);
        }
        used.into_iter().for_each(|n| self.used[n] = true);
        self.audited.push(audited);
        Ok(())
    }

    /// Takes out the findings that were not asked for.
    fn filter(&mut self, policy: Option<&mut PolicyUse>) {
        let args = self.args;
        let asked = |f: &Finding| {
            let named = args.only.is_empty() || args.only.iter().any(|name| name == f.rule);
            named && args.min.is_none_or(|min| min.reached_by(Some(f.consequence)))
        };
        self.audited.iter_mut().for_each(|one| one.audit.findings.retain(asked));
        policy.into_iter().for_each(|p| p.findings.retain(asked));
    }

    fn policy_use(&self) -> Option<PolicyUse> {
        let policy = self.policy.as_ref()?;
        let hosts: Vec<&str> = self.audited.iter().map(|a| a.audit.host.as_str()).collect();
        Some(PolicyUse {
            file: Some(policy.name.clone()).filter(|n| !n.is_empty()),
            profiles: policy.profiles.clone(),
            findings: leftovers(policy, self.today, &hosts, &self.used),
        })
    }

    fn finish(mut self, ui: &Ui) -> Result<Done, CommandError> {
        let partly = !self.failed.is_empty();
        let mut policy = self.policy_use();
        self.filter(policy.as_mut());
        let text = match self.args.summary {
            true => views::audit::overview(&self.audited, &self.failed, ui.width()),
            false => views::audit::text(&self.audited, &self.failed, policy.as_ref(), ui.width()),
        };
        let hosts = self.audited.into_iter().map(|a| a.audit).collect();
        let report = AuditReport::new(hosts, policy, self.failed);
        match self.args.format {
            Format::Text => ui.print(&text)?,
            Format::Json => views::json(&report)?,
        }
        for failure in &report.failed {
            anstream::eprintln!("bradawl: {}", bradawl_core::text::visible(&failure.error));
        }
        Ok(match (partly, self.args.judge.fail_on.reached_by(report.worst())) {
            (true, _) => Done::Partly,
            (false, true) => Done::Found,
            (false, false) => Done::Fine,
        })
    }
}

/// Judges one host; with the exceptions of the policy that matched something.
pub fn one(
    host: &input::Host,
    given: Option<&TableFile>,
    against: &Against<'_>,
) -> Result<(Audited, Vec<usize>), CommandError> {
    let file = input::chosen(host, given)?;
    let table = input::parsed(file)?;
    let judgement = judge_against(&host.record, &table, against);
    let advice = advise(&host.record, &table, &judgement);
    let Forecast { verdict, outcome, assumed, .. } = judgement.forecast;
    let audit = HostAudit {
        host: host.record.host.name.clone(),
        table: file.path.clone(),
        verdict,
        outcome: Some(outcome),
        findings: judgement.findings,
        silenced: judgement.applied.silenced,
        unread: host.record.unread.clone(),
        assumed,
        kernel: None,
        advice,
    };
    Ok((Audited { audit, table }, judgement.applied.used))
}

fn failure(input: &str, error: &CommandError) -> Failure {
    Failure { input: input.to_owned(), error: error.to_string() }
}
