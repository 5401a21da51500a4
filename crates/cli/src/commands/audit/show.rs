//! A run shown when all its hosts are judged, and how it ends.

use super::Run;
use super::gathered::Gathered;
use crate::args::AuditFormat;
use crate::commands::per_host::make;
use crate::outcome::{CommandError, Status};
use crate::output::{self, Readers};
use crate::policy::InForce;
use crate::ui::{Ui, complain, remark};
use crate::views;
use crate::views::audit::Audited;
use crate::views::host_page::Stores;
use bradawl_boot::Forecast;
use bradawl_documents::fleet::MissingHost;
use bradawl_documents::{AuditReport, HostAudit, PolicyUse};
use bradawl_facts::text::{count, visible};
use bradawl_judgement::rules::leftovers;
use std::path::Path;

impl Run<'_> {
    pub(super) fn finish(&self, ui: &Ui, mut all: Gathered) -> Result<Status, CommandError> {
        let missing = std::mem::take(&mut all.watch).missing();
        all.fleet.miss(missing);
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

    fn policy_use(&self, all: &Gathered) -> Option<PolicyUse> {
        let InForce { policy, ignored } = &self.force;
        let mut used = PolicyUse { ignored: ignored.clone(), ..PolicyUse::default() };
        let Some(policy) = policy else { return (!ignored.is_empty()).then_some(used) };
        used.findings = leftovers(policy, self.today, &all.uses);
        used.findings.retain(|f| self.asks_for(f.rule));
        used.file = Some(policy.name.clone()).filter(|n| !n.is_empty());
        used.profiles.clone_from(&policy.profiles);
        Some(used)
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

fn audits(audited: Vec<Audited>) -> Vec<HostAudit> {
    audited.into_iter().map(|a| a.audit).collect()
}
