//! Changes to a table in words: `line 4: +nofail`, `all: by uuid`, `align`.

use super::{By, align, entry_on, moved, name_by, ordered, set_field, switched_off, switched_on};
use super::{with_options, without_repeats};
use bradawl_facts::record::{Device, Record};
use bradawl_facts::table::{Entry, FieldName, Table};
use bradawl_resolve::{Index, Resolution, Source, best_identity};
use std::str::FromStr;

/// One change to a table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Change {
    /// `line 4: +nofail -discard`: options set and taken out.
    Options {
        /// The line, from 1.
        line: usize,
        /// Options to set.
        add: Vec<String>,
        /// Options to take out, by name or with their value.
        drop: Vec<String>,
    },
    /// `line 4: target /srv/b`: another text in a field.
    Field {
        /// The line, from 1.
        line: usize,
        /// The field.
        field: FieldName,
        /// Its new text, not escaped.
        text: String,
    },
    /// `line 4: by uuid`, `all: by uuid`: another name of the same device.
    Named {
        /// The line, from 1; `None`: every entry with a device that has one.
        line: Option<usize>,
        /// The sort of name.
        by: By,
    },
    /// `line 4: device /dev/vdb2`: the lasting name of another device.
    Device {
        /// The line, from 1.
        line: usize,
        /// Any name of the device.
        name: String,
    },
    /// `line 4: off`, `without line 4`: the entry becomes a comment.
    Off(usize),
    /// `line 4: on`: the entry in a comment counts again.
    On(usize),
    /// `line 4: before line 2`, `line 4: behind line 2`.
    Move {
        /// The line, from 1.
        line: usize,
        /// The other.
        to: usize,
        /// Whether it goes behind the other.
        behind: bool,
    },
    /// `/srv/b: +nofail`, `LABEL=a: off`, `swap: device /dev/vdc`: a change to
    /// the one entry that has this target or source.
    At {
        /// The target or source as it stands; `swap` for the swap entry.
        whom: String,
        /// What is asked for, as it would stand behind `line N:`.
        what: String,
    },
    /// `order`: entries behind those they are mounted on.
    Order,
    /// `align`: the fields in columns.
    Align,
    /// `drop repeats`: repeats of an entry become comments.
    DropRepeats,
}

/// Why a change cannot be made.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum EditError {
    /// It is none of the forms.
    #[error(
        "{0:?} is no change; one looks like \"line 4: +nofail -discard\", \"/srv/b: +nofail\", \"line 4: \
         off\", \"line 4: on\", \"line 4: target /srv/b\", \"line 4: device /dev/vdb2\", \"line 4: before line 2\", \"all: by \
         uuid\", \"order\", \"align\", \"drop repeats\""
    )]
    Form(String),
    /// It names a version, an init system, an initramfs or a release that is none.
    #[error("{0}")]
    Version(String),
    /// The table has no entry there.
    #[error("line {0} of the table holds no entry")]
    NoEntry(usize),
    /// No entry has the target or source.
    #[error("no entry of the table has {0} as its target or source")]
    NobodyAt(String),
    /// Several have.
    #[error("{whom} is named by lines {lines}: say which line is meant")]
    SeveralAt {
        /// The target or source.
        whom: String,
        /// The lines.
        lines: String,
    },
    /// Nothing there can be switched on.
    #[error("line {0} of the table holds no entry in a comment")]
    NothingOff(usize),
    /// The device of the entry is not known, or not the only one.
    #[error("the device of line {0} is not known")]
    NoDevice(usize),
    /// No device matches the name, or more than one.
    #[error("not exactly one device matches {0}")]
    NotOne(String),
    /// The device has no such name.
    #[error("{device} of line {line} has no {by} to be named by")]
    NoName {
        /// The line.
        line: usize,
        /// Path of the device.
        device: String,
        /// The word for the sort of name.
        by: &'static str,
    },
}

impl FromStr for Change {
    type Err = EditError;

