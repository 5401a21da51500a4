//! Two boots side by side: as it is, and with a change.

use super::{look, timeline::place};
use crate::ui::{BOLD, FAINT, labelled, padded, shortened, style, styled, wrapped};
use anstyle::Style;
use bradawl_boot::{EntryForecast, Forecast};
use bradawl_documents::WhatIf;
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::text::{count, visible};

/// A cell of the comparison.
struct Cell(String, Style);

pub(super) fn text(now: &Forecast, other: &WhatIf, width: usize) -> String {
    let changes: Vec<String> = other.changes.iter().map(|c| visible(c).into_owned()).collect();
    let mut out = format!("With {} (hypothetical):\n", changes.join(", and "));
    for line in wrapped(&other.forecast.verdict.to_string(), width) {
        out.push_str(&styled(look(other.forecast.outcome), &line));
        out.push('\n');
    }
    out.push('\n');
    let first = 22;
    let half = (width.saturating_sub(first + 4) / 2).clamp(16, 40);
    let head = format!("  {}  {}  {}", padded("", first), padded("as it is", half), "with the change");
    out.push_str(&format!("{}\n", styled(FAINT, &head)));
    let mut row = |name: &str, a: Cell, b: Cell| {
        let name = padded(&shortened(name, first), first);
        let (left, right) = (padded(&shortened(&a.0, half), half), shortened(&b.0, half));
        out.push_str(&format!("  {name}  {}  {}\n", styled(a.1, &left), styled(b.1, &right)));
    };
    row("the boot", ending(now), ending(&other.forecast));
    let (mut same, mut reasons) = (0, Vec::new());
    for (name, a, b) in pairs(now, &other.forecast) {
        if a.map(state) == b.map(state) {
            same += 1;
            continue;
        }
        row(&name, cell(a), cell(b));
        reasons.extend(b.filter(|b| a.is_none_or(|a| a.chain != b.chain) && !b.chain.is_empty()));
    }
    out.push_str(&format!("\n  {} unchanged.\n", count(same, "entry")));
    out + &told(&reasons, width)
}

/// Why the boot does so with the change.
fn told(reasons: &[&EntryForecast], width: usize) -> String {
    const SHOWN: usize = 4;
    let mut out = String::new();
    for entry in reasons.iter().take(SHOWN) {
        let text =
            format!("line {}, {}: {}", entry.line, visible(place(entry)), visible(&entry.chain.join(" → ")));
        let stamp = entry.consequence.map_or("", Consequence::name);
        out.push_str(if out.is_empty() { "\n" } else { "" });
        out.push_str(&labelled(stamp, &text, width));
    }
    out
}

/// How a boot ends, and when.
fn ending(forecast: &Forecast) -> Cell {
    let when = match forecast.stall_s {
        Some(s) if s > 0.0 => format!("after {}", seconds(Some(s))),
        Some(_) => "at once".to_owned(),
        None => String::new(),
    };
    let what = match forecast.outcome.reaches_login() {
        true if forecast.root_read_only => "login, root read-only,",
        true => "login",
        false => forecast.outcome.name(),
    };
    Cell(format!("{what} {when}").trim().to_owned(), look(forecast.outcome))
}

/// The entries of both boots by line.
fn pairs<'a>(
    now: &'a Forecast,
    then: &'a Forecast,
) -> Vec<(String, Option<&'a EntryForecast>, Option<&'a EntryForecast>)> {
    let mut lines: Vec<usize> = now.entries.iter().chain(&then.entries).map(|e| e.line).collect();
    lines.sort_unstable();
    lines.dedup();
    let on = |forecast: &'a Forecast, line: usize| {
        forecast.entries.binary_search_by_key(&line, |e| e.line).ok().map(|n| &forecast.entries[n])
    };
    let pair = |line: usize| {
        let (a, b) = (on(now, line), on(then, line));
        let name = a.or(b).map(|e| visible(place(e)).into_owned()).unwrap_or_default();
        (format!("{line}  {name}"), a, b)
    };
    lines.into_iter().map(pair).collect()
}

/// What is told of an entry.
pub(super) fn state(entry: &EntryForecast) -> String {
    let late = match entry.stall_s {
        Some(s) if s > 0.0 => format!(" {}", seconds(Some(s))),
        Some(_) => String::new(),
        None => " without end".to_owned(),
    };
    let does = entry.consequence.map(|c| format!(", {}", c.name())).unwrap_or_default();
    format!("{}{late}{does}", entry.state.words())
}

fn cell(entry: Option<&EntryForecast>) -> Cell {
    match entry {
        None => Cell("not in the table".to_owned(), FAINT),
        Some(entry) => Cell(state(entry), entry.consequence.map_or(BOLD, style)),
    }
}
