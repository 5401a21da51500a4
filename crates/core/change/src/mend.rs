//! Repairing a table: the fixes that findings offer, changes that were asked
//! for, and whether what comes out is better than what was there.

use crate::advice::repaired;
use crate::edit::{Change, EditError, apply, changed, idle};
use bradawl_boot::Forecast;
use bradawl_facts::Consequence;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_judgement::rules::{Family, Finding, Fix, RULES};
use bradawl_judgement::{Against, Judgement, judge_against};
use std::collections::{BTreeMap, HashSet};

/// Fixes bring others to light; after this many rounds it ends.
const MAX_ROUNDS: usize = 50;
/// Keeping the boot going and mending take turns so often.
const MAX_TURNS: usize = 5;
/// A repair of a line that is called for so often does not help.
const MAX_ALIKE: usize = 10;

/// What is to be repaired.
#[derive(Debug, Clone, Default)]
pub struct Wish {
    /// Changes asked for, made first. With any, findings are mended only when
    /// rules or lines are named too.
    pub changes: Vec<Change>,
    /// Only findings of these rules; none: all.
    pub only: Vec<String>,
    /// Only findings on these lines; none: all.
    pub lines: Vec<usize>,
}

/// A repair that is made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Made {
    /// The rule whose finding it mends; null for a step that keeps the boot
    /// from stopping or waiting.
    pub rule: Option<&'static str>,
    /// The line, from 1.
    pub line: Option<usize>,
    /// What is done, in a few words.
    pub what: String,
    /// The requirement of the policy behind it: `FILE, line N`.
    pub asked_by: Option<String>,
}

/// Repairs that undo each other: none of them is made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Conflict {
    /// The line, from 1.
    pub line: usize,
    /// The repairs, in the order in which they call for each other.
    pub repairs: Vec<Made>,
}

/// A repair, before it is written.
#[derive(Debug)]
pub struct Mending {
    /// What is done, in order.
    pub made: Vec<Made>,
    /// The table afterwards.
    pub table: Table,
    /// What was wrong, and the boot, before.
    pub before: Judgement,
    /// The same afterwards.
    pub after: Judgement,
    /// What gets worse by it.
    pub worse: Vec<String>,
    /// Repairs that undo each other, and are not made.
    pub conflicts: Vec<Conflict>,
    /// Changes that were asked for and change nothing, by their places.
    pub idle: Vec<usize>,
}

/// Asks whether a fix is to be made; the last word of whoever chooses.
pub type Choose<'c> = &'c mut dyn FnMut(&Finding, &Fix) -> bool;

/// Repairs a table as wished. `choose` is asked about every fix of a finding,
/// safe or not; without it the safe ones are made.
///
/// # Errors
/// When a change that was asked for cannot be made.
pub fn mend(
    record: &Record,
    table: &Table,
    against: &Against<'_>,
    wish: &Wish,
    choose: Option<Choose<'_>>,
) -> Result<Mending, EditError> {
    let before = judge_against(record, table, against);
    let idle = idle(record, table, &wish.changes)?;
    let table = changed(record, table, &wish.changes)?;
    let mut work = Work { record, against, made: Vec::new(), conflicts: Vec::new(), table };
    let choosing = choose.is_some();
    let narrow = !wish.only.is_empty() || !wish.lines.is_empty();
    if wish.changes.is_empty() || narrow {
        match choose {
            Some(choose) => work.choose(wish, choose),
            None => work.all_safe(wish),
        }
        // What keeps the boot going may bring another fix to light.
        for _ in 0..MAX_TURNS {
            if narrow || !work.keep_booting() || choosing {
                break;
            }
            work.all_safe(wish);
        }
    }
    let after = judge_against(record, &work.table, against);
    let worse = worse(&before, &after);
    Ok(Mending { made: work.made, table: work.table, before, after, worse, conflicts: work.conflicts, idle })
}

struct Work<'a> {
    record: &'a Record,
    against: &'a Against<'a>,
    made: Vec<Made>,
    conflicts: Vec<Conflict>,
    table: Table,
}

