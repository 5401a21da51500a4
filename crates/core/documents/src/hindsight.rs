//! Boots beside their forecasts: of one host, and counted over many.

use crate::shapes::{AgreementShape, EndedShape, EntrySeenShape, HindsightShape};
use bradawl_facts::record::Record;
use bradawl_judgement::hindsight::{Agreement, Ended, EntrySeen, Hindsight, Seen};
use serde::Serialize;
use serde_with::serde_as;
use std::collections::BTreeMap;

/// `bradawl.hindsight/1`: a boot of one host beside its forecast.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct HindsightReport {
    /// Always `bradawl.hindsight/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table's path.
    pub table: String,
    /// Whether the table was changed after the boot began, so that the boot went
    /// by another; null: not known.
    pub table_changed_since: Option<bool>,
    /// Whether the forecast is from facts that were taken before the boot.
    pub from_before: bool,
    /// The boot.
    #[serde(flatten)]
    #[serde_as(as = "HindsightShape")]
    pub hindsight: Hindsight,
}

/// `bradawl.hindsight-fleet/1`: boots of many hosts, counted.
#[derive(Debug, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct HindsightFleet {
    /// Always `bradawl.hindsight-fleet/1`.
    pub schema: &'static str,
    /// Boots by whether they ended as forecast.
    pub boots: Agreements,
    /// The same by how the forecast had it end.
    pub by_outcome: BTreeMap<String, Agreements>,
    /// Entries by whether they ended as forecast.
    pub entries: Agreements,
    /// The same by file system type as written.
    pub by_type: BTreeMap<String, Agreements>,
    /// One for each host: those that differ first, then the slowest.
    pub hosts: Vec<HindsightLine>,
    /// Inputs that could not be judged.
    pub failed: Vec<crate::Failure>,
}

/// How often forecast and boot agreed.
#[derive(Debug, Default, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Agreements {
    /// They did.
    pub agreed: usize,
    /// They did not.
    pub differed: usize,
    /// One of the two is not known.
    pub not_known: usize,
}

impl Agreements {
    fn add(&mut self, agreement: Agreement) {
        match agreement {
            Agreement::Agreed => self.agreed += 1,
            Agreement::Differed => self.differed += 1,
            Agreement::NotKnown => self.not_known += 1,
        }
    }

    /// Of those that are known, how many agreed: from 0 to 1.
    #[allow(clippy::cast_precision_loss)] // no fleet has 2^53 entries
    pub fn share(&self) -> Option<f64> {
        let known = self.agreed + self.differed;
        (known > 0).then(|| self.agreed as f64 / known as f64)
    }
}

/// The last boot of one of many hosts.
#[serde_as]
#[derive(Debug, Clone, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct HindsightLine {
    /// Host name.
    pub host: String,
    /// How it ended.
    #[serde_as(as = "EndedShape")]
    pub ended: Ended,
    /// When, in seconds after the init system began its jobs.
    pub ended_at_s: Option<f64>,
    /// Whether it ended as forecast.
    #[serde_as(as = "AgreementShape")]
    pub agreement: Agreement,
    /// Targets, and the sources of swap, that did not end as forecast.
    pub differed: Vec<String>,
    /// What took longest, in seconds, and the entry it belongs to, else its unit.
    pub slowest: Option<(f64, String)>,
}

impl HindsightFleet {
    /// Counts a host's boot.
    pub fn add(&mut self, host: &str, types: &BTreeMap<usize, String>, hindsight: &Hindsight) {
        self.schema = "bradawl.hindsight-fleet/1";
        self.boots.add(hindsight.agreement);
        let outcome = hindsight.forecast.name().to_owned();
        self.by_outcome.entry(outcome).or_default().add(hindsight.agreement);
        for entry in &hindsight.entries {
            self.entries.add(entry.agreement);
            let fstype = types.get(&entry.line).cloned().unwrap_or_default();
            self.by_type.entry(fstype).or_default().add(entry.agreement);
        }
        let differs = hindsight.entries.iter().filter(|e| e.agreement == Agreement::Differed);
        self.hosts.push(HindsightLine {
            host: host.to_owned(),
            ended: hindsight.ended,
            ended_at_s: hindsight.ended_at_s,
            agreement: hindsight.agreement,
            differed: differs.map(|e| place(e).to_owned()).collect(),
            slowest: hindsight.slow.first().map(|s| {
                let entry = hindsight.entries.iter().find(|e| Some(e.line) == s.line);
                (s.took_s, entry.map_or(s.unit.as_str(), place).to_owned())
            }),
        });
    }

