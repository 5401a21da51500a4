//! What the page of many hosts holds of each: every text and every finding once,
//! however many hosts share it, and numbers in their place. The page's script reads
//! it; nothing else does.

use super::HostOf;
use super::because;
use crate::views::audit::Audited;
use crate::views::found::Found;
use bradawl_boot::{EntryState, Forecast};
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;
use serde::Serialize;
use std::cmp::Reverse;
use std::collections::HashMap;

/// Columns of the matrix: the targets that most hosts have.
const MAX_TARGETS: usize = 24;
/// Moments of one boot at most.
const MAX_EVENTS: usize = 40;

/// A text, by its place among all.
type Word = usize;

/// Texts, each kept once.
#[derive(Default)]
struct Words {
    places: HashMap<String, Word>,
}

impl Words {
    fn of(&mut self, text: &str) -> Word {
        if let Some(place) = self.places.get(text) {
            return *place;
        }
        let place = self.places.len();
        self.places.insert(text.to_owned(), place);
        place
    }

    fn in_order(self) -> Vec<String> {
        let mut all: Vec<(Word, String)> = self.places.into_iter().map(|(text, n)| (n, text)).collect();
        all.sort_unstable();
        all.into_iter().map(|(_, text)| text).collect()
    }
}

/// A finding in words: consequence, rule, line (0: none), target, what, why, what to
/// do, the line now and then (equal: no change).
type FoundInWords = [usize; 9];

/// All hosts, taken in one by one.
#[derive(Default)]
pub struct Gathering {
    words: Words,
    found: HashMap<FoundInWords, usize>,
    rows: HashMap<String, Vec<Row>>,
    /// How many hosts have it, and on how many it is not as asked for.
    targets: HashMap<Word, (usize, usize)>,
}

/// What is kept of one host.
struct Row {
    page: Option<String>,
    because: Word,
    repair: Word,
    states: Vec<(Word, EntryState)>,
    found: Vec<usize>,
    moments: Vec<[Word; 2]>,
}

impl Gathering {
    /// Takes in a host; `page`: its own page, from this one.
    pub fn add(&mut self, audited: &Audited, forecast: &Forecast, page: Option<String>) {
        let audit = &audited.audit;
        let states = forecast.entries.iter().map(|e| {
            let is_swap = e.unit.as_deref().is_some_and(|u| u.ends_with(".swap"));
            let target = if is_swap { "swap".into() } else { visible(&e.target) };
            (self.words.of(&target), e.state)
        });
        let states: Vec<(Word, EntryState)> = states.collect();
        for (target, state) in &states {
            let (all, bad) = self.targets.entry(*target).or_default();
            *all += 1;
            *bad += usize::from(state.is_absent() || *state == EntryState::Unknown);
        }
        let found = audit.findings.iter().map(|f| Found::of(f, audited)).collect::<Vec<_>>();
        let found = found.iter().map(|f| self.found(f)).collect();
        // The boot of a host that comes back in time with everything tells nothing.
        let told = forecast.events.iter().take(if tells(forecast) { MAX_EVENTS } else { 0 });
        let moments = told.map(|e| {
            let what = format!("{}: {}", visible(&e.unit), visible(&e.what));
            [self.words.of(&seconds(Some(e.at_s.max(0.0)))), self.words.of(&what)]
        });
        let moments = moments.collect();
        let steps = audit.advice.iter().flat_map(|a| &a.steps);
        let steps: Vec<String> = steps.map(|s| format!("line {}: {}", s.line, visible(&s.what))).collect();
        let row = Row {
            page,
            because: self.words.of(&because(audit)),
            repair: self.words.of(&steps.join("; ")),
            states,
            found,
            moments,
        };
        self.rows.entry(audit.host.clone()).or_default().push(row);
    }

    fn found(&mut self, f: &Found) -> usize {
        let (now, then) = f.change.as_ref().map_or(("", ""), |(now, then)| (now, then));
        let mut word = |text: &str| self.words.of(text);
        let found = [
            word(f.class),
            word(f.rule),
            f.line.unwrap_or_default(),
            word(&f.target),
            word(&f.message),
            word(&f.why),
            word(&f.remedy),
            word(now),
            word(then),
        ];
        let next = self.found.len();
        *self.found.entry(found).or_insert(next)
    }