impl Work<'_> {
    fn findings(&self, wish: &Wish) -> Vec<Finding> {
        let wanted = |f: &Finding| {
            (wish.only.is_empty() || wish.only.iter().any(|rule| rule == f.rule))
                && (wish.lines.is_empty() || f.line.is_some_and(|line| wish.lines.contains(&line)))
        };
        let mut findings = judge_against(self.record, &self.table, self.against).findings;
        findings.retain(wanted);
        findings
    }

    /// Makes safe fixes until none is left; those that undo each other are
    /// left out, all of them, and it begins anew.
    fn all_safe(&mut self, wish: &Wish) {
        let (start, before) = (self.table.clone(), self.made.len());
        let mut apart: Vec<Made> = self.conflicts.iter().flat_map(|c| c.repairs.clone()).collect();
        while let Some(conflict) = self.rounds(wish, &apart) {
            apart.extend(conflict.repairs.iter().cloned());
            self.conflicts.push(conflict);
            self.made.truncate(before);
            self.table = start.clone();
        }
    }

    /// Makes safe fixes, one for each line in a round: what one of them
    /// changes is judged anew. Ends with those that undo each other, if any do.
    fn rounds(&mut self, wish: &Wish, apart: &[Made]) -> Option<Conflict> {
        for _ in 0..MAX_ROUNDS {
            let mut touched = HashSet::new();
            let mut edits = Vec::new();
            for finding in self.findings(wish) {
                let Some(fix) = finding.fixes.iter().find(|f| f.safe) else { continue };
                let made = Made::by(&finding, fix);
                if apart.contains(&made) || fix.edits.iter().any(|e| touched.contains(&e.line)) {
                    continue;
                }
                if let Some(conflict) = self.undone(&made) {
                    return Some(conflict);
                }
                touched.extend(fix.edits.iter().map(|e| e.line));
                edits.extend(fix.edits.iter().cloned());
                self.made.push(made);
            }
            match apply(&self.table, &edits).filter(|better| *better != self.table) {
                Some(better) => self.table = better,
                None => break,
            }
        }
        None
    }

    /// What a repair that is called for again is in conflict with: the repairs
    /// of its line since it was made, or itself when it never helps.
    fn undone(&self, again: &Made) -> Option<Conflict> {
        let line = again.line?;
        let first = self.made.iter().position(|m| m == again)?;
        let mut repairs: Vec<Made> = Vec::new();
        for made in self.made[first..].iter().filter(|m| m.line == Some(line)) {
            if !repairs.contains(made) {
                repairs.push(made.clone());
            }
        }
        let times = self.made.iter().filter(|m| *m == again).count();
        (repairs.len() > 1 || times >= MAX_ALIKE).then_some(Conflict { line, repairs })
    }

    /// Asks about each fix in turn.
    fn choose(&mut self, wish: &Wish, choose: Choose<'_>) {
        let mut asked: Vec<(&'static str, Option<usize>, String)> = Vec::new();
        for _ in 0..MAX_ROUNDS {
            let findings = self.findings(wish);
            let offers = findings.iter().flat_map(|f| f.fixes.iter().map(move |fix| (f, fix)));
            let next = offers.map(|(f, fix)| ((f.rule, f.line, fix.title.clone()), f, fix));
            let Some((key, finding, fix)) = next.into_iter().find(|(key, ..)| !asked.contains(key)) else {
                break;
            };
            asked.push(key);
            if !choose(finding, fix) {
                continue;
            }
            if let Some(better) = apply(&self.table, &fix.edits) {
                self.made.push(Made::by(finding, fix));
                self.table = better;
            }
        }
    }

    /// What the findings' own fixes leave of halts and waits; whether anything
    /// was done.
    fn keep_booting(&mut self) -> bool {
        let judged = judge_against(self.record, &self.table, self.against);
        let Some((advice, table)) = repaired(self.record, &self.table, &judged, true) else {
            return false;
        };
        self.made.extend(advice.steps.into_iter().map(|s| Made {
            rule: None,
            line: Some(s.line),
            what: s.what,
            asked_by: None,
        }));
        self.table = table;
        true
    }
}

