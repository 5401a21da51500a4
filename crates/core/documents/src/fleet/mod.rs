//! Many hosts at once: a line for each that is told of, findings that many share,
//! sums by role. What is kept grows with the hosts by a line each at most, not by
//! their findings.

mod missing;
mod shared;
mod sums;

pub use missing::{MissingHost, MissingState};
pub use shared::SharedFinding;
pub use sums::{RoleLine, Sums};

use crate::shapes::{ElsewhereShape, OutcomeShape};
use crate::{Failure, HostAudit, PolicyUse, Totals};
use bradawl_boot::Outcome;
use bradawl_facts::Consequence;
use bradawl_judgement::{Elsewhere, LostName, Owners};
use serde::Serialize;
use serde_with::serde_as;
use shared::Shared;

/// The role of hosts whose record names none.
pub const NO_ROLE: &str = "no role";

/// More sound hosts than this are only counted where their lines are not asked for.
pub const MAX_SOUND: usize = 3;

/// One host in a line.
#[serde_as]
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct HostLine {
    /// Host name.
    pub host: String,
    /// Its roles, as the survey was told.
    pub roles: Vec<String>,
    /// How its boot ends.
    #[serde_as(as = "Option<OutcomeShape>")]
    pub outcome: Option<Outcome>,
    /// Seconds that its boot waits; null: without end.
    pub stall_s: Option<f64>,
    /// The boot in one sentence.
    pub verdict: String,
    /// What it does at worst where facts are missing; null where they make no
    /// difference.
    pub at_worst: Option<String>,
    /// Where its worst finding is, and of which rule: `/srv/tides:
    /// device-unknown`; null when nothing will be late or missing.
    pub because: Option<String>,
    /// Its findings by consequence.
    pub totals: Totals,
    /// How many findings the policy's exceptions left out.
    pub silenced: usize,
    /// When its record was taken, in seconds since 1970 UTC.
    pub taken_at_s: Option<u64>,
}

/// `bradawl.fleet/1`: a run over many hosts.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct FleetReport {
    /// Always `bradawl.fleet/1`.
    pub schema: &'static str,
    /// A line for each host, worst first.
    pub hosts: Vec<HostLine>,
    /// The hosts of each role.
    pub roles: Vec<RoleLine>,
    /// The same finding on several hosts: worst first, then the commonest.
    pub shared: Vec<SharedFinding>,
    /// Findings over all hosts, by consequence.
    pub totals: Totals,
    /// The policy the tables were held against; null when there is none.
    pub policy: Option<PolicyUse>,
    /// Lost UUIDs of these hosts that others of them have.
    #[serde_as(as = "Vec<ElsewhereShape>")]
    pub elsewhere: Vec<Elsewhere>,
    /// The inputs that could not be judged.
    pub failed: Vec<Failure>,
    /// Hosts of which there is no record, or an old one.
    pub missing: Vec<MissingHost>,
    /// All hosts counted, also those without a line here.
    #[serde(skip)]
    pub sums: Sums,
}

/// Which hosts' lines are kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Lines {
    /// All of them.
    #[default]
    All,
    /// Those of hosts that are not sound, and of [`MAX_SOUND`] that are.
    Telling,
    /// None: they are shown as they come.
    None,
}

/// What a run over many hosts adds up to, host by host.
#[derive(Debug, Default)]
pub struct Fleet {
    lines: Lines,
    hosts: Vec<HostLine>,
    sums: Sums,
    shared: Shared,
    totals: Totals,
    owners: Owners,
    worst: Option<Consequence>,
    at_worst: Option<Consequence>,
    missing: Vec<MissingHost>,
}

impl HostLine {
    /// A host's line.
    pub fn of(audit: &HostAudit) -> Self {
        HostLine {
            host: audit.host.clone(),
            roles: audit.roles.clone(),
            outcome: audit.outcome,
            stall_s: audit.stall_s,
            verdict: audit.verdict.clone(),
            at_worst: audit.at_worst.clone(),
            because: because(audit),
            totals: Totals::of(&audit.findings),
            silenced: audit.silenced.len(),
            taken_at_s: audit.taken_at_s,
        }
    }

    /// Whether it does not come back from a reboot.
    pub fn is_lost(&self) -> bool {
        self.outcome.is_some_and(|o| !o.reaches_login())
    }

    /// Whether it comes back late.
    pub fn is_late(&self) -> bool {
        !self.is_lost() && self.stall_s.is_none_or(|s| s > 0.0)
    }

    /// Whether it comes back with everything in place, and has nothing worse than a
    /// note.
    pub fn is_sound(&self) -> bool {
        self.outcome == Some(Outcome::Up)
            && !self.is_late()
            && self.at_worst.is_none()
            && self.rank().2.is_none_or(|w| w == Consequence::Note)
    }

    /// How it ranks among others: the worst first, then those of which it is
    /// not known.
    pub fn rank(&self) -> (bool, bool, Option<Consequence>) {
        let worst = Consequence::ALL.into_iter().find(|c| self.totals.get(*c) > 0);
        let told = worst.is_some() || self.outcome == Some(Outcome::NotKnown);
        (!self.is_lost(), !told, worst)
    }
}

fn because(audit: &HostAudit) -> Option<String> {
    let worst = audit.findings.first().filter(|f| f.consequence <= Consequence::Missing)?;
    Some(match &worst.entry {
        Some(entry) if entry.fstype == "swap" => format!("swap: {}", worst.rule),
        Some(entry) => format!("{}: {}", entry.target, worst.rule),
        None => worst.rule.to_owned(),
    })
}

