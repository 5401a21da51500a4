//! What has come of a run so far: each host taken in, and shown where nothing has to
//! be waited for.

use super::{HOST_PAGES, Run};
use crate::args::AuditFormat;
use crate::commands::judged::Judged;
use crate::commands::per_host::{folder_name, make};
use crate::fleet::Names;
use crate::fleet_missing::Watch;
use crate::outcome::CommandError;
use crate::output::{self, Readers};
use crate::ui::Ui;
use crate::views;
use crate::views::audit::Audited;
use crate::views::host_page::Stores;
use bradawl_boot::Forecast;
use bradawl_documents::Failure;
use bradawl_documents::fleet::{Fleet, Lines};
use bradawl_judgement::baseline::Book;
use bradawl_judgement::rules::Uses;

/// What has come of it so far.
pub(super) struct Gathered {
    pub fleet: Fleet,
    /// Kept only where all findings of all hosts are shown.
    pub audited: Vec<Audited>,
    pub page: views::fleet_page::Gathering,
    /// What the page of the only host shows.
    pub only: Option<Box<(Audited, Forecast, Stores)>>,
    names: Names,
    pub watch: Watch,
    pub failed: Vec<Failure>,
    /// What has come of the exceptions of the policy.
    pub uses: Uses,
    pub found: Book,
    #[cfg(feature = "parquet")]
    pub columns: Option<crate::columns::Sheets>,
}

impl Run<'_> {
    /// Nothing so far.
    pub(super) fn nothing(&self) -> Result<Gathered, CommandError> {
        let args = self.args;
        Ok(Gathered {
            fleet: Fleet::keeping(self.lines()),
            audited: Vec::new(),
            page: views::fleet_page::Gathering::default(),
            only: None,
            names: Names::default(),
            watch: Watch::new(&args.hosts, args.expect.as_deref(), args.max_age)?,
            failed: Vec::new(),
            uses: Uses::default(),
            found: Book::default(),
            #[cfg(feature = "parquet")]
            columns: args.columns.as_deref().map(crate::columns::Sheets::new).transpose()?,
        })
    }

    /// The lines of hosts that are shown when all are judged.
    fn lines(&self) -> Lines {
        match self.format() {
            AuditFormat::Html | AuditFormat::Csv | AuditFormat::Prometheus => Lines::All,
            AuditFormat::Json if self.args.summary => Lines::All,
            AuditFormat::Text if self.args.summary && self.args.all => Lines::All,
            AuditFormat::Text if self.args.summary => Lines::Telling,
            _ => Lines::None,
        }
    }

    /// Takes in a host, and shows it where nothing has to be waited for.
    pub(super) fn take(
        &self,
        ui: &Ui,
        all: &mut Gathered,
        input: &str,
        judged: Judged,
    ) -> Result<(), CommandError> {
        let Judged { mut audited, used, forecast, mut counted, names, stores, .. } = judged;
        let audit = &mut audited.audit;
        if let Some(policy) = &self.force.policy {
            all.uses.add(policy, &audit.host, &used);
        }
        all.watch.saw(&audit.host, &audit.roles, audit.taken_at_s);
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
}
