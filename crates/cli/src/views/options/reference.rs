//! The catalogue of options as a reference.

use crate::ui::{BOLD, FAINT, labelled, padded, styled, wrapped};
use bradawl_catalogue::fstypes::{Lives, known};
use bradawl_catalogue::options::{Form, Opt, Reader, Topic, common, ended_by, topic, types as all_types};
use bradawl_change::draft::Recommended;
use bradawl_documents::{OptionRow, ReferenceReport, Wants, rows_of};
use bradawl_facts::Version;
use bradawl_facts::text::{count, visible};

/// The types in the catalogue.
pub fn types(report: &ReferenceReport, width: usize) -> String {
    let own: Vec<_> = report.types.iter().filter(|t| t.fstype != "common").collect();
    let mut out = format!(
        "{} types; bradawl options TYPE names their options, TYPE OPTION tells all about one.\n\n",
        own.len()
    );
    let column = own.iter().map(|t| t.fstype.len()).max().unwrap_or(0);
    for row in own {
        let lives = match (row.fstype, known(row.fstype).map(|t| t.lives)) {
            ("none", _) => "a directory shown at a second place",
            ("swap", _) => "swap",
            (_, Some(Lives::OnDevice | Lives::OnDeviceByProgram)) => "on a device",
            (_, Some(Lives::InKernel)) => "in memory or the kernel",
            (_, Some(Lives::OnNetwork | Lives::OnNetworkByProgram)) => "on another host",
            (_, Some(Lives::InProgram)) => "in a program",
            (_, None) => "",
        };
        let name = styled(BOLD, &padded(row.fstype, column));
        out.push_str(&format!("  {name}  {:>3} of its own, {lives}\n", row.options));
    }
    let note = format!("{} more belong to every type: bradawl options common.", common().len());
    out.push_str(&format!("\n{}\n", wrapped(&note, width).join("\n")));
    out
}

/// The options of a type by what people want to do.
pub fn reference(fstype: &str, kernel: Option<Version>, recommended: &[Recommended], width: usize) -> String {
    let on = kernel.map(|k| format!(" on kernel {k}")).unwrap_or_default();
    let rows = rows_of(fstype);
    let shown: Vec<&Opt> = rows.iter().filter(|row| kernel.is_none() || row.taken_by(kernel)).collect();
    let mut out = format!("{}{on}: {}\n", styled(BOLD, fstype), count(shown.len(), "option"));
    let groups = Topic::ALL.map(|group| (group, of_one_meaning(&shown, group, kernel)));
    out.push_str(&by_use(recommended, width));
    let names = groups.iter().flat_map(|(_, rows)| rows).map(|(names, _)| names.chars().count());
    let column = names.max().unwrap_or(0).min(30);
    for (group, rows) in groups.iter().filter(|(_, rows)| !rows.is_empty()) {
        out.push_str(&format!("\n{}\n", styled(BOLD, group.title())));
        for (names, said) in rows {
            let name = padded(names, column);
            for (n, line) in wrapped(said, width.saturating_sub(column + 4).max(20)).iter().enumerate() {
                let name = if n == 0 { name.clone() } else { " ".repeat(column) };
                out.push_str(&format!("  {name}  {line}\n"));
            }
        }
    }
    out.push_str(&refused_here(rows, kernel, width));
    if fstype != "common" {
        let note = format!("{} more belong to every type: bradawl options common.", common().len());
        out.push_str(&format!("\n{}\n", wrapped(&note, width).join("\n")));
    }
    out
}

/// The widest column of names.
const MAX_COLUMN: usize = 24;

/// The sets by use, then why each option is in one.
fn by_use(sets: &[Recommended], width: usize) -> String {
    let uses = |set: &Recommended| match sets {
        [_] => "every use".to_owned(),
        _ => set.purposes.iter().map(|p| p.name()).collect::<Vec<_>>().join(", "),
    };
    let mut reasons: Vec<(&str, &str)> = Vec::new();
    for choice in sets.iter().flat_map(|set| &set.reasons) {
        if reasons.iter().all(|(what, _)| *what != choice.what) {
            reasons.push((&choice.what, &choice.why));
        }
    }
    let names = sets.iter().map(uses).chain(reasons.iter().map(|(what, _)| (*what).to_owned()));
    let column = names.map(|name| name.chars().count()).max().unwrap_or(0).min(MAX_COLUMN);
    let room = width.saturating_sub(column + 4).max(20);
    let row = |(name, lines): (String, Vec<String>)| {
        // What is longer stands on a line of its own.
        let alone = name.chars().count() > column;
        let lines: Vec<String> = alone.then(String::new).into_iter().chain(lines).collect();
        let first = std::iter::once(name).chain(std::iter::repeat(String::new()));
        let line = |(name, line): (String, String)| {
            format!("{}\n", format!("  {}  {line}", padded(&name, column)).trim_end())
        };
        first.zip(lines).map(line).collect::<String>()
    };
    let told: String = sets.iter().map(|set| row((uses(set), at_commas(&set.options, room)))).collect();
    let why: String =
        reasons.iter().map(|(what, why)| row(((*what).to_owned(), wrapped(why, room)))).collect();
    match sets {
        [] => String::new(),
        _ => format!("\n{}\n{told}\n{why}", styled(BOLD, "By use, as bradawl draft writes it")),
    }
}