impl Fleet {
    /// A run that keeps these lines.
    pub fn keeping(lines: Lines) -> Self {
        Fleet { lines, ..Fleet::default() }
    }

    /// Takes in one host.
    pub fn add(&mut self, audit: &HostAudit) {
        let line = HostLine::of(audit);
        for consequence in Consequence::ALL {
            self.totals.add(consequence, line.totals.get(consequence));
        }
        self.sums.add(&line);
        self.worst = self.worst.into_iter().chain(audit.counts_as).min();
        self.at_worst = self.at_worst.into_iter().chain(audit.may_count_as).min();
        let role = line.roles.first().map_or(NO_ROLE, String::as_str);
        audit.findings.iter().for_each(|finding| self.shared.add(&audit.host, role, finding));
        let keeps = match self.lines {
            Lines::All => true,
            Lines::Telling => !line.is_sound() || self.sums.sound <= MAX_SOUND,
            Lines::None => false,
        };
        if keeps {
            self.hosts.push(line);
        }
    }

    /// Takes in which UUIDs a host has and which it has lost.
    pub fn add_names(&mut self, host: &str, numbers: &[u64], lost: Vec<LostName>) {
        self.owners.add(host, numbers, lost);
    }

    /// The lost UUIDs that others of the hosts have.
    pub fn elsewhere(&self) -> Vec<Elsewhere> {
        self.owners.found()
    }

    /// Takes in hosts that are missing: of those without a record nothing is known.
    pub fn miss(&mut self, missing: Vec<MissingHost>) {
        if !missing.is_empty() {
            self.at_worst = Some(Consequence::Halt);
        }
        self.missing.extend(missing);
    }

    /// The hosts that are missing.
    pub fn missing(&self) -> &[MissingHost] {
        &self.missing
    }

    /// The worst that counts for the exit status, if anything does.
    pub fn worst(&self) -> Option<Consequence> {
        self.worst
    }

    /// The worst that may count where facts are missing.
    pub fn at_worst(&self) -> Option<Consequence> {
        self.at_worst
    }

    /// The whole run.
    pub fn report(self, failed: Vec<Failure>, policy: Option<PolicyUse>) -> FleetReport {
        let elsewhere = self.owners.found();
        let mut hosts = self.hosts;
        hosts.sort_by(|a, b| a.rank().cmp(&b.rank()).then_with(|| a.host.cmp(&b.host)));
        FleetReport {
            schema: "bradawl.fleet/1",
            roles: self.sums.roles(),
            shared: self.shared.found(),
            totals: self.totals,
            policy,
            elsewhere,
            failed,
            missing: self.missing,
            hosts,
            sums: self.sums,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn audit(host: &str, role: &str, outcome: Outcome, stall: f64) -> HostAudit {
        HostAudit {
            roles: vec![role.to_owned()],
            stall_s: Some(stall),
            outcome: Some(outcome),
            ..HostAudit::empty(host)
        }
    }

    #[test]
    fn who_is_missing_is_said_first() {
        let mut fleet = Fleet::default();
        fleet.add(&audit("gauge-01", "gauge", Outcome::Up, 0.0));
        let missing = |host: &str, state, age_s| MissingHost {
            host: host.to_owned(),
            roles: Vec::new(),
            state,
            why: None,
            age_s,
        };
        fleet.miss(vec![
            missing("gauge-01", MissingState::Stale, Some(864_000)),
            missing("gauge-02", MissingState::Failed, None),
            missing("gauge-03", MissingState::NeverSurveyed, None),
        ]);
        assert_eq!(fleet.at_worst(), Some(Consequence::Halt));
        let report = fleet.report(Vec::new(), None);
        assert_eq!(
            report.sums.headline(0, &report.missing),
            "3 hosts: those that could be judged will come back from a reboot; 2 have no record, 1 record is old"
        );
    }

    #[test]
    fn what_is_not_kept_is_counted() {
        let of = |lines: Lines| {
            let mut fleet = Fleet::keeping(lines);
            for n in 0..9 {
                let (outcome, stall) = if n == 4 { (Outcome::Emergency, 90.0) } else { (Outcome::Up, 0.0) };
                fleet.add(&audit(&format!("gauge-{n}"), "gauge", outcome, stall));
            }
            fleet.report(Vec::new(), None)
        };
        let whole = of(Lines::All);
        for (lines, kept) in [(Lines::Telling, 1 + MAX_SOUND), (Lines::None, 0)] {
            let report = of(lines);
            assert_eq!(report.hosts.len(), kept);
            assert_eq!((report.sums.hosts, report.sums.lost, report.sums.sound), (9, 1, 8));
            assert_eq!(report.roles, whole.roles);
            assert_eq!(report.sums.headline(0, &[]), whole.sums.headline(0, &[]));
        }
    }

    #[test]
    fn the_lost_come_first_and_roles_add_up() {
        let mut fleet = Fleet::default();
        for one in [
            audit("gauge-02", "gauge", Outcome::Up, 0.0),
            audit("gauge-01", "gauge", Outcome::Emergency, 90.0),
            audit("relay-01", "relay", Outcome::Up, 90.0),
        ] {
            fleet.add(&one);
        }
        let report = fleet.report(Vec::new(), None);
        let names: Vec<_> = report.hosts.iter().map(|h| h.host.as_str()).collect();
        assert_eq!(names, ["gauge-01", "gauge-02", "relay-01"]);
        let seen: Vec<_> =
            report.roles.iter().map(|r| (r.role.as_str(), r.hosts, r.lost, r.late, r.sound)).collect();
        assert_eq!(seen, [("gauge", 2, 1, 0, 1), ("relay", 1, 0, 1, 0)]);
    }
}
