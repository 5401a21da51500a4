//! The smallest repair: which edits keep a boot from stopping or waiting, each
//! tried by forecasting again.

use crate::edit::{apply, switched_off, with_options};
use bradawl_boot::{BootVerdict, EntryForecast, Forecast, Outcome, forecast, requests};
use bradawl_facts::Consequence;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use bradawl_facts::text::visible;
use bradawl_judgement::rules::Finding;
use bradawl_judgement::{Judgement, judge};
use bradawl_resolve::Index;

/// Repairs beyond this many are not looked for.
const MAX_STEPS: usize = 10;
/// Changes to one line beyond this many are not tried.
const MAX_CANDIDATES: usize = 24;
/// In a table with more entries no repairs are looked for.
pub const MAX_ENTRIES: usize = 2000;

/// What to change, and what the boot does then.
#[derive(Debug, Clone, PartialEq)]
pub struct Advice {
    /// The changes, in the order they were found.
    pub steps: Vec<RepairStep>,
    /// How the boot ends with all of them.
    pub outcome: Outcome,
    /// Seconds that it still waits; null: without end.
    pub stall_s: Option<f64>,
    /// The boot in one sentence.
    pub verdict: BootVerdict,
}

/// One change to one line.
#[derive(Debug, Clone, PartialEq)]
pub struct RepairStep {
    /// The line, from 1.
    pub line: usize,
    /// What is done, in a few words.
    pub what: String,
    /// The line as it is.
    pub before: String,
    /// The line as it becomes.
    pub after: String,
    /// Whether nothing has to be asked first: what the line asks for is there
    /// afterwards, or was lost anyway.
    pub safe: bool,
}

/// Looks for the smallest repair; `None` when the boot neither stops nor
/// waits, or nothing in the table helps.
pub fn advise(record: &Record, table: &Table, judgement: &Judgement) -> Option<Advice> {
    repaired(record, table, judgement, false).map(|(advice, _)| advice)
}

/// The same with the table that it leads to; `safely`: only by steps that
/// nobody has to be asked about.
pub fn repaired(
    record: &Record,
    table: &Table,
    judgement: &Judgement,
    safely: bool,
) -> Option<(Advice, Table)> {
    let mut trying = Trying {
        record,
        index: Index::new(record),
        table: Table::parse(table.bytes()),
        findings: judgement.findings.clone(),
        forecast: judgement.forecast.clone(),
        steps: Vec::new(),
        safely,
    };
    // A root that is not found is mended in the boot loader.
    let without_root = judgement.forecast.outcome == Outcome::NoRoot && judgement.forecast.ended_by.is_some();
    if judgement.forecast.entries.len() > MAX_ENTRIES || without_root {
        return None;
    }
    while trying.steps.len() < MAX_STEPS {
        let Some(line) = trying.worst() else { break };
        if !trying.mend(line) {
            break;
        }
    }
    let Trying { steps, forecast, table, .. } = trying;
    let Forecast { outcome, stall_s, verdict, .. } = forecast;
    (!steps.is_empty()).then_some((Advice { steps, outcome, stall_s, verdict }, table))
}

struct Trying<'a> {
    record: &'a Record,
    index: Index<'a>,
    table: Table,
    findings: Vec<Finding>,
    forecast: Forecast,
    steps: Vec<RepairStep>,
    safely: bool,
}

/// Rules whose finding means that a line's options may stand elsewhere.
const GARBLED: [&str; 4] = ["field-shift", "field-count", "number-field", "smart-punctuation"];

/// A change to a line, and the table after it.
struct Candidate {
    effort: Effort,
    what: String,
    safe: bool,
    table: Table,
}

/// What a change leaves of what was asked for; less is better.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
enum Effort {
    /// The entry works.
    Mended,
    /// The the boot continues without it.
    GoesOn,
    /// It is asked for no more.
    GivenUp,
}