    /// The page's data, of hosts in this order; and of the lost ones, why and what helps.
    pub fn data(mut self, hosts: &[HostOf]) -> (Data, Vec<Reason>) {
        let targets = self.common_targets();
        let (mut lines, mut reasons) = (Vec::with_capacity(hosts.len()), Vec::new());
        for host in hosts {
            let Some(row) = self.rows.get_mut(&host.name).and_then(Vec::pop) else { continue };
            let cell = |target: &Word| {
                let states = row.states.iter().filter(|(t, _)| t == target).map(|(_, state)| *state);
                states.map(letter).max().map_or('.', |(_, letter)| letter)
            };
            let cells = targets.iter().map(cell).collect();
            if host.state == "lost" {
                reasons.push(Reason { because: row.because, repair: row.repair, page: row.page.clone() });
            }
            let name = visible(&host.name).into_owned();
            let words = [&host.role, host.state, &host.wait, &host.verdict];
            let words = words.map(|text| self.words.of(text));
            lines.push((name, row.page, words, cells, row.found, row.moments));
        }
        let mut found: Vec<(usize, FoundInWords)> = self.found.into_iter().map(|(f, n)| (n, f)).collect();
        found.sort_unstable();
        let found = found.into_iter().map(|(_, f)| f).collect();
        (Data { words: self.words.in_order(), found, targets, hosts: lines }, reasons)
    }

    /// Those on which something is wrong first, then by name.
    fn common_targets(&self) -> Vec<Word> {
        let mut all: Vec<(Word, (usize, usize))> = self.targets.iter().map(|(t, n)| (*t, *n)).collect();
        all.sort_unstable_by_key(|(target, (hosts, bad))| (Reverse(*bad), Reverse(*hosts), *target));
        all.truncate(MAX_TARGETS);
        let names: HashMap<Word, &str> =
            self.words.places.iter().map(|(text, n)| (*n, text.as_str())).collect();
        all.sort_unstable_by_key(|(target, (_, bad))| (Reverse(*bad), names[target]));
        all.into_iter().map(|(target, _)| target).collect()
    }
}

/// Whether the moments of a boot tell anything.
fn tells(forecast: &Forecast) -> bool {
    !forecast.outcome.reaches_login()
        || forecast.stall_s.is_none_or(|s| s > 0.0)
        || forecast.entries.iter().any(|e| e.state.is_absent())
}

/// How bad the end of an entry is, and its letter in the data.
fn letter(state: EntryState) -> (u8, char) {
    match state {
        EntryState::Mounted | EntryState::Active => (0, 'u'),
        EntryState::OnAccess => (1, 'a'),
        EntryState::Manual => (1, 'h'),
        EntryState::Unknown => (2, 'k'),
        EntryState::Ignored => (3, 'i'),
        EntryState::Blocked => (4, 'b'),
        EntryState::Failed => (5, 'f'),
        EntryState::TimedOut => (6, 'd'),
    }
}

/// Why a host is lost, and the smallest repair.
pub struct Reason {
    because: Word,
    repair: Word,
    /// Its own page.
    pub page: Option<String>,
}

impl Reason {
    /// Both in words; no repair where nothing in its table helps.
    pub fn told(&self, data: &Data) -> (String, Option<String>) {
        let repair = data.words[self.repair].clone();
        (data.words[self.because].clone(), Some(repair).filter(|r| !r.is_empty()))
    }
}

/// A host: name, page, words (role, state, wait, verdict), cells, findings, moments.
type Line = (String, Option<String>, [Word; 4], String, Vec<usize>, Vec<[Word; 2]>);

/// What stands in the page.
#[derive(Serialize)]
pub struct Data {
    words: Vec<String>,
    found: Vec<FoundInWords>,
    targets: Vec<Word>,
    hosts: Vec<Line>,
}

impl Data {
    /// As JSON that can stand in a page: nothing in it ends the element.
    pub fn json(&self) -> serde_json::Result<String> {
        Ok(serde_json::to_string(self)?.replace('<', "\\u003c"))
    }
}
