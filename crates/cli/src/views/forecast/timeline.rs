//! The boot as rows of waiting and a mark at its end.

use crate::ui::{BOLD, FAINT, GOOD, padded, shortened, style, styled};
use bradawl_boot::{EntryForecast, EntryState, Outcome};
use bradawl_documents::ForecastReport;
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;

/// What an entry is called in the timeline.
pub(super) fn place(entry: &EntryForecast) -> &str {
    let is_swap = entry.unit.as_deref().is_some_and(|u| u.ends_with(".swap")) || entry.target == "none";
    if is_swap { "swap" } else { &entry.target }
}

/// A row for each entry, in the order in which they are settled.
pub(super) fn timeline(report: &ForecastReport, width: usize) -> String {
    const STATE: usize = 11;
    let forecast = &report.forecast;
    let longest = forecast.entries.iter().map(|e| visible(place(e)).chars().count()).max().unwrap_or(0);
    let names = longest.clamp(14, 26);
    let bars = width.saturating_sub(names + STATE + 14).clamp(12, 60);
    let latest = forecast.entries.iter().filter_map(|e| e.stall_s).fold(0.0, f64::max);
    let early = forecast.outcome == Outcome::NoRoot;
    let end = if latest > 0.0 && !early { latest } else { forecast.end_s().unwrap_or(0.0) };
    let mut out = String::new();
    let right = if end > 0.0 { seconds(Some(end)) } else { String::new() };
    let axis = format!("{}{right}", padded("0 s", bars.saturating_sub(right.chars().count())));
    let heads = format!("  line  {}  {axis}", padded("", names));
    out.push_str(&styled(FAINT, heads.trim_end()));
    out.push('\n');
    for entry in &forecast.entries {
        let name = padded(&shortened(&visible(place(entry)), names), names);
        let bar = padded(&bar(entry, end, bars), bars);
        let color = entry.consequence.map_or(BOLD, style);
        out.push_str(&format!(
            "  {:>4}  {name}  {bar}  {}\n",
            entry.line,
            styled(color, entry.state.words())
        ));
    }
    out.push_str(&ending(report, end, names, bars));
    out
}

/// Waiting as dots, the end of it as a mark: ● there, × not there, ○ not
/// asked for, ? not known, ▸ still waiting.
fn bar(entry: &EntryForecast, end: f64, width: usize) -> String {
    let mark = match entry.state {
        EntryState::Mounted | EntryState::Active => '●',
        EntryState::OnAccess | EntryState::Manual => '○',
        EntryState::TimedOut | EntryState::Failed | EntryState::Blocked | EntryState::Ignored => '×',
        EntryState::Unknown => '?',
    };
    match entry.stall_s {
        None => format!("{}▸", "·".repeat(width - 1)),
        Some(at) => format!("{}{mark}", "·".repeat(column(at, end, width))),
    }
}

/// The column of a moment, from 0.
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
fn column(at: f64, end: f64, width: usize) -> usize {
    if end <= 0.0 { 0 } else { ((at / end) * (width - 1) as f64).round() as usize }.min(width - 1)
}

fn ending(report: &ForecastReport, end: f64, names: usize, bars: usize) -> String {
    let forecast = &report.forecast;
    let open = forecast.outcome == Outcome::NotKnown;
    let color = match forecast.reaches_login {
        true if open => style(Consequence::Missing),
        true => GOOD,
        false => style(Consequence::Halt),
    };
    let word = &shortened(&forecast.ends_in, names);
    let at = forecast.end_s().map_or(bars - 1, |s| column(s, end, bars));
    let mark = if forecast.stall_s.is_none() { "▸" } else { "▲" };
    let time = match forecast.stall_s {
        Some(s) if s > 0.0 => format!("at {}", seconds(Some(s))),
        Some(_) if open => "at best".to_owned(),
        Some(_) => "at once".to_owned(),
        None => "without end".to_owned(),
    };
    let bar = padded(&format!("{}{mark}", " ".repeat(at)), bars);
    format!("        {}  {bar}  {}\n", styled(color, &padded(word, names)), styled(color, &time))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn moments_fall_into_columns() {
        assert_eq!(column(0.0, 90.0, 30), 0);
        assert_eq!(column(90.0, 90.0, 30), 29);
        assert_eq!(column(45.0, 90.0, 31), 15);
        assert_eq!(column(500.0, 90.0, 30), 29);
        assert_eq!(column(0.0, 0.0, 30), 0);
    }
}
