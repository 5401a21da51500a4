//! Every fix is tried before it is offered: made in thought, read again,
//! judged again. What does not mend its finding, makes anything worse or takes
//! protection away is not offered.

mod kept;

use crate::elsewhere::LostName;
use crate::rules::{Family, Finding, Fix, RULES};
use bradawl_boot::{EntryForecast, Forecast, Outcome};
use bradawl_facts::Consequence;
use bradawl_facts::table::{Edit, Table, apply};
use kept::{Kept, kept};
use std::collections::{BTreeMap, BTreeSet};

/// Tries beyond this much in all are not made: of lines, and of bytes by 32.
const MAX_WORK: usize = 40_000;

/// A fix by its finding's place and its own.
type Offer = (usize, usize);

/// Rules that find fault with nofail itself.
const AGAINST_NOFAIL: [&str; 2] = ["initramfs-usr", "nofail-on-vital"];

/// A table judged, without a guard.
pub(crate) struct Judged {
    pub findings: Vec<Finding>,
    pub forecast: Forecast,
    pub lost: Vec<LostName>,
}

/// Takes out the fixes that do not hold; true when there are too many to try
/// all of them: the others are taken out too.
pub(crate) fn guard(
    table: &Table,
    judged: &mut Judged,
    policy: bool,
    judge: &dyn Fn(&Table) -> Judged,
) -> bool {
    let before = Before::of(judged);
    let mut offers: Vec<Offer> = Vec::new();
    for (f, finding) in judged.findings.iter().enumerate() {
        offers.extend((0..finding.fixes.len()).map(|n| (f, n)));
    }
    let cost = table.lines().len().max(8) + table.bytes().len() / 32;
    let mut work =
        Work { before: &before, findings: &judged.findings, table, judge, left: MAX_WORK / cost, policy };
    let mut held: BTreeMap<Offer, bool> = BTreeMap::new();
    for batch in batches(&judged.findings, &offers) {
        work.test(&batch, &mut held);
    }
    let gave_up = work.left == 0 && held.len() < offers.len();
    // Where even the target is not told, nothing on the line is certain.
    let lost = |f: &&Finding| f.rule == "target-relative" && f.fixes.is_empty();
    let lost: BTreeSet<Option<usize>> = judged.findings.iter().filter(lost).map(|f| f.line).collect();
    for (f, finding) in judged.findings.iter_mut().enumerate() {
        let mut n = 0;
        let certain = !lost.contains(&finding.line);
        finding.fixes.retain_mut(|fix| {
            let verdict = held.get(&(f, n)).copied();
            n += 1;
            fix.safe &= certain && verdict == Some(true);
            verdict.is_some()
        });
    }
    gave_up
}

/// So few fixes are tried one by one: together one may hide what another does.
const FEW: usize = 12;

/// Fixes that can be tried together: no two on one line.
fn batches(findings: &[Finding], offers: &[Offer]) -> Vec<Vec<Offer>> {
    if offers.len() <= FEW {
        return offers.iter().map(|offer| vec![*offer]).collect();
    }
    let mut batches: Vec<(BTreeSet<usize>, Vec<Offer>)> = Vec::new();
    for &(f, n) in offers {
        let lines: BTreeSet<usize> = findings[f].fixes[n].edits.iter().map(|e| e.line).collect();
        match batches.iter_mut().find(|(taken, _)| taken.is_disjoint(&lines)) {
            Some((taken, batch)) => {
                taken.extend(lines);
                batch.push((f, n));
            }
            None => batches.push((lines, vec![(f, n)])),
        }
    }
    batches.into_iter().map(|(_, batch)| batch).collect()
}

/// How often each thing is said of a line, and how bad it is: line, rule,
/// message.
type Said<'a> = BTreeMap<(Option<usize>, &'a str, &'a str), (usize, Consequence)>;

/// Counts what is said of each line, called as it was before.
fn said(judged: &Judged, was: impl Fn(usize) -> usize) -> Said<'_> {
    let mut said = Said::new();
    for f in &judged.findings {
        let key = (f.line.map(&was), f.rule, f.message.as_str());
        let (count, worst) = said.entry(key).or_insert((0, Consequence::Note));
        (*count, *worst) = (*count + 1, f.consequence.min(*worst));
    }
    said
}

/// What fixes are held against.
struct Before<'a> {
    forecast: &'a Forecast,
    /// How often each thing is said of a line.
    said: Said<'a>,
    /// The rules that speak of a line, and how bad.
    rules: BTreeMap<(Option<usize>, &'a str), Consequence>,
}

impl<'a> Before<'a> {
    fn of(judged: &'a Judged) -> Self {
        let mut rules: BTreeMap<_, Consequence> = BTreeMap::new();
        for f in &judged.findings {
            let worst = rules.entry((f.line, f.rule)).or_insert(f.consequence);
            *worst = f.consequence.min(*worst);
        }
        let said = said(judged, |line| line);
        Before { forecast: &judged.forecast, said, rules }
    }
}

struct Work<'a> {
    before: &'a Before<'a>,
    findings: &'a [Finding],
    table: &'a Table,
    judge: &'a dyn Fn(&Table) -> Judged,
    /// How many tables may still be judged.
    left: usize,
    policy: bool,
}