    /// The finished document.
    pub fn finish(mut self, failed: Vec<crate::Failure>) -> Self {
        self.schema = "bradawl.hindsight-fleet/1";
        let slowness = |l: &HindsightLine| l.slowest.as_ref().map_or(0.0, |(s, _)| *s);
        let differs = |l: &HindsightLine| l.agreement == Agreement::Differed;
        self.hosts.sort_by(|a, b| {
            (differs(b), slowness(b))
                .partial_cmp(&(differs(a), slowness(a)))
                .unwrap_or(std::cmp::Ordering::Equal)
        });
        self.failed = failed;
        self
    }
}

/// What an entry is called: its target, or for swap its source.
pub fn place(entry: &EntrySeen) -> &str {
    let swap = !entry.target.starts_with('/') || entry.seen == Seen::Active;
    if swap { &entry.source } else { &entry.target }
}

/// `bradawl.hindsight-case/1`: a boot that did not go as forecast, as a
/// developer can play it again. Secrets are masked, and the host has no name.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct HindsightCase {
    /// Always `bradawl.hindsight-case/1`.
    pub schema: &'static str,
    /// Version of the program.
    pub bradawl: &'static str,
    /// What came of each entry.
    #[serde_as(as = "Vec<EntrySeenShape>")]
    pub entries: Vec<EntrySeen>,
    /// How the boot ended.
    #[serde_as(as = "EndedShape")]
    pub ended: Ended,
    /// The facts.
    pub record: Record,
}

impl HindsightCase {
    /// The case of a report.
    pub fn new(record: &Record, report: &HindsightReport) -> Self {
        let mut record = record.clone();
        record.redact();
        "host".clone_into(&mut record.host.name);
        record.accounts = None;
        HindsightCase {
            schema: "bradawl.hindsight-case/1",
            bradawl: env!("CARGO_PKG_VERSION"),
            entries: report.hindsight.entries.clone(),
            ended: report.hindsight.ended,
            record,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::record::{BootRun, JobResult, JobRun};
    use bradawl_facts::table::Table;
    use bradawl_judgement::hindsight::hindsight;

    fn boot(result: JobResult) -> BootRun {
        let job = |unit: &str, ended, result| JobRun {
            unit: unit.to_owned(),
            began_s: Some(1.0),
            ended_s: Some(ended),
            result: Some(result),
        };
        let jobs = vec![job("srv-a.mount", 3.5, result), job("multi-user.target", 9.0, JobResult::Done)];
        BootRun { init_at_s: Some(1.0), began_s: Some(1), jobs, ..BootRun::default() }
    }

    #[test]
    fn those_that_differ_come_first_and_are_counted() {
        let table = Table::parse("tmpfs /srv/a tmpfs nofail 0 0\n");
        let types = BTreeMap::from([(1, "tmpfs".to_owned())]);
        let mut fleet = HindsightFleet::default();
        for (host, result) in [("kelp", JobResult::Done), ("wrack", JobResult::Failed)] {
            fleet.add(host, &types, &hindsight(&Record::new(host), &table, Some(&boot(result))));
        }
        let fleet = fleet.finish(Vec::new());
        assert_eq!(fleet.entries, Agreements { agreed: 1, differed: 1, not_known: 0 });
        assert_eq!(fleet.by_type["tmpfs"].share(), Some(0.5));
        assert_eq!(fleet.by_outcome["up"], fleet.boots);
        let first = &fleet.hosts[0];
        assert_eq!((first.host.as_str(), first.differed.as_slice()), ("wrack", &["/srv/a".to_owned()][..]));
        assert_eq!(first.slowest, Some((2.5, "/srv/a".to_owned())));
    }
}