impl Trying<'_> {
    /// The line of the entry that hurts the boot most; one that only falls
    /// with another comes after that.
    fn worst(&self) -> Option<usize> {
        let hurts = |e: &&EntryForecast| matches!(e.consequence, Some(c) if c <= Consequence::Stall);
        let entries = self.forecast.entries.iter().filter(hurts);
        entries.min_by_key(|e| (e.consequence, e.because_of.is_some(), e.line)).map(|e| e.line)
    }

    /// Makes the change to the line that keeps most of what it asks for and
    /// leaves the best boot; of equal ones the first. Whether there was one.
    fn mend(&mut self, line: usize) -> bool {
        let now = score(&self.forecast);
        let boot =
            |table: &Table| forecast(self.record, &self.index, &requests(self.record, &self.index, table));
        let candidates = self.candidates(line).into_iter().filter(|c| c.safe || !self.safely);
        let tried = candidates.map(|c| (boot(&c.table), c));
        let helps = tried.filter(|(forecast, candidate)| {
            let entry = forecast.entries.iter().find(|e| e.line == line);
            let harmless = entry.is_none_or(|e| e.consequence.is_none_or(|c| c > Consequence::Stall));
            let there = candidate.effort > Effort::Mended || entry.is_some_and(|e| !e.state.is_absent());
            harmless && there && score(forecast) < now
        });
        let order = |(forecast, candidate): &(Forecast, Candidate)| (candidate.effort, score(forecast));
        let best = helps.min_by(|a, b| order(a).partial_cmp(&order(b)).unwrap_or(std::cmp::Ordering::Equal));
        let Some((_, candidate)) = best else { return false };
        let judged = judge(self.record, &candidate.table);
        self.steps.push(RepairStep {
            line,
            what: candidate.what,
            before: self.table.line_text(line),
            after: candidate.table.line_text(line),
            safe: candidate.safe,
        });
        self.table = candidate.table;
        (self.forecast, self.findings) = (judged.forecast, judged.findings);
        true
    }

    /// What might help a line, the smallest first: what findings offer, then
    /// going on without it, then not asking for it.
    fn candidates(&self, line: usize) -> Vec<Candidate> {
        let of_line = self.findings.iter().filter(|f| f.line == Some(line));
        // Of several that could be meant none is picked.
        let sure = |f: &&Finding| f.fixes.len() == 1 || f.fixes.iter().any(|fix| fix.safe);
        let garbled = self.findings.iter().any(|f| f.line == Some(line) && GARBLED.contains(&f.rule));
        let fixes = of_line.filter(sure).flat_map(|f| &f.fixes).filter_map(|fix| {
            let table = apply(&self.table, &fix.edits)?;
            Some(Candidate { effort: Effort::Mended, what: fix.title.clone(), safe: fix.safe, table })
        });
        let mut all: Vec<Candidate> = fixes.take(MAX_CANDIDATES).collect();
        // Words in the wrong fields: nobody knows where the options are.
        let nofail = with_options(&self.table, line, &["nofail".to_owned()], &[]).filter(|_| !garbled);
        let entry = self.forecast.entries.iter().find(|e| e.line == line);
        let without = match entry {
            Some(e) if e.target.starts_with('/') => {
                format!("add nofail, and the boot continues without {}", visible(&e.target))
            }
            _ => "add nofail".to_owned(),
        };
        let goes_on = |table| Candidate { effort: Effort::GoesOn, what: without, safe: true, table };
        all.extend(nofail.map(goes_on));
        let gone = switched_off(&self.table, line);
        let what = "make the line a comment".to_owned();
        all.extend(gone.map(|table| Candidate { effort: Effort::GivenUp, what, safe: false, table }));
        all
    }
}

/// How bad a boot is; less is better. Stopping is worse than any wait, a wait
/// worse than anything missing.
#[allow(clippy::cast_precision_loss)] // a count of entries
fn score(forecast: &Forecast) -> f64 {
    let stops = match forecast.outcome {
        Outcome::Up | Outcome::Partial | Outcome::NotKnown => 0.0,
        Outcome::Emergency => 1e12,
        Outcome::Never | Outcome::NoRoot => 2e12,
    };
    let count = |c: Consequence| forecast.entries.iter().filter(|e| e.consequence == Some(c)).count() as f64;
    let wait = forecast.stall_s.unwrap_or(1e6).min(1e6);
    stops
        + count(Consequence::Halt) * 1e9
        + (count(Consequence::Stall) + wait) * 1e3
        + count(Consequence::Missing)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::testing::{ROOT, host};

    fn advice(lines: &str) -> Option<Advice> {
        let record = host();
        let table = Table::parse(format!("{ROOT}{lines}"));
        advise(&record, &table, &judge(&record, &table))
    }

    #[test]
    fn a_name_that_is_nearly_right_is_corrected() {
        let advice = advice("LABEL=gaugse /srv/gauges xfs defaults 0 0\n").unwrap();
        assert_eq!(advice.steps.len(), 1);
        assert!(advice.steps[0].after.starts_with("LABEL=gauges "), "{advice:?}");
        assert_eq!((advice.outcome, advice.stall_s), (Outcome::Up, Some(0.0)));
    }

    #[test]
    fn a_lost_disk_need_not_stop_the_boot() {
        let advice =
            advice("UUID=00000000-1111-2222-3333-444444444444 /srv/far ext4 defaults 0 2\n").unwrap();
        assert_eq!(advice.steps[0].what, "add nofail, and the boot continues without /srv/far");
        assert_eq!((advice.outcome, advice.stall_s), (Outcome::Partial, Some(0.0)));
    }

    #[test]
    fn swap_that_is_lost_is_not_asked_for() {
        let line = "UUID=00000000-1111-2222-3333-444444444444 none swap sw 0 0\n";
        let advice = advice(line).unwrap();
        assert_eq!(advice.stall_s, Some(0.0), "{advice:?}");
    }

    #[test]
    fn a_sound_boot_needs_none() {
        assert_eq!(advice("LABEL=gauges /srv/gauges xfs defaults 0 0\n"), None);
    }
}