impl Made {
    fn by(finding: &Finding, fix: &Fix) -> Self {
        let asked_by = finding.asked_by.clone();
        Made { rule: Some(finding.rule), line: finding.line, what: fix.title.clone(), asked_by }
    }
}

/// What one judgement says is worse than in the other: the boot as a whole, or
/// the worst that is said of a target. Notes do not count.
pub fn worse(before: &Judgement, after: &Judgement) -> Vec<String> {
    let mut worse = Vec::new();
    if rank(&after.forecast) > rank(&before.forecast) {
        worse.push(format!("the boot: {}", after.forecast.verdict));
    }
    let was = worst_of(&before.findings);
    for (whom, (consequence, finding)) in worst_of(&after.findings) {
        let earlier = was.get(&whom).map(|(c, _)| *c);
        if consequence < Consequence::Note && earlier.is_none_or(|earlier| consequence < earlier) {
            worse.push(format!("{} ({}): {}", finding.rule, consequence.name(), finding.message));
        }
    }
    worse
}

/// How bad a boot is; more is worse.
fn rank(forecast: &Forecast) -> (u8, u64) {
    let outcome = match () {
        () if forecast.outcome.reaches_login() => 0,
        () => 1,
    };
    // Whole seconds do.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    let stall = forecast.stall_s.map_or(u64::MAX, |s| s as u64);
    (outcome, if outcome == 0 { stall } else { 0 })
}

