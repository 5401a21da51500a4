//! Many surveys of the same hosts, one after the other: what changed when, how
//! long a finding has stood, which hosts go back and forth.

use crate::shapes::OutcomeShape;
use bradawl_boot::Outcome;
use bradawl_facts::Consequence;
use bradawl_judgement::rules::Finding;
use serde::Serialize;
use serde_with::serde_as;
use std::collections::BTreeMap;

/// From so many changes of its outcome on a host goes back and forth.
pub const RESTLESS: usize = 3;

/// `bradawl.trend/1`: hosts over time.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TrendReport {
    /// Always `bradawl.trend/1`.
    pub schema: &'static str,
    /// The surveys, oldest first.
    pub surveys: Vec<SurveyLine>,
    /// What changed, oldest first.
    pub changes: Vec<HostChange>,
    /// Findings of the last survey with their age, oldest first; no notes.
    pub standing: Vec<StandingFinding>,
    /// Hosts whose outcome went back and forth, the most restless first.
    pub restless: Vec<RestlessHost>,
    /// Inputs that could not be judged.
    pub failed: Vec<crate::Failure>,
}

/// One survey in numbers.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SurveyLine {
    /// What it is called: the name of its directory or file.
    pub survey: String,
    /// When its latest record was taken, in seconds since 1970 UTC; null: no record
    /// says.
    pub taken_at_s: Option<u64>,
    /// How many hosts it has.
    pub hosts: usize,
    /// How many of them will not come back from a reboot.
    pub lost: usize,
    /// How many are not sound otherwise: something is late, missing or not known.
    pub impaired: usize,
}

/// A host that is not as in the survey before.
#[serde_as]
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct HostChange {
    /// The survey that shows it.
    pub survey: String,
    /// The host.
    pub host: String,
    /// How.
    pub change: ChangeSort,
    /// How its boot ended before; null: it was not in any survey before.
    #[serde_as(as = "Option<OutcomeShape>")]
    pub before: Option<Outcome>,
    /// How it ends now; null: it is not in this survey.
    #[serde_as(as = "Option<OutcomeShape>")]
    pub now: Option<Outcome>,
    /// The finding that is new where it got worse: `/srv/tides: type-mismatch`.
    pub because: Option<String>,
}

/// How a host changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum ChangeSort {
    /// It is in a survey for the first time, after the first one.
    New,
    /// It is in this survey no longer.
    Gone,
    /// It is in a survey again.
    Back,
    /// Its boot ends worse than before.
    Worse,
    /// Its boot ends better than before.
    Better,
}

/// A finding of the last survey, and since when it stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct StandingFinding {
    /// The host.
    pub host: String,
    /// The rule.
    pub rule: &'static str,
    /// The target, or the source of an entry without one; null: it is about the
    /// whole table.
    pub target: Option<String>,
    /// What it does.
    pub consequence: Consequence,
    /// The survey that had it first, without a gap since.
    pub since: String,
    /// In how many surveys it was found, the last among them.
    pub surveys: usize,
    /// Seconds from the first to the last of them; null: records do not say when
    /// they were taken.
    pub age_s: Option<u64>,
}

/// A host that goes back and forth.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RestlessHost {
    /// The host.
    pub host: String,
    /// How often its outcome changed.
    pub changes: usize,
}

