//! A layout laid on one host's table.

use super::{Layout, LayoutEntry, LayoutSource};
use crate::draft::{Draft, DraftWishes, draft, once_made};
use crate::edit::{Change, changed, insert};
use crate::mend::worse;
use crate::steps::Step;
use bradawl_facts::path::tidy;
use bradawl_facts::record::Record;
use bradawl_facts::table::{Entry, FieldName, Table};
use bradawl_judgement::{Against, Judgement, judge_against};
use bradawl_resolve::{Index, Resolution, Source};

/// What came of it.
#[derive(Debug)]
pub struct Laid {
    /// The table afterwards; as it was where the host is refused.
    pub table: Table,
    /// What is done, target by target.
    pub changes: Vec<LaidChange>,
    /// What is to be done on the host before the table counts.
    pub steps: Vec<Step>,
    /// The boot and the findings before.
    pub before: Judgement,
    /// The same afterwards.
    pub after: Judgement,
    /// What gets worse; with any, the table is left alone.
    pub worse: Vec<String>,
}

impl Laid {
    /// The lines of the table that do what the layout asks for.
    pub fn lines(&self) -> Vec<usize> {
        let stands =
            |c: &&LaidChange| matches!(c.state, LaidState::Kept | LaidState::Added | LaidState::Changed);
        let asked: Vec<&str> = self.changes.iter().filter(stands).map(|c| c.target.as_str()).collect();
        let is_asked = |e: &Entry| match e.is_swap() {
            true => asked.contains(&"none"),
            false => asked.iter().any(|target| tidy(target) == tidy(&e.target)),
        };
        self.table.entries().iter().filter(|e| is_asked(e)).map(|e| e.line).collect()
    }
}

/// What is done about one target.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LaidChange {
    /// The target; `none` for swap.
    pub target: String,
    /// What is done.
    pub state: LaidState,
    /// Why it cannot be done; null: it can.
    pub why: Option<String>,
}

/// What is done about a target.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum LaidState {
    /// Its entry is as it should be.
    Kept,
    /// Its entry is new.
    Added,
    /// Its entry is changed.
    Changed,
    /// Its entry is switched off.
    SwitchedOff,
    /// The host does not tell which device is meant, or it cannot be done.
    Unresolved,
}

/// Lays a layout on a host's table.
pub fn lay(record: &Record, table: &Table, layout: &Layout, against: &Against<'_>) -> Laid {
    let before = judge_against(record, table, against);
    let mut work = Work {
        record: record.clone(),
        table: Table::parse(table.bytes()),
        changes: Vec::new(),
        steps: Vec::new(),
    };
    for absent in layout.absent.iter().filter(|a| a.whom.fits(record)) {
        work.switch_off(&absent.target);
    }
    layout.entries_for(record).iter().for_each(|entry| work.entry(entry));
    let after = judge_against(&work.record, &work.table, against);
    let worse = worse(&before, &after);
    let refused = !worse.is_empty();
    let table = if refused { Table::parse(table.bytes()) } else { work.table };
    Laid { table, changes: work.changes, steps: work.steps, before, after, worse }
}

struct Work {
    /// The host as it will be once the steps are done.
    record: Record,
    table: Table,
    changes: Vec<LaidChange>,
    steps: Vec<Step>,
}

impl Work {
    fn note(&mut self, target: &str, state: LaidState, why: Option<String>) {
        self.changes.push(LaidChange { target: target.to_owned(), state, why });
    }

    fn switch_off(&mut self, target: &str) {
        let there = |e: &Entry| !e.is_swap() && tidy(&e.target) == tidy(target);
        let lines: Vec<Change> =
            self.table.entries().iter().filter(|e| there(e)).map(|e| Change::Off(e.line)).collect();
        if lines.is_empty() {
            return;
        }
        match changed(&self.record, &self.table, &lines) {
            Ok(table) => {
                self.table = table;
                self.note(target, LaidState::SwitchedOff, None);
            }
            Err(e) => self.note(target, LaidState::Unresolved, Some(e.to_string())),
        }
    }

    fn entry(&mut self, wanted: &LayoutEntry) {
        if let Some(word) = open_word(wanted) {
            let why = format!("{word} stands for nothing on this host");
            return self.note(&wanted.target, LaidState::Unresolved, Some(why));
        }
        let swap = wanted.target == "none";
        let there = |work: &Self, source: Option<&str>| {
            let all = work.table.entries();
            all.into_iter().find(|e| match swap {
                true => e.is_swap() && source.is_none_or(|s| work.same_device(&e.source, s)),
                false => !e.is_swap() && tidy(&e.target) == tidy(&wanted.target),
            })
        };
        // What it holds now needs no search where an entry has it.
        let now = there(self, None);
        if let Some(entry) = now.filter(|e| self.has_its_device(e, &wanted.source)) {
            return self.bring(wanted, &entry, Vec::new());
        }
        let source = match &wanted.source {
            LayoutSource::Named(name) => Ok(name.clone()),
            LayoutSource::Present => self
                .mounted_now(&wanted.target)
                .ok_or_else(|| "nothing is mounted there now, and no entry has it".to_owned()),
            LayoutSource::Device(device) => device.find(&self.record).map(|d| d.path.clone()),
        };
        let source = match source {
            Ok(source) => source,
            Err(why) => return self.note(&wanted.target, LaidState::Unresolved, Some(why)),
        };
        let wishes = DraftWishes {
            source,
            target: wanted.target.clone(),
            purpose: wanted.purpose,
            required: wanted.required,
            options: wanted.options.clone(),
            fstype: wanted.fstype.clone(),
            fresh_uuid: Some(uuid_of(&self.record.host.name, &wanted.target)),
            ..DraftWishes::default()
        };
        let drafted = match draft(&self.record, &wishes) {
            Ok(drafted) => drafted,
            Err(e) => return self.note(&wanted.target, LaidState::Unresolved, Some(e.to_string())),
        };
        let Some(entry) = there(self, Some(&drafted.entry.source)) else { return self.add(wanted, drafted) };
        let source =
            |text: &str| Change::Field { line: entry.line, field: FieldName::Source, text: text.to_owned() };
        let differs = !self.same_device(&entry.source, &drafted.entry.source);
        let changes = differs.then(|| source(&drafted.entry.fields()[0]));
        self.bring(wanted, &entry, changes.into_iter().collect());
    }