/// The worst finding on each target; on the source of swap; on the table. That
/// what runs now differs from a changed table is as it must be.
fn worst_of(findings: &[Finding]) -> BTreeMap<String, (Consequence, &Finding)> {
    let mut worst: BTreeMap<String, (Consequence, &Finding)> = BTreeMap::new();
    let running: Vec<&str> = RULES.iter().filter(|r| r.family == Family::Running).map(|r| r.slug).collect();
    for finding in findings.iter().filter(|f| !running.contains(&f.rule)) {
        let whom = finding.entry.as_ref().map(|e| match e.fstype.as_str() {
            "swap" => "swap".to_owned(),
            _ => e.target.trim_end_matches('/').to_owned(),
        });
        let place = worst.entry(whom.unwrap_or_default()).or_insert((finding.consequence, finding));
        if finding.consequence < place.0 {
            *place = (finding.consequence, finding);
        }
    }
    worst
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::testing::{ROOT, host};

    fn mended(lines: &str, wish: &Wish) -> (Mending, String) {
        let table = Table::parse(format!("{ROOT}{lines}"));
        let mending = mend(&host(), &table, &Against::default(), wish, None).unwrap();
        let text = String::from_utf8(mending.table.bytes()[ROOT.len()..].to_vec()).unwrap();
        (mending, text)
    }

    #[test]
    fn safe_fixes_are_made_until_none_is_left() {
        let (mending, text) = mended("LABEL=gaugse /srv/gauges xfs noatme,nofail 0 2\n", &Wish::default());
        assert_eq!(text, "LABEL=gauges /srv/gauges xfs noatime,nofail 0 0\n", "{:#?}", mending.made);
        assert!(mending.worse.is_empty());
        assert!(mending.after.findings.iter().all(|f| f.consequence > Consequence::Missing));
    }

    #[test]
    fn only_what_is_named_is_mended() {
        let wish = Wish { only: vec!["pass-useless".into()], ..Wish::default() };
        let (mending, text) = mended("LABEL=gaugse /srv/gauges xfs nofail 0 2\n", &wish);
        assert_eq!((text.as_str(), mending.made.len()), ("LABEL=gaugse /srv/gauges xfs nofail 0 0\n", 1));
        let wish = Wish { lines: vec![99], ..Wish::default() };
        assert!(mended("LABEL=gaugse /srv/gauges xfs nofail 0 2\n", &wish).0.made.is_empty());
    }

    #[test]
    fn a_lost_disk_no_longer_stops_the_boot() {
        let line = "UUID=00000000-1111-2222-3333-444444444444 /srv/far ext4 defaults 0 2\n";
        let (mending, text) = mended(line, &Wish::default());
        assert!(text.contains(" nofail "), "{text}");
        assert!(mending.after.forecast.outcome.reaches_login());
    }

    #[test]
    fn what_gets_worse_is_told() {
        let change = "line 2: source LABEL=elsewhere".parse().unwrap();
        let wish = Wish { changes: vec![change], ..Wish::default() };
        let (mending, _) = mended("LABEL=gauges /srv/gauges xfs defaults 0 0\n", &wish);
        assert_eq!(mending.worse.len(), 2, "{:?}", mending.worse);
        assert!(mending.worse[1].starts_with("device-unknown (halt): "));
    }

    #[test]
    fn that_the_running_mount_differs_is_no_harm() {
        let mut record = host();
        record.mounts = Some(vec![bradawl_facts::testing::mounted("/dev/vdb", "/srv/gauges", "xfs")]);
        let table = Table::parse(format!("{ROOT}LABEL=gauges /srv/gauges xfs defaults 0 0\n"));
        let wish = Wish { changes: vec!["line 2: +noexec".parse().unwrap()], ..Wish::default() };
        let mending = mend(&record, &table, &Against::default(), &wish, None).unwrap();
        assert!(mending.after.findings.iter().any(|f| f.rule == "running-differs"));
        assert!(mending.worse.is_empty(), "{:?}", mending.worse);
    }

    #[test]
    fn repairs_that_undo_each_other_are_not_made() {
        let ask = |option: &str, reason: &str| {
            format!("[[require]]\ntarget = \"/srv/*\"\noptions = [\"{option}\"]\nreason = \"{reason}\"\n")
        };
        let text = format!("{}{}", ask("noatime", "reads are many"), ask("atime", "the auditors want it"));
        let policy = bradawl_judgement::policy::Policy::parse("p.toml", &text, |_| true).unwrap();
        let against = Against { policy: Some(&policy), ..Against::default() };
        let table = Table::parse(format!("{ROOT}LABEL=gaugse /srv/gauges xfs nofail 0 2\n"));
        let mending = mend(&host(), &table, &against, &Wish::default(), None).unwrap();
        let text = String::from_utf8_lossy(mending.table.bytes()).into_owned();
        assert_eq!(&text[ROOT.len()..], "LABEL=gauges /srv/gauges xfs nofail 0 0\n");
        let [conflict] = mending.conflicts.as_slice() else { panic!("{:#?}", mending.conflicts) };
        let sides: Vec<_> = conflict.repairs.iter().map(|m| m.asked_by.as_deref().unwrap()).collect();
        assert_eq!((conflict.line, sides), (2, vec!["p.toml, line 1", "p.toml, line 5"]));
    }

    #[test]
    fn what_weakens_a_mount_is_never_mended_unasked() {
        let text = "[[require]]\noptions = [\"dev\", \"nofail\"]\nreason = \"so it was said\"\n";
        let policy = bradawl_judgement::policy::Policy::parse("p.toml", text, |_| true).unwrap();
        let against = Against { policy: Some(&policy), ..Against::default() };
        let table = Table::parse(format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail,nodev 0 0\n"));
        let mending = mend(&host(), &table, &against, &Wish::default(), None).unwrap();
        assert_eq!(mending.table, table, "{:#?}", mending.made);
        assert!(mending.after.findings.iter().any(|f| f.rule == "policy-options"));
    }

    #[test]
    fn each_fix_is_asked_about_once() {
        let table = Table::parse(format!("{ROOT}LABEL=gaugse /srv/gauges xfs nofail 0 2\n"));
        let mut asked = Vec::new();
        let mut choose = |f: &Finding, _: &Fix| {
            asked.push(f.rule);
            f.rule == "pass-useless"
        };
        let mending =
            mend(&host(), &table, &Against::default(), &Wish::default(), Some(&mut choose)).unwrap();
        assert_eq!(mending.made.iter().map(|m| m.rule).collect::<Vec<_>>(), [Some("pass-useless")]);
        assert_eq!(asked.iter().filter(|r| **r == "device-unknown").count(), 1, "{asked:?}");
    }
}
