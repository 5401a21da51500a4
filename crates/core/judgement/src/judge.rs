//! The whole of what is said about one table: findings and forecast.

use crate::elsewhere::{self, LostName};
use crate::guard::{Judged, guard};
use crate::policy::{Date, Policy};
use crate::rules::{Applied, Case, Finding, apply, run};
use bradawl_boot::{Forecast, forecast, requests};
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_resolve::Index;

/// Findings and forecast for one table of one host.
#[derive(Debug)]
pub struct Judgement {
    /// What is wrong, worst first.
    pub findings: Vec<Finding>,
    /// What the policy's exceptions did to the findings.
    pub applied: Applied,
    /// The next boot.
    pub forecast: Forecast,
    /// UUIDs that no device of the host has; another host may.
    pub lost: Vec<LostName>,
    /// Whether some lost names were not compared with all names there are:
    /// there are too many.
    pub gave_up_looking: bool,
    /// Whether some fixes were not tried, and so are not offered: there are too
    /// many.
    pub gave_up_trying: bool,
}

/// What is not looked for because there is too much to look through.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum NotSearched {
    /// Names that look like those that are lost.
    LookAlikes,
    /// The smallest repair of the boot.
    Repairs,
    /// Whether each ready change holds: those that were not tried are left out.
    Fixes,
}

impl NotSearched {
    /// In a few words.
    pub fn words(self) -> &'static str {
        match self {
            NotSearched::LookAlikes => "names that look like the lost ones (too many names to compare all)",
            NotSearched::Fixes => "whether every ready change holds (too many to try)",
            NotSearched::Repairs => {
                "the smallest repair of the boot (too many entries to try changes to each)"
            }
        }
    }
}

/// What a table is held against beside the host's facts.
#[derive(Debug, Clone, Copy)]
pub struct Against<'a> {
    /// The organisation's policy.
    pub policy: Option<&'a Policy>,
    /// An earlier record of the same host.
    pub earlier: Option<&'a Record>,
    /// The day, by which exceptions end.
    pub today: Date,
    /// Whether fixes are tried and offered; without them a judgement costs less, and
    /// its findings are the same.
    pub fixes: bool,
}

impl Default for Against<'_> {
    fn default() -> Self {
        Against { policy: None, earlier: None, today: Date::of_seconds(0), fixes: true }
    }
}

/// Judges a table by a host's facts alone.
pub fn judge(record: &Record, table: &Table) -> Judgement {
    judge_against(record, table, &Against::default())
}

/// Judges a table by a host's facts, a policy, and what was so earlier.
pub fn judge_against(record: &Record, table: &Table, against: &Against<'_>) -> Judgement {
    let index = Index::new(record);
    let before = against.earlier.map(Index::new);
    let judge = |table: &Table| {
        let requests = requests(record, &index, table);
        let forecast = forecast(record, &index, &requests);
        let case = Case::new(record, &index, table, &requests, Some(&forecast));
        let findings = run(&case.against(against.policy, before.as_ref()));
        Judged { findings, forecast, lost: elsewhere::lost(&requests) }
    };
    let mut judged = judge(table);
    let gave_up_trying = match against.fixes {
        true => guard(table, &mut judged, against.policy.is_some(), &judge),
        false => {
            judged.findings.iter_mut().for_each(|f| f.fixes.clear());
            false
        }
    };
    let Judged { mut findings, forecast, lost } = judged;
    let applied = against
        .policy
        .map(|policy| apply(policy, against.today, &record.host.name, &mut findings))
        .unwrap_or_default();
    Judgement { findings, applied, forecast, lost, gave_up_looking: index.gave_up_looking(), gave_up_trying }
}