/// A list of options in lines of so many characters, parted behind commas.
fn at_commas(list: &str, room: usize) -> Vec<String> {
    let mut lines = vec![String::new()];
    for part in list.split_inclusive(',') {
        let last =
            lines.last_mut().filter(|l| l.is_empty() || l.chars().count() + part.chars().count() <= room);
        match last {
            Some(line) => line.push_str(part),
            None => lines.push(part.to_owned()),
        }
    }
    lines
}

/// The options of a group as names and what they do; names for the same thing
/// stand on one line.
fn of_one_meaning(rows: &[&Opt], group: Topic, kernel: Option<Version>) -> Vec<(String, String)> {
    let mut out: Vec<(String, String)> = Vec::new();
    let longest = rows.iter().map(|row| spelled(row).chars().count()).max().unwrap_or(0).min(30);
    for row in rows.iter().filter(|row| topic(row.name) == group) {
        let (name, said) = (spelled(row), in_short(row, kernel));
        let fits = |there: &String| there.chars().count() + name.chars().count() + 2 <= longest;
        match out.iter_mut().find(|(there, of)| *of == said && fits(there)) {
            Some((there, _)) => there.push_str(&format!(", {name}")),
            None => out.push((name, said)),
        }
    }
    out
}

/// Meaning and default in one line.
fn in_short(row: &Opt, kernel: Option<Version>) -> String {
    let idle = row.idle.is_some_and(|i| kernel.is_none_or(|k| k >= i));
    let default = match row.default {
        "" => String::new(),
        "on" if row.meaning.contains("default") => String::new(),
        default => format!(" (default: {default})"),
    };
    format!("{}{}{default}{}", row.meaning, row.reader_since_words(), if idle { " (no effect)" } else { "" })
}

fn refused_here(rows: &'static [Opt], kernel: Option<Version>, width: usize) -> String {
    let taken = |name: &str| rows.iter().any(|r| r.name == name && r.taken_by(kernel));
    let gone = rows.iter().filter(|r| kernel.is_some() && !taken(r.name));
    let gone: Vec<&str> = gone.map(|r| r.name).collect();
    match gone.is_empty() {
        true => String::new(),
        false => {
            let text = format!("Rejected by this kernel, accepted by others: {}.", gone.join(", "));
            format!("\n{}\n", wrapped(&text, width).join("\n"))
        }
    }
}

/// An option with the form of its value.
fn spelled(row: &Opt) -> String {
    let name = row.name;
    match row.form {
        Form::Flag | Form::FlagOrAny => name.to_owned(),
        Form::FlagOrNumber(..) => format!("{name}[=N]"),
        Form::FlagOrShaped(..) => format!("{name}[=…]"),
        Form::FlagOrOneOf(words) => format!("{name}[={}]", short(words)),
        Form::OneOf(words) => format!("{name}={}", short(words)),
        Form::Octal => format!("{name}=OCTAL"),
        Form::Size => format!("{name}=SIZE"),
        Form::Number(..) | Form::Decimal(..) => format!("{name}=N"),
        Form::Id | Form::Uid | Form::AnyUid | Form::DecimalUid => format!("{name}=ID"),
        _ => format!("{name}=…"),
    }
}

fn short(words: &[&str]) -> String {
    let all = words.join("|");
    if all.len() <= 18 { all } else { "WORD".to_owned() }
}

