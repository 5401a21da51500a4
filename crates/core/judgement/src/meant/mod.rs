//! What the writer of a line meant, where its words stand in the wrong fields:
//! each word is put where it makes sense, and the line is only rewritten when
//! all of them do.

mod arrange;
mod slips;
mod words;

use arrange::{Fields, arrange};
use bradawl_facts::table::FieldName;
use bradawl_resolve::{Index, Resolution, Source};
use slips::STEPS;
use smallvec::SmallVec;
use words::Words;

/// In longer lines nothing is looked for.
const MAX_BYTES: usize = 4096;
const MAX_WORDS: usize = 40;

/// What happened to a line on its way into the table.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) enum Slip {
    /// It is a mount command.
    Command,
    /// It is what mount prints.
    Shown,
    /// It comes from a list of devices.
    Listing,
    /// Blanks are written as `\t`.
    WrittenTab,
    /// The fields are separated by commas.
    Commas,
    /// A tag is separated from its value.
    TornTag,
    /// A blank within a field.
    Torn(FieldName),
    /// The options stand in brackets.
    Brackets,
    /// A comma behind the type or before the options.
    StrayComma,
    /// A flag of the mount command stands among the fields.
    Flag(String),
    /// Options are separated by something else than commas.
    Separator(char),
    /// A blank is missing between two fields.
    Glued(String),
    /// Two entries on one line; where the second belongs.
    TwoEntries(String),
    /// A share with backslashes.
    Backslashes,
    /// The words stand in another order than fields do.
    Order,
    /// There is no type.
    NoType,
    /// There are no options, and a number stands in their place.
    NoOptions,
    /// There is no source.
    NoSource,
    /// There is no target.
    NoTarget,
    /// The word in the type field is no type, and what it means is known.
    TypeName(String, &'static str),
    /// The fifth and the sixth field are swapped.
    NumbersSwapped,
}

/// The line as it was meant.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Meant {
    /// What happened, the cause first.
    pub slip: Slip,
    /// The finished line, or two.
    pub text: String,
    /// Whether everything in it is known to be there.
    pub certain: bool,
}

/// The facts by which words are told apart.
#[derive(Clone, Copy)]
pub(crate) struct Known<'a> {
    pub index: &'a Index<'a>,
}

impl Known<'_> {
    /// The type of what a source names, where that is known.
    fn held(&self, source: &str) -> Option<String> {
        match self.index.resolve(&Source::parse(&decoded(source))) {
            Resolution::Found(devices) => devices.first()?.content.as_ref()?.fstype.clone(),
            _ => None,
        }
    }

    /// Whether a device matches a source.
    fn is_there(&self, source: &str) -> bool {
        matches!(self.index.resolve(&Source::parse(&decoded(source))), Resolution::Found(_))
    }
}

fn decoded(word: &str) -> String {
    String::from_utf8_lossy(&bradawl_facts::table::decode(word.as_bytes())).into_owned()
}

/// What a line was meant to be, where it is not what it says.
pub(crate) fn meant(known: Known<'_>, line: &[u8]) -> Option<Meant> {
    let text = std::str::from_utf8(line).ok().filter(|t| t.len() <= MAX_BYTES)?;
    let all_plain = text.bytes().all(|b| matches!(b, b'\t' | b' '..=b'~'));
    let written: SmallVec<[&str; 8]> = match all_plain {
        true => text.split_ascii_whitespace().collect(),
        false => text.split([' ', '\t']).filter(|w| !w.is_empty()).collect(),
    };
    // What other characters do is told of themselves first.
    let odd = |c: char| c.is_control() && c != '\t' || !c.is_ascii() && (c.is_whitespace() || is_quote(c));
    let remark = written.iter().any(|w| w.starts_with('#'));
    let told_elsewhere = !all_plain && text.contains(odd);
    if written.len() > MAX_WORDS || remark || told_elsewhere || stands(known, &written) {
        return None;
    }
    let mut slips: Vec<Slip> = Vec::new();
    let mut words: Words = written.iter().map(|w| (*w).to_owned()).collect();
    for step in STEPS {
        if let Some((slip, better)) = step(known, &words) {
            slips.push(slip);
            words = better;
        }
    }
    let (first, second) = slips::two_entries(&words);
    let first = arrange(known, first)?;
    let second = match second {
        Some(words) => Some(arrange(known, words)?),
        None => None,
    };
    if let Some(second) = &second {
        slips.insert(0, Slip::TwoEntries(second.target.clone()));
    }
    let (certain, own) = [Some(&first), second.as_ref()]
        .into_iter()
        .flatten()
        .fold((true, Vec::new()), |(sure, own), a| (sure && a.certain, [own, a.slips.clone()].concat()));
    slips.extend(own);
    let by = if text.contains('\t') { "\t" } else { " " };
    let lines: Vec<String> = [Some(first), second].into_iter().flatten().map(|a| a.line(by)).collect();
    let same = lines.len() == 1 && {
        let now: Vec<&str> = lines[0].split(by).collect();
        let count = written.len().min(6);
        written.len() <= 6 && now[..count] == written[..count]
    };
    let slip = slips.into_iter().next().unwrap_or(Slip::Order);
    (!same).then(|| Meant { slip, text: lines.join("\n"), certain })
}

fn is_quote(c: char) -> bool {
    matches!(c, '\u{2018}'..='\u{201f}')
}

/// Whether a line makes sense as it stands.
fn stands(known: Known<'_>, words: &[&str]) -> bool {
    words.len() <= 6 && Fields::written(words).is_some_and(|fields| fields.makes_sense(known))
}

#[cfg(test)]
mod tests;