impl Work<'_> {
    /// Tries fixes together; where that makes anything worse, in halves.
    fn test(&mut self, batch: &[Offer], held: &mut BTreeMap<Offer, bool>) {
        if batch.is_empty() || self.left == 0 {
            return;
        }
        self.left -= 1;
        let fixes: Vec<(&Finding, &Fix)> =
            batch.iter().map(|(f, n)| (&self.findings[*f], &self.findings[*f].fixes[*n])).collect();
        let edits: Vec<Edit> = fixes.iter().flat_map(|(_, fix)| fix.edits.clone()).collect();
        let after = apply(self.table, &edits).filter(|after| after != self.table);
        let outcome = after.map(|after| {
            let judged = (self.judge)(&after);
            let places = Places::of(&edits);
            let said = said(&judged, |line| places.was(line));
            let sound = self.nothing_worse(&fixes, &places, &judged);
            let each: Vec<Option<bool>> =
                fixes.iter().map(|(finding, _)| self.holds(finding, &after, &said, &places)).collect();
            (sound, each)
        });
        match outcome {
            Some((true, each)) => {
                held.extend(batch.iter().copied().zip(each).filter_map(|(at, held)| Some((at, held?))));
            }
            _ if batch.len() > 1 => {
                let (first, second) = batch.split_at(batch.len() / 2);
                self.test(first, held);
                self.test(second, held);
            }
            _ => {}
        }
    }

    /// Whether a fix mends its finding and keeps what protects; `Some(false)`
    /// when somebody has to be asked.
    fn holds(&self, finding: &Finding, after: &Table, said: &Said<'_>, places: &Places) -> Option<bool> {
        let key = (finding.line, finding.rule, finding.message.as_str());
        let before = self.before.said.get(&key).map_or(1, |(count, _)| *count);
        // With nofail a lost disk is as lost, and no longer ends the boot.
        if said.get(&key).is_some_and(|(now, worst)| *now >= before && *worst <= finding.consequence) {
            return None;
        }
        let asked = self.policy && finding.asked_by.is_some();
        let Some(line) = finding.line.filter(|_| !asked) else { return Some(true) };
        // Where nofail is the fault, it has to go.
        let but: &[&str] = if AGAINST_NOFAIL.contains(&finding.rule) { &["nofail"] } else { &[] };
        match kept(self.table, line, after, places.lines(line), but) {
            Kept::All => Some(true),
            Kept::ButRefused => Some(false),
            Kept::Lost => None,
        }
    }

    /// Whether no line, and not the boot, is worse off than before.
    fn nothing_worse(&self, fixes: &[(&Finding, &Fix)], places: &Places, after: &Judged) -> bool {
        let running = |rule: &str| RULES.iter().any(|r| r.slug == rule && r.family == Family::Running);
        let mended: BTreeMap<usize, Consequence> =
            fixes.iter().filter_map(|(f, _)| Some((f.line?, f.consequence))).collect();
        rank(&after.forecast) <= rank(self.before.forecast)
            && entries_no_worse(self.before.forecast, &after.forecast, places)
            && after.findings.iter().filter(|f| !running(f.rule)).all(|now| {
                let line = now.line.map(|line| places.was(line));
                let was = self.before.rules.get(&(line, now.rule));
                if was.is_some_and(|was| *was <= now.consequence) || now.consequence == Consequence::Note {
                    return true;
                }
                // The second of two parted entries was never there.
                if line.zip(now.line).is_some_and(|(old, new)| *places.lines(old).start() != new) {
                    return true;
                }
                // On the line itself one fault may show another, no worse.
                line.and_then(|line| mended.get(&line)).is_some_and(|mended| match mended {
                    c if *c <= Consequence::Missing => now.consequence >= *c,
                    c => now.consequence > *c,
                })
            })
    }
}

/// Where lines go when edits bring new ones.
struct Places {
    /// Line, and how many follow it newly.
    more: BTreeMap<usize, usize>,
}

impl Places {
    fn of(edits: &[Edit]) -> Self {
        let mut more: BTreeMap<usize, usize> = BTreeMap::new();
        for edit in edits.iter().filter(|e| e.text.contains('\n')) {
            *more.entry(edit.line).or_default() += edit.text.matches('\n').count();
        }
        Places { more }
    }

    /// The lines that an old one became.
    fn lines(&self, old: usize) -> std::ops::RangeInclusive<usize> {
        let before: usize = self.more.range(..old).map(|(_, n)| n).sum();
        let own = self.more.get(&old).copied().unwrap_or_default();
        old + before..=old + before + own
    }

    /// The old line of a new one.
    fn was(&self, new: usize) -> usize {
        let mut old = new;
        for (line, more) in &self.more {
            let first = *self.lines(*line).start();
            if new > first {
                old -= (*more).min(new - first);
            }
        }
        old
    }
}

/// No entry is worse off, and none that was there is gone.
fn entries_no_worse(before: &Forecast, after: &Forecast, places: &Places) -> bool {
    let was: BTreeMap<usize, &EntryForecast> = before.entries.iter().map(|e| (e.line, e)).collect();
    after.entries.iter().all(|now| {
        let line = places.was(now.line);
        // The second of two parted entries was never there.
        let first = *places.lines(line).start() == now.line;
        match was.get(&line).filter(|_| first) {
            None => now.consequence.is_none_or(|c| c > Consequence::Stall),
            Some(was) => {
                let rank = |e: &EntryForecast| e.consequence.unwrap_or(Consequence::Note);
                rank(now) >= rank(was) && (was.state.is_absent() || !now.state.is_absent())
            }
        }
    })
}

/// How bad a boot is; more is worse.
fn rank(forecast: &Forecast) -> (u8, u64) {
    let outcome = match forecast.outcome {
        Outcome::NotKnown => 1,
        outcome if outcome.reaches_login() => 0,
        _ => 2,
    };
    // Whole seconds do.
    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)]
    let stall = forecast.stall_s.map_or(u64::MAX, |s| s as u64);
    (outcome, if outcome < 2 { stall } else { 0 })
}
