//! Words put into the six fields.

use super::words::{Words, in_memory, is_number, is_options, is_path, is_source, is_type, type_meant};
use super::{Known, Slip};
use bradawl_catalogue::fstypes::{known, waits_for_network};
use bradawl_facts::table::FieldName;

/// The six fields as they were meant.
#[derive(Debug, Clone, Default)]
pub(super) struct Arranged {
    pub source: String,
    pub target: String,
    fstype: String,
    options: String,
    dump: String,
    pass: String,
    /// What was done to get there.
    pub slips: Vec<Slip>,
    /// Whether nothing in it is a guess.
    pub certain: bool,
}

impl Arranged {
    fn fields(&self) -> Fields<'_> {
        Fields {
            source: &self.source,
            target: &self.target,
            fstype: &self.fstype,
            options: &self.options,
            dump: &self.dump,
            pass: &self.pass,
        }
    }

    /// The line, its fields separated so.
    pub fn line(&self, by: &str) -> String {
        let f = self.fields();
        [f.source, f.target, f.fstype, f.options, f.dump, f.pass].join(by)
    }
}

/// Six fields, whoever holds their words.
pub(super) struct Fields<'w> {
    source: &'w str,
    target: &'w str,
    fstype: &'w str,
    options: &'w str,
    dump: &'w str,
    pass: &'w str,
}

impl<'w> Fields<'w> {
    /// The words of a line as they stand; `None` with fewer than two.
    pub fn written(words: &[&'w str]) -> Option<Self> {
        let word = |n: usize, unsaid| words.get(n).copied().unwrap_or(unsaid);
        (words.len() >= 2).then(|| Fields {
            source: words[0],
            target: words[1],
            fstype: word(2, "auto"),
            options: word(3, "defaults"),
            dump: word(4, "0"),
            pass: word(5, "0"),
        })
    }

    /// Whether each field holds what belongs there.
    pub fn makes_sense(&self, facts: Known<'_>) -> bool {
        let shown = || self.options.split(',').any(|o| matches!(o, "bind" | "rbind" | "loop" | "remount"));
        let kind = known(self.fstype);
        let swap = self.fstype == "swap";
        let source = is_source(self.source)
            || facts.is_there(self.source)
            || (is_path(self.source) && (swap || !kind.is_some_and(|t| t.is_on_device()) || shown()))
            || (!self.source.starts_with(['/', '\\']) && !self.source.contains('='));
        let target = self.target.starts_with('/') || swap;
        let odd = type_meant(self.fstype).is_some() || self.fstype.ends_with(',');
        let options = kind.is_none() || is_options(self.options);
        let numbers = self.options.split(',').any(is_number);
        // Mount programs of these read no addresses of that form.
        let network = matches!(self.fstype, "nfs" | "nfs4" | "cifs" | "smb3");
        source
            && !(network && self.source.contains("://"))
            && !numbers
            && target
            && !odd
            && (kind.is_some() || is_type(self.fstype))
            && options
            && !self.options.contains(';')
            && is_number(self.dump)
            && is_number(self.pass)
            && !self.numbers_swapped()
    }

    /// Whether the check's order stands in the fifth field.
    fn numbers_swapped(&self) -> bool {
        self.dump == "2" && self.pass == "0" && known(self.fstype).is_some_and(|t| t.checked)
    }
}

/// A word, and what became of it.
struct Place<'w> {
    word: &'w str,
    used: bool,
}