    fn from_str(text: &str) -> Result<Self, EditError> {
        let form = || EditError::Form(text.to_owned());
        match text.trim() {
            "order" => return Ok(Change::Order),
            "align" => return Ok(Change::Align),
            "drop repeats" => return Ok(Change::DropRepeats),
            _ => {}
        }
        if let Some(number) = text.trim().strip_prefix("without line ") {
            return Ok(Change::Off(number.trim().parse().map_err(|_| form())?));
        }
        let (whom, what) = text.trim().split_once(':').ok_or_else(form)?;
        let what = what.trim();
        let by = |line| what.strip_prefix("by ").and_then(|by| Some((line, by.trim().parse().ok()?)));
        if whom.trim() == "all" {
            return by(None).map(|(line, by)| Change::Named { line, by }).ok_or_else(form);
        }
        let Some(number) = whom.trim().strip_prefix("line ") else {
            return at(text.trim()).ok_or_else(form);
        };
        let line = number.trim().parse().map_err(|_| form())?;
        if let Some((line, by)) = by(Some(line)) {
            return Ok(Change::Named { line, by });
        }
        to_line(line, what).ok_or_else(form)
    }
}

/// A change to the entry of this target or source, which may have colons itself.
fn at(text: &str) -> Option<Change> {
    let parts = text.match_indices(':').map(|(n, _)| (text[..n].trim(), text[n + 1..].trim()));
    let named = |whom: &str| whom == "swap" || whom.contains(['/', '=']);
    let mut fitting = parts.filter(|(whom, what)| named(whom) && on_line(1, what).is_some());
    fitting.next().map(|(whom, what)| Change::At { whom: whom.to_owned(), what: what.to_owned() })
}

/// What is to be done to one line, its name included.
fn on_line(line: usize, what: &str) -> Option<Change> {
    let by = what.strip_prefix("by ").and_then(|by| by.trim().parse().ok());
    by.map(|by| Change::Named { line: Some(line), by }).or_else(|| to_line(line, what))
}

/// The change with the line that its entry has in a table.
fn located(table: &Table, change: &Change) -> Result<Change, EditError> {
    let Change::At { whom, what } = change else { return Ok(change.clone()) };
    let tidy =
        |path: &str| if path.len() > 1 { path.trim_end_matches('/').to_owned() } else { path.to_owned() };
    let is_it = |e: &Entry| match whom.as_str() {
        "swap" => e.is_swap(),
        whom => tidy(&e.target) == tidy(whom) || e.source == whom,
    };
    let lines: Vec<usize> = table.entries().iter().filter(|e| is_it(e)).map(|e| e.line).collect();
    match lines.as_slice() {
        [line] => on_line(*line, what).ok_or_else(|| EditError::Form(format!("{whom}: {what}"))),
        [] => Err(EditError::NobodyAt(whom.clone())),
        several => {
            let lines: Vec<String> = several.iter().map(usize::to_string).collect();
            Err(EditError::SeveralAt { whom: whom.clone(), lines: lines.join(", ") })
        }
    }
}

/// The changes of a list that leave a table as it is, by their places in it.
///
/// # Errors
/// When a change names a line, a device or a name that is not there.
pub fn idle(record: &Record, table: &Table, changes: &[Change]) -> Result<Vec<usize>, EditError> {
    let mut idle = Vec::new();
    for (n, change) in changes.iter().enumerate() {
        if changed(record, table, std::slice::from_ref(change))? == *table {
            idle.push(n);
        }
    }
    Ok(idle)
}

/// What is to be done to one line.
fn to_line(line: usize, what: &str) -> Option<Change> {
    match what {
        "off" => return Some(Change::Off(line)),
        "on" => return Some(Change::On(line)),
        _ => {}
    }
    if what.starts_with(['+', '-']) {
        return options(line, what);
    }
    let (word, rest) = what.split_once(' ')?;
    let text = rest.trim().to_owned();
    let field = match word {
        "source" => FieldName::Source,
        "target" => FieldName::Target,
        "type" => FieldName::Type,
        "options" => FieldName::Options,
        "dump" => FieldName::Dump,
        "pass" => FieldName::Pass,
        "device" => return Some(Change::Device { line, name: text }),
        "before" | "behind" => {
            let to = text.strip_prefix("line ")?.trim().parse().ok()?;
            return Some(Change::Move { line, to, behind: word == "behind" });
        }
        _ => return None,
    };
    (!text.is_empty()).then_some(Change::Field { line, field, text })
}

fn options(line: usize, words: &str) -> Option<Change> {
    let (mut add, mut drop) = (Vec::new(), Vec::new());
    for word in words.split_whitespace() {
        let (list, options) = match (word.strip_prefix('+'), word.strip_prefix('-')) {
            (Some(options), _) => (&mut add, options),
            (_, Some(options)) => (&mut drop, options),
            _ => return None,
        };
        if options.is_empty() {
            return None;
        }
        list.extend(options.split(',').map(str::to_owned));
    }
    Some(Change::Options { line, add, drop })
}