/// What tells one finding of a host from another, whatever line it is on.
type Key = (&'static str, Option<String>);

#[derive(Debug, Default)]
struct Track {
    /// The last survey that had it, and how its boot ended there.
    last: Option<(usize, Outcome)>,
    changes: usize,
    /// Findings of the last survey that had it: the survey that had it first.
    standing: BTreeMap<Key, (usize, Consequence)>,
}

/// What surveys add up to, taken in one after the other.
#[derive(Debug, Default)]
pub struct Trend {
    surveys: Vec<SurveyLine>,
    hosts: BTreeMap<String, Track>,
    changes: Vec<HostChange>,
}

impl Trend {
    /// Begins the next survey.
    pub fn begin(&mut self, name: &str) {
        self.surveys.push(SurveyLine {
            survey: name.to_owned(),
            taken_at_s: None,
            hosts: 0,
            lost: 0,
            impaired: 0,
        });
    }

    /// Takes in a host of the survey that was begun last.
    pub fn add(&mut self, host: &str, taken_at_s: Option<u64>, outcome: Outcome, findings: &[Finding]) {
        let Some(line) = self.surveys.last_mut() else { return };
        line.taken_at_s = line.taken_at_s.max(taken_at_s);
        line.hosts += 1;
        line.lost += usize::from(!outcome.reaches_login());
        line.impaired += usize::from(outcome.reaches_login() && outcome != Outcome::Up);
        let now = self.surveys.len() - 1;
        let track = self.hosts.entry(host.to_owned()).or_default();
        let earlier = std::mem::take(&mut track.standing);
        let told = findings.iter().filter(|f| f.consequence < Consequence::Note);
        for finding in told {
            let key = key(finding);
            let since = earlier.get(&key).map_or(now, |(since, _)| *since);
            track.standing.entry(key).or_insert((since, finding.consequence));
        }
        let fresh = track.standing.iter().filter(|(_, (since, _))| *since == now);
        let because = fresh.min_by_key(|(_, (_, c))| *c).map(|(key, _)| words(key));
        let change = match track.last {
            None if now == 0 => None,
            None => Some(ChangeSort::New),
            Some((survey, _)) if survey + 1 < now => Some(ChangeSort::Back),
            Some((_, before)) if rank(outcome) > rank(before) => Some(ChangeSort::Worse),
            Some((_, before)) if rank(outcome) < rank(before) => Some(ChangeSort::Better),
            Some(_) => None,
        };
        let before = track.last.map(|(_, outcome)| outcome);
        track.changes += usize::from(before.is_some_and(|before| before != outcome));
        track.last = Some((now, outcome));
        if let Some(change) = change {
            let survey = self.surveys[now].survey.clone();
            let because = because.filter(|_| change == ChangeSort::Worse);
            self.changes.push(HostChange {
                survey,
                host: host.to_owned(),
                change,
                before,
                now: Some(outcome),
                because,
            });
        }
    }

    /// Ends the survey that was begun last: hosts that it lacks are gone.
    pub fn end(&mut self) {
        let Some(now) = self.surveys.len().checked_sub(1) else { return };
        for (host, track) in &self.hosts {
            let Some((_, before)) = track.last.filter(|(last, _)| last + 1 == now) else { continue };
            self.changes.push(HostChange {
                survey: self.surveys[now].survey.clone(),
                host: host.clone(),
                change: ChangeSort::Gone,
                before: Some(before),
                now: None,
                because: None,
            });
        }
    }

    /// The whole of it.
    pub fn report(self, failed: Vec<crate::Failure>) -> TrendReport {
        let now = self.surveys.len().saturating_sub(1);
        let time = |n: usize| self.surveys.get(n).and_then(|s| s.taken_at_s);
        let here = self.hosts.iter().filter(|(_, t)| t.last.is_some_and(|(last, _)| last == now));
        let standing = here.flat_map(|(host, track)| {
            track.standing.iter().map(|((rule, target), (since, consequence))| StandingFinding {
                host: host.clone(),
                rule,
                target: target.clone(),
                consequence: *consequence,
                since: self.surveys[*since].survey.clone(),
                surveys: now - since + 1,
                age_s: time(now).zip(time(*since)).map(|(now, since)| now.saturating_sub(since)),
            })
        });
        let mut standing: Vec<StandingFinding> = standing.collect();
        standing.sort_by_key(|s| (std::cmp::Reverse(s.surveys), s.consequence));
        let mut restless: Vec<RestlessHost> = self
            .hosts
            .iter()
            .filter(|(_, t)| t.changes >= RESTLESS)
            .map(|(host, t)| RestlessHost { host: host.clone(), changes: t.changes })
            .collect();
        restless.sort_by_key(|r| std::cmp::Reverse(r.changes));
        TrendReport {
            schema: "bradawl.trend/1",
            surveys: self.surveys,
            changes: self.changes,
            standing,
            restless,
            failed,
        }
    }
}

fn key(finding: &Finding) -> Key {
    let entry = finding.entry.as_ref();
    let place = entry.map(|e| if e.target.starts_with('/') { e.target.clone() } else { e.source.clone() });
    (finding.rule, place)
}

fn words((rule, place): &Key) -> String {
    place.as_ref().map_or((*rule).to_owned(), |place| format!("{place}: {rule}"))
}

/// How bad an end is.
fn rank(outcome: Outcome) -> u8 {
    match outcome {
        Outcome::Up => 0,
        Outcome::Partial => 1,
        Outcome::NotKnown => 2,
        Outcome::Emergency => 3,
        Outcome::NoRoot => 4,
        Outcome::Never => 5,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn trend(days: &[&[(&str, Outcome)]]) -> TrendReport {
        let mut trend = Trend::default();
        for (n, hosts) in days.iter().enumerate() {
            trend.begin(&format!("day-{n}"));
            for (host, outcome) in *hosts {
                trend.add(host, Some(86_400 * n as u64), *outcome, &[]);
            }
            trend.end();
        }
        trend.report(Vec::new())
    }

    #[test]
    fn what_changed_and_who_goes_back_and_forth() {
        use Outcome::{Emergency, Up};
        let report = trend(&[
            &[("a", Up), ("b", Up), ("c", Up)],
            &[("a", Emergency), ("b", Up)],
            &[("a", Up), ("b", Up), ("d", Up)],
            &[("a", Emergency), ("b", Up), ("c", Up), ("d", Up)],
        ]);
        let told: Vec<_> =
            report.changes.iter().map(|c| (c.survey.as_str(), c.host.as_str(), c.change)).collect();
        use ChangeSort::{Back, Better, Gone, New, Worse};
        assert_eq!(
            told,
            [
                ("day-1", "a", Worse),
                ("day-1", "c", Gone),
                ("day-2", "a", Better),
                ("day-2", "d", New),
                ("day-3", "a", Worse),
                ("day-3", "c", Back)
            ]
        );
        assert_eq!(report.restless, [RestlessHost { host: "a".to_owned(), changes: 3 }]);
        assert_eq!((report.surveys[3].hosts, report.surveys[3].lost), (4, 1));
    }
}