/// Puts every word into a field; `None` when one of them fits nowhere.
pub(super) fn arrange(facts: Known<'_>, mut words: Words) -> Option<Arranged> {
    let mut entry = Arranged { certain: true, ..Arranged::default() };
    let mut numbers = Vec::new();
    while words.len() > 2 && words.last().is_some_and(|w| is_number(w)) && numbers.len() < 2 {
        numbers.extend(words.pop());
    }
    numbers.reverse();
    entry.dump = numbers.first().cloned().unwrap_or_else(|| "0".to_owned());
    entry.pass = numbers.get(1).cloned().unwrap_or_else(|| "0".to_owned());
    let mut places: Vec<Place<'_>> = words.iter().map(|word| Place { word, used: false }).collect();
    let at_type = type_at(&words);
    if let Some(at) = at_type {
        places[at].used = true;
    }
    let at_source = source_at(&words, at_type)?;
    match at_source {
        Some(at) => {
            entry.source = plain(&words[at], facts);
            places[at].used = true;
        }
        None => {
            entry.source = at_type.map(|at| words[at].clone())?;
            entry.slips.push(Slip::NoSource);
        }
    }
    let swap = at_type.is_some_and(|at| words[at] == "swap");
    let at_target = (0..words.len()).find(|n| !places[*n].used && is_target(&words[*n], swap));
    match at_target {
        Some(at) => {
            entry.target = words[at].clone();
            places[at].used = true;
        }
        None if swap => {
            entry.target = "none".to_owned();
            entry.slips.push(Slip::NoTarget);
        }
        None => return None,
    }
    let pieces = at_type.filter(|at| words[at + 1..].iter().any(|w| is_options(w)));
    join_torn(facts, &mut entry, &mut places, (at_source, at_target), pieces);
    // A word that is no type may be a type misspelt.
    if at_type.is_none() && entry.slips.iter().any(|s| matches!(s, Slip::Torn(_))) {
        return None;
    }
    take_options(&mut entry, &mut places)?;
    take_type(facts, &mut entry, at_type.map(|at| words[at].as_str()));
    order(&mut entry, [at_source, at_target, at_type]);
    if entry.fields().numbers_swapped() {
        std::mem::swap(&mut entry.dump, &mut entry.pass);
        entry.slips.push(Slip::NumbersSwapped);
    }
    entry.fields().makes_sense(facts).then_some(entry)
}

fn is_target(word: &str, swap: bool) -> bool {
    is_path(word) || word.starts_with("/dev/shm") || (swap && matches!(word, "none" | "swap"))
}

/// Where the type stands: in its place if it can be one, else the first word
/// that can.
fn type_at(words: &[String]) -> Option<usize> {
    let swap = words.get(2).is_some_and(|w| w == "none") && !words.iter().any(|w| w.contains("bind"));
    if let Some(at) = words.iter().position(|w| w == "swap").filter(|_| swap) {
        return Some(at);
    }
    if words.get(2).is_some_and(|w| is_type(w)) {
        return Some(2);
    }
    let can = |n: &usize| is_type(&words[*n]) && !is_options_too(words, *n);
    let mut all = (0..words.len()).filter(can).filter(|n| words[*n] != "none");
    let first = all.next()?;
    // The first word is a source where another can be the type.
    if first == 0 { all.next().or(Some(0)) } else { Some(first) }
}

/// Whether a word that names a type is an option where it stands.
fn is_options_too(words: &[String], at: usize) -> bool {
    matches!(words[at].as_str(), "auto" | "bind" | "rbind") && at > 2
}

/// Where the source stands; `Some(None)` when there is none and none is
/// needed.
#[allow(clippy::option_option)] // there is none, and that is right
fn source_at(words: &[String], at_type: Option<usize>) -> Option<Option<usize>> {
    let free = |n: &usize| Some(*n) != at_type;
    if let Some(at) = (0..words.len()).filter(free).find(|n| is_source(&words[*n])) {
        return Some(Some(at));
    }
    let paths = (0..words.len()).filter(|n| is_path(&words[*n])).count();
    let memory = at_type.is_some_and(|at| in_memory(&words[at]));
    let swap = at_type.is_some_and(|at| words[at] == "swap");
    match words.first() {
        Some(first) if swap && is_path(first) => Some(Some(0)),
        Some(first) if at_type != Some(0) && !is_path(first) && !is_options(first) => Some(Some(0)),
        Some(_) if paths >= 2 => Some((0..words.len()).find(|n| is_path(&words[*n]))),
        _ if memory => Some(None),
        _ => None,
    }
}

/// A source without quotes.
fn plain(word: &str, facts: Known<'_>) -> String {
    let bare = word.replace(['"', '\''], "");
    if word == bare || facts.is_there(word) { word.to_owned() } else { bare }
}

