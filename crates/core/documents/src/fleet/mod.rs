//! Many hosts at once: a line for each, findings that many share, sums by
//! role. What is kept grows with the hosts by a line each, not by their
//! findings.

mod missing;
mod shared;

pub use missing::{MissingHost, MissingState};
pub use shared::SharedFinding;

use crate::shapes::{ElsewhereShape, OutcomeShape};
use crate::{Failure, HostAudit, PolicyUse, Totals};
use bradawl_boot::Outcome;
use bradawl_facts::Consequence;
use bradawl_facts::text::count;
use bradawl_judgement::{Elsewhere, LostName, Owners};
use serde::Serialize;
use serde_with::serde_as;
use shared::Shared;
use std::collections::BTreeMap;

/// The role of hosts whose record names none.
pub const NO_ROLE: &str = "no role";

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

/// The hosts of one role together.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RoleLine {
    /// The role.
    pub role: String,
    /// How many hosts have it.
    pub hosts: usize,
    /// How many of them will not come back from a reboot.
    pub lost: usize,
    /// How many come back late.
    pub late: usize,
    /// How many come back without something.
    pub partial: usize,
    /// Of how many it is not known: they reach login as far as is known, and
    /// facts are missing.
    pub not_known: usize,
    /// How many have nothing worse than a note.
    pub sound: usize,
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
}

/// What a run over many hosts adds up to, host by host.
#[derive(Debug, Default)]
pub struct Fleet {
    hosts: Vec<HostLine>,
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

/// How many hosts come back from a reboot, in a line without a full stop;
/// `failed`: inputs that could not be judged.
pub fn headline(hosts: &[HostLine], failed: usize, missing: &[MissingHost]) -> String {
    let absent = missing.iter().filter(|m| m.has_no_record()).count();
    let said = of_judged(hosts, failed, absent);
    match missing::told(missing) {
        nothing if nothing.is_empty() => said,
        told => format!("{said}; {told}"),
    }
}

fn of_judged(hosts: &[HostLine], failed: usize, absent: usize) -> String {
    let total = count(hosts.len() + failed + absent, "host");
    let down = hosts.iter().filter(|h| h.is_lost()).count();
    let open = hosts.iter().filter(|h| h.at_worst.is_some()).count();
    match (down, open) {
        (0, 0) if failed + absent == 0 => format!("{total}: all will come back from a reboot"),
        (0, 0) => format!("{total}: those that could be judged will come back from a reboot"),
        (_, 0) => format!("{total}: {down} will not come back from a reboot"),
        (0, _) => format!("{total}: of {open} it is not known whether all is well after a reboot"),
        _ => format!("{total}: {down} will not come back from a reboot, of {open} it is not known"),
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
    /// Takes in one host.
    pub fn add(&mut self, audit: &HostAudit) {
        let line = HostLine::of(audit);
        for consequence in Consequence::ALL {
            self.totals.add(consequence, line.totals.get(consequence));
        }
        self.worst = self.worst.into_iter().chain(audit.counts_as).min();
        self.at_worst = self.at_worst.into_iter().chain(audit.may_count_as).min();
        let role = line.roles.first().map_or(NO_ROLE, String::as_str);
        audit.findings.iter().for_each(|finding| self.shared.add(&audit.host, role, finding));
        self.hosts.push(line);
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
        let (roles, shared) = (roles(&hosts), self.shared.found());
        FleetReport {
            schema: "bradawl.fleet/1",
            roles,
            shared,
            totals: self.totals,
            policy,
            elsewhere,
            failed,
            missing: self.missing,
            hosts,
        }
    }
}

fn roles(hosts: &[HostLine]) -> Vec<RoleLine> {
    let mut roles: BTreeMap<&str, RoleLine> = BTreeMap::new();
    for host in hosts {
        let own = host.roles.iter().map(String::as_str);
        let none = host.roles.is_empty().then_some(NO_ROLE);
        for role in own.chain(none) {
            let fresh = || RoleLine {
                role: role.to_owned(),
                hosts: 0,
                lost: 0,
                late: 0,
                partial: 0,
                not_known: 0,
                sound: 0,
            };
            let line = roles.entry(role).or_insert_with(fresh);
            line.hosts += 1;
            let worst = host.rank().2;
            match () {
                () if host.is_lost() => line.lost += 1,
                () if host.is_late() => line.late += 1,
                () if host.outcome == Some(Outcome::Partial) => line.partial += 1,
                () if host.outcome == Some(Outcome::NotKnown) => line.not_known += 1,
                () if worst.is_none_or(|w| w == Consequence::Note) => line.sound += 1,
                () => {}
            }
        }
    }
    roles.into_values().collect()
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
            headline(&report.hosts, 0, &report.missing),
            "3 hosts: those that could be judged will come back from a reboot; 2 have no record, 1 record is old"
        );
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