    fn add(&mut self, wanted: &LayoutEntry, drafted: Draft) {
        let mut fresh = drafted.entry.clone();
        fresh.comment = Some(match &fresh.comment {
            Some(comment) => format!("layout: {comment}"),
            None => "layout".to_owned(),
        });
        self.table = insert(&self.table, &fresh).0;
        self.record = once_made(&self.record, &drafted);
        self.steps.extend(drafted.before);
        self.note(&wanted.target, LaidState::Added, None);
    }

    /// Brings an entry to the type and the options that are wanted.
    fn bring(&mut self, wanted: &LayoutEntry, entry: &Entry, mut changes: Vec<Change>) {
        let line = entry.line;
        if let Some(fstype) = wanted.fstype.as_ref().filter(|fstype| **fstype != entry.fstype) {
            changes.push(Change::Field { line, field: FieldName::Type, text: fstype.clone() });
        }
        let has = |option: &String| match option.split_once('=') {
            Some((name, value)) => entry.option(name).and_then(|o| o.value.as_deref()) == Some(value),
            None => entry.has(option),
        };
        let add: Vec<String> = wanted.options.iter().filter(|o| !has(o)).cloned().collect();
        if !add.is_empty() {
            changes.push(Change::Options { line, add, drop: Vec::new() });
        }
        if changes.is_empty() {
            return self.note(&wanted.target, LaidState::Kept, None);
        }
        match changed(&self.record, &self.table, &changes) {
            Ok(table) => {
                self.table = table;
                self.note(&wanted.target, LaidState::Changed, None);
            }
            Err(e) => self.note(&wanted.target, LaidState::Unresolved, Some(e.to_string())),
        }
    }

    /// Whether an entry names the device that is meant already.
    fn has_its_device(&self, entry: &Entry, source: &LayoutSource) -> bool {
        match source {
            LayoutSource::Named(_) => false,
            LayoutSource::Present => true,
            LayoutSource::Device(device) => {
                match Index::new(&self.record).resolve(&Source::parse(&entry.source)) {
                    Resolution::Found(found) => found.iter().any(|d| device.is(&self.record, d)),
                    _ => false,
                }
            }
        }
    }

    /// The device that is mounted on a target now; for swap the active one.
    fn mounted_now(&self, target: &str) -> Option<String> {
        if target == "none" {
            return self.record.swaps.iter().flatten().next().map(|s| s.path.clone());
        }
        let mut mounts = self.record.mounts.iter().flatten();
        mounts.rfind(|m| m.target == target).map(|m| m.source.clone())
    }

    /// Whether two sources are the same device on this host, or the same words.
    fn same_device(&self, one: &str, other: &str) -> bool {
        if one == other {
            return true;
        }
        let index = Index::new(&self.record);
        let found = |source: &str| match index.resolve(&Source::parse(source)) {
            Resolution::Found(devices) => devices.first().map(|d| d.path.clone()),
            _ => None,
        };
        found(one).is_some_and(|path| found(other) == Some(path))
    }
}

/// A word in braces that was not replaced.
fn open_word(entry: &LayoutEntry) -> Option<&str> {
    let named = match &entry.source {
        LayoutSource::Named(name) => Some(name.as_str()),
        _ => None,
    };
    let texts = [Some(entry.target.as_str()), named, entry.fstype.as_deref()];
    texts.into_iter().flatten().chain(entry.options.iter().map(String::as_str)).find_map(word_in)
}

/// The first word in braces of a text, braces and all.
pub(super) fn word_in(text: &str) -> Option<&str> {
    let start = text.find('{')?;
    let end = start + text[start..].find('}')?;
    let plain = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_');
    (end > start + 1 && text[start + 1..end].chars().all(plain)).then(|| &text[start..=end])
}

/// The UUID of what a layout has made on a host: the same at every run.
fn uuid_of(host: &str, target: &str) -> String {
    let hash = |seed: u64| {
        let bytes = host.bytes().chain([0]).chain(target.bytes());
        bytes.fold(seed, |h, b| (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3))
    };
    let (a, b) = (hash(0xcbf2_9ce4_8422_2325), hash(0x9ae1_6a3b_2f90_404f));
    // Version 8, of one's own making (RFC 9562).
    format!(
        "{:08x}-{:04x}-8{:03x}-a{:03x}-{:012x}",
        a >> 32,
        (a >> 16) & 0xffff,
        a & 0xfff,
        b >> 52,
        b & 0xffff_ffff_ffff
    )
}