/// Words behind a source or target that fit nowhere else belong to it: a blank
/// tore them off. Before `pieces_to` no options stand.
fn join_torn(
    facts: Known<'_>,
    entry: &mut Arranged,
    places: &mut [Place<'_>],
    (source, target): (Option<usize>, Option<usize>),
    pieces_to: Option<usize>,
) {
    let torn = |field: &mut String, places: &mut [Place<'_>], at: usize| {
        let start = field.len();
        for (n, place) in places.iter_mut().enumerate().skip(at + 1) {
            let piece = pieces_to.is_some_and(|to| n < to);
            let free = !place.used
                && (piece || !is_options(place.word))
                && !is_type(place.word)
                && !is_path(place.word)
                && !is_source(place.word);
            if !free {
                break;
            }
            place.used = true;
            *field = format!("{}\\040{}", field.trim_end_matches('\\'), place.word.replace(['"', '\''], ""));
        }
        field.len() > start
    };
    if let Some(at) = source
        && torn(&mut entry.source, places, at)
    {
        entry.certain &= facts.is_there(&entry.source);
        entry.slips.push(Slip::Torn(FieldName::Source));
    }
    if let Some(at) = target
        && torn(&mut entry.target, places, at)
    {
        entry.certain = false;
        entry.slips.push(Slip::Torn(FieldName::Target));
    }
}

/// The words that are left are options, or there is no sense in the line.
fn take_options(entry: &mut Arranged, places: &mut [Place<'_>]) -> Option<()> {
    let left: Vec<&str> = places.iter().filter(|p| !p.used).map(|p| p.word).collect();
    if !left.iter().all(|w| is_options(w)) {
        return None;
    }
    if left.len() > 1 {
        entry.slips.push(Slip::Torn(FieldName::Options));
    }
    let all: Vec<&str> = left.iter().flat_map(|w| w.split(',')).filter(|o| !o.is_empty()).collect();
    let spoken = |o: &&&str| **o != "defaults";
    let said: Vec<&str> = match left.len() {
        1 => all,
        _ => all.iter().filter(spoken).copied().collect(),
    };
    entry.options = said.join(",");
    Some(())
}

/// The type as it is written, as it is called, or as it follows from the
/// source.
fn take_type(facts: Known<'_>, entry: &mut Arranged, written: Option<&str>) {
    let shown = entry.options.split(',').any(|o| matches!(o, "bind" | "rbind"));
    let Some(written) = written else {
        entry.fstype = match entry.source.as_str() {
            _ if shown => "none".to_owned(),
            source if source.starts_with("//") => "cifs".to_owned(),
            source if source.contains(":/") => "nfs".to_owned(),
            source => facts.held(source).unwrap_or_else(|| "auto".to_owned()),
        };
        entry.slips.push(Slip::NoType);
        return no_options(entry);
    };
    match type_meant(written) {
        Some(meant) => {
            let word = written.to_ascii_lowercase();
            entry.slips.push(Slip::TypeName(written.to_owned(), meant));
            meant.clone_into(&mut entry.fstype);
            let also = match word.as_str() {
                "bind" | "rbind" => word.as_str(),
                "nfs3" => "vers=3",
                _ => "",
            };
            add(&mut entry.options, also);
        }
        None => written.clone_into(&mut entry.fstype),
    }
    no_options(entry);
}

fn add(options: &mut String, also: &str) {
    if also.is_empty() || options.split(',').any(|o| o == also) {
        return;
    }
    *options = match options.as_str() {
        "" | "defaults" => also.to_owned(),
        _ => format!("{also},{options}"),
    };
}

fn no_options(entry: &mut Arranged) {
    if entry.options.is_empty() {
        "defaults".clone_into(&mut entry.options);
        entry.slips.push(Slip::NoOptions);
    }
}

/// Notes when source, target and type do not stand one behind the other.
fn order(entry: &mut Arranged, at: [Option<usize>; 3]) {
    let there: Vec<usize> = at.into_iter().flatten().collect();
    if !there.is_sorted() {
        entry.slips.push(Slip::Order);
    }
    // What waits for the network must not be guessed from a stray colon.
    if at[2].is_none() && waits_for_network(&entry.fstype) {
        entry.certain = false;
    }
}