/// The table after these changes. Lines keep the numbers they have in the
/// table that is given: whatever moves lines is done last.
///
/// # Errors
/// When a change names a line, a device or a name that is not there.
pub fn changed(record: &Record, table: &Table, changes: &[Change]) -> Result<Table, EditError> {
    let index = Index::new(record);
    let changes: Vec<Change> = changes.iter().map(|c| located(table, c)).collect::<Result<_, _>>()?;
    let mut table = Table::parse(table.bytes());
    let moves = |c: &&Change| matches!(c, Change::Move { .. } | Change::Order | Change::Align);
    for change in changes.iter().filter(|c| !moves(c)) {
        table = in_place(&index, &table, change)?;
    }
    // Where the lines of the table as given stand by now.
    let mut places: Vec<usize> = (1..=table.lines().len()).collect();
    for change in changes.iter().filter(moves) {
        table = match change {
            Change::Move { line, to, behind } => {
                let at = |n: usize| places.get(n.wrapping_sub(1)).copied().unwrap_or(0);
                let (from, to) = (at(*line), at(*to));
                let missing = if entry_on(&table, from).is_none() { *line } else { to };
                let better = moved(&table, from, to, *behind).ok_or(EditError::NoEntry(missing))?;
                places = followed(&table, &better, &places);
                better
            }
            Change::Order => ordered(&table),
            _ => align(&table),
        };
    }
    Ok(table)
}

/// Where lines stand after a move: equal lines keep their order.
fn followed(before: &Table, after: &Table, places: &[usize]) -> Vec<usize> {
    let mut taken = vec![false; after.lines().len()];
    let mut now = vec![0; before.lines().len()];
    for (n, line) in before.lines().iter().enumerate() {
        let same = |m: &usize| !taken[*m] && after.slice(after.lines()[*m].text) == before.slice(line.text);
        if let Some(m) = (0..after.lines().len()).find(same) {
            taken[m] = true;
            now[n] = m + 1;
        }
    }
    places.iter().map(|at| now.get(at.wrapping_sub(1)).copied().unwrap_or(0)).collect()
}

fn in_place(index: &Index<'_>, table: &Table, change: &Change) -> Result<Table, EditError> {
    let changed = match change {
        Change::Options { line, add, drop } => with_options(table, *line, add, drop),
        Change::Field { line, field, text } => set_field(table, *line, *field, text),
        Change::Off(line) => switched_off(table, *line),
        Change::On(line) => return switched_on(table, *line).ok_or(EditError::NothingOff(*line)),
        Change::DropRepeats => Some(without_repeats(table).0),
        Change::Named { line: Some(line), by } => return named(index, table, *line, *by),
        Change::Named { line: None, by } => return Ok(all_named(index, table, *by)),
        Change::Device { line, name } => {
            let device = only(index, &Source::parse(name)).ok_or_else(|| EditError::NotOne(name.clone()))?;
            let text = best_identity(device).unwrap_or_else(|| device.path.clone());
            set_field(table, *line, FieldName::Source, &text)
        }
        Change::Move { .. } | Change::Order | Change::Align | Change::At { .. } => {
            Some(Table::parse(table.bytes()))
        }
    };
    let line = match change {
        Change::Options { line, .. } | Change::Field { line, .. } | Change::Device { line, .. } => *line,
        Change::Off(line) => *line,
        _ => 0,
    };
    changed.ok_or(EditError::NoEntry(line))
}

fn named(index: &Index<'_>, table: &Table, line: usize, by: By) -> Result<Table, EditError> {
    let entry = entry_on(table, line).ok_or(EditError::NoEntry(line))?;
    let device = only(index, &Source::of(&entry)).ok_or(EditError::NoDevice(line))?;
    let name = name_by(device, by);
    let missing = EditError::NoName { line, device: device.path.clone(), by: by.word() };
    let name = name.ok_or(missing)?;
    set_field(table, line, FieldName::Source, &name).ok_or(EditError::NoEntry(line))
}

/// Every entry whose device has such a name gets it; the others stay.
fn all_named(index: &Index<'_>, table: &Table, by: By) -> Table {
    let lines: Vec<usize> = table.entries().iter().map(|e| e.line).collect();
    let start = Table::parse(table.bytes());
    lines.into_iter().fold(start, |table, line| named(index, &table, line, by).unwrap_or(table))
}