/// All about one option of a type; `None` when the report has none.
pub fn page(report: &ReferenceReport, fstype: &str, kernel: Option<Version>, width: usize) -> Option<String> {
    let first = report.options.first()?;
    let whose = if first.fstype == "common" { "every type" } else { fstype };
    let mut out = format!("{} of {}\n", styled(BOLD, first.name), visible(whose));
    out.push_str(&labelled("does", first.meaning, width));
    for row in &report.options {
        out.push_str(&labelled("value", &format!("{}{}", value(row), kernels(row)), width));
    }
    let of_kernel = matches!(first.reader, Reader::Kernel | Reader::Helper);
    if let Some(word) = ended_by(fstype, first.name) {
        let here = format!("the program that mounts {} ends at it, {}", visible(fstype), word.words());
        out.push_str(&labelled("here", &here, width));
    } else if let Some(kernel) = kernel.filter(|_| of_kernel) {
        out.push_str(&labelled("here", &format!("kernel {kernel} {}", says(report, kernel)), width));
    }
    if let Some(example) = report.options.iter().find_map(|row| row.example.as_deref()) {
        out.push_str(&labelled("example", example, width));
    }
    for purpose in &report.purposes {
        for option in &purpose.options {
            let cost = option.cost.map(|cost| format!("; {cost}")).unwrap_or_default();
            let own = report.options.iter().any(|row| row.name == option.option);
            let told = if own { String::new() } else { format!(" ({})", option.option) };
            let text = format!("{}{told}: {}{cost}", purpose.title, option.why);
            out.push_str(&labelled("serves", &text, width));
        }
    }
    out.push_str(&beside(first, width));
    let since =
        first.reader_since.as_ref().map(|v| format!(", since its version {}", v.trim_end_matches(".0")));
    let reader = format!("{}{}", first.reader.words(), since.unwrap_or_default());
    out.push_str(&labelled("read by", &reader, width));
    let others: Vec<&str> =
        all_types().filter(|t| *t != fstype && rows_of(t).iter().any(|row| row.name == first.name)).collect();
    if !others.is_empty() {
        out.push_str(&labelled("also in", &others.join(", "), width));
    }
    out.push_str(&labelled("source", first.source, width));
    Some(out)
}

/// Default, company and caution.
fn beside(row: &OptionRow, width: usize) -> String {
    let mut out = String::new();
    let mut say = |label: &str, text: &str| {
        if !text.is_empty() {
            out.push_str(&labelled(label, text, width));
        }
    };
    say("default", row.default.unwrap_or_default());
    say("brings", &row.implies.join(", "));
    say("needs", &row.needs.join(", "));
    say("refused", &row.conflicts.iter().map(|c| format!("with {c}")).collect::<Vec<_>>().join(", "));
    say("undoes", &row.excludes.join(", "));
    say("undone by", row.opposite.unwrap_or_default());
    say("caution", row.caution.unwrap_or_default());
    say("about", row.topic);
    out
}

fn value(row: &OptionRow) -> String {
    match (row.value, &row.form) {
        (Wants::None, _) | (_, None) => "has no value".to_owned(),
        (Wants::Optional, Some(form)) if form == "a value" => "may be given, and is not looked at".to_owned(),
        (Wants::Optional, Some(form)) => format!("none, or {form}"),
        (Wants::Required, Some(form)) => form.clone(),
    }
}

/// What a kernel makes of the option.
fn says(report: &ReferenceReport, kernel: Version) -> &'static str {
    let idle = |row: &OptionRow| {
        row.idle_since.as_deref().and_then(Version::parse).is_some_and(|idle| kernel >= idle)
    };
    match report.options.iter().find(|row| row.taken == Some(true)) {
        None => "rejects it: the mount fails",
        Some(row) if idle(row) => "accepts it, and does nothing with it",
        Some(_) => "accepts it",
    }
}

/// For which kernels a row holds.
fn kernels(row: &OptionRow) -> String {
    match (&row.since, &row.until) {
        (None, None) => String::new(),
        (Some(since), None) => format!(" (since kernel {since})"),
        (None, Some(until)) => format!(" (before kernel {until})"),
        (Some(since), Some(until)) => format!(" (from kernel {since} until before {until})"),
    }
}

/// The options of a report with their types.
pub fn search(report: &ReferenceReport, word: &str, width: usize) -> String {
    let mut out = String::new();
    let mut before = ("", "");
    for row in &report.options {
        if (row.fstype, row.name) != before {
            out.push_str(&labelled(row.fstype, &format!("{}: {}", row.name, row.meaning), width));
        }
        before = (row.fstype, row.name);
    }
    match (report.purposes.is_empty(), out.is_empty()) {
        (true, true) => format!("No option has {:?} in its name or meaning, or serves it.\n", visible(word)),
        (true, false) => out,
        (false, _) => purposes(report, out, word, width),
    }
}

/// What is wanted, before the options that only have the word.
fn purposes(report: &ReferenceReport, named: String, word: &str, width: usize) -> String {
    let mut out = String::new();
    for purpose in &report.purposes {
        out.push_str(&format!("For this purpose: {}\n", purpose.title));
        for advice in &purpose.options {
            let types =
                if advice.types.is_empty() { "every type".to_owned() } else { advice.types.join(", ") };
            let cost = advice.cost.map(|cost| format!("; {cost}")).unwrap_or_default();
            out.push_str(&format!("  {}  {}\n", advice.option, styled(FAINT, &format!("({types})"))));
            for line in wrapped(&format!("{}{cost}", advice.why), width.saturating_sub(6)) {
                out.push_str(&format!("      {line}\n"));
            }
        }
        out.push('\n');
    }
    if !named.is_empty() {
        out.push_str(&format!("With {:?} in name or meaning:\n{named}", visible(word)));
    }
    out
}