/// The device a source names, when it is the only one.
fn only<'a>(index: &Index<'a>, source: &Source) -> Option<&'a Device> {
    match index.resolve(source) {
        Resolution::Found(devices) if devices.len() == 1 => devices.first().copied(),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::testing::host;

    fn after(text: &str, changes: &[&str]) -> Result<String, EditError> {
        let changes: Vec<Change> = changes.iter().map(|c| c.parse()).collect::<Result<_, _>>()?;
        let table = changed(&host(), &Table::parse(text), &changes)?;
        Ok(String::from_utf8(table.bytes().to_vec()).unwrap())
    }

    #[test]
    fn forms_of_changes() {
        let own = |words: &[&str]| words.iter().map(|w| (*w).to_owned()).collect::<Vec<_>>();
        let options =
            |line, add: &[&str], drop: &[&str]| Ok(Change::Options { line, add: own(add), drop: own(drop) });
        assert_eq!("line 4: +nofail".parse(), options(4, &["nofail"], &[]));
        assert_eq!(" line 12: -discard +a=1,b".parse(), options(12, &["a=1", "b"], &["discard"]));
        assert_eq!("without line 4".parse(), Ok(Change::Off(4)));
        assert_eq!("line 3:before line 2".parse(), Ok(Change::Move { line: 3, to: 2, behind: false }));
        assert_eq!("all: by label".parse(), Ok(Change::Named { line: None, by: By::Label }));
        for text in
            ["", "line: +a", "line 4: a", "line 4: +", "without", "line x: +a", "all: off", "line 4: by x"]
        {
            assert!(matches!(text.parse::<Change>(), Err(EditError::Form(_))), "{text}");
        }
    }

    #[test]
    fn devices_get_lasting_names() {
        let table = "/dev/vdb  /srv/gauges xfs  defaults 0 0\ntmpfs /tmp tmpfs\n";
        let uuid = after(table, &["all: by uuid"]).unwrap();
        assert!(uuid.starts_with("UUID="), "{uuid}");
        assert_eq!(uuid.split_once(' ').unwrap().1, table.split_once(' ').unwrap().1);
        assert_eq!(
            after(table, &["line 1: by label"]).unwrap(),
            table.replacen("/dev/vdb", "LABEL=gauges", 1)
        );
        let none = after(table, &["line 1: by partuuid"]).unwrap_err();
        assert_eq!(none.to_string(), "/dev/vdb of line 1 has no partuuid to be named by");
        assert_eq!(after(table, &["line 2: by uuid"]), Err(EditError::NoDevice(2)));
        assert_eq!(after(table, &["line 7: off"]), Err(EditError::NoEntry(7)));
        assert!(after(table, &["line 2: device LABEL=gauges"]).unwrap().contains("\nUUID="));
    }

    #[test]
    fn entries_are_named_by_target_or_source() {
        let table = "LABEL=gauges /srv/gauges xfs\nLABEL=r none swap sw\nstore:/x /srv/x nfs ro\n";
        for (change, text) in [
            ("/srv/gauges: +nodev", "LABEL=gauges /srv/gauges xfs nodev\n"),
            ("/srv/gauges/: off", "# off: LABEL=gauges /srv/gauges xfs\n"),
            ("LABEL=gauges: by uuid", "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges xfs\n"),
            ("swap: +nofail", "LABEL=r none swap sw,nofail\n"),
            ("store:/x: +nofail", "store:/x /srv/x nfs ro,nofail\n"),
        ] {
            assert!(after(table, &[change]).unwrap().contains(text), "{change}");
        }
        assert_eq!(after(table, &["/srv/none: off"]), Err(EditError::NobodyAt("/srv/none".into())));
        let twice = "a /a xfs\na /b xfs\nx none swap\ny none swap\n";
        let several = EditError::SeveralAt { whom: "swap".into(), lines: "3, 4".into() };
        assert_eq!(after(twice, &["swap: off"]), Err(several));
    }

    #[test]
    fn what_does_nothing_is_known() {
        let table = Table::parse("LABEL=gauges /srv/gauges xfs noatime 0 0\n");
        let changes: Vec<Change> =
            ["line 1: +noatime", "line 1: +nodev", "all: by partlabel"].map(|c| c.parse().unwrap()).to_vec();
        assert_eq!(idle(&host(), &table, &changes), Ok(vec![0, 2]));
    }

    #[test]
    fn lines_keep_their_numbers_while_others_move() {
        let table = "a /a xfs\nb /b xfs\nc /c xfs\n";
        let text = after(table, &["line 3: before line 1", "line 1: before line 3", "line 2: +ro"]).unwrap();
        assert_eq!(text, "a /a xfs\nc /c xfs\nb /b xfs ro\n");
    }
}
