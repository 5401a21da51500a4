//! The predicted boot for reading: the verdict, a timeline, the reasons, the
//! smallest repair.

mod html;
mod timeline;
mod units;
mod what_if;

pub use html::{assumed, html, timeline};
pub use units::dot;

use crate::ui::{GOOD, labelled, padded, shortened, style, styled, table_line, wrapped};
use anstyle::Style;
use bradawl_boot::{EntryForecast, EntryState, Event, Outcome};
use bradawl_change::advice::{Advice, RepairStep};
use bradawl_documents::ForecastReport;
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::text::{count, visible};
use timeline::place;

/// How an outcome looks.
fn look(outcome: Outcome) -> Style {
    match outcome {
        Outcome::Up => GOOD,
        Outcome::Partial | Outcome::NotKnown => style(Consequence::Missing),
        _ => style(Consequence::Halt),
    }
}

/// One of many hosts, in a line.
pub fn line(report: &ForecastReport, width: usize) -> String {
    let host = padded(&visible(&report.host), 16);
    let line = |forecast: &bradawl_boot::Forecast, before: &str| {
        let told = format!("{before}{}", forecast.verdict);
        let verdict = shortened(&told, width.saturating_sub(18).max(20));
        styled(look(forecast.outcome), &verdict)
    };
    match &report.what_if {
        None => format!("{host}  {}\n", line(&report.forecast, "")),
        Some(other) => {
            let (now, then) = (line(&report.forecast, "now:  "), line(&other.forecast, "then: "));
            format!("{host}  {now}\n{}  {then}\n", padded("", 16))
        }
    }
}

/// How many hosts a change leaves as they are.
pub fn as_before(hosts: usize) -> String {
    let boots = if hosts == 1 { "boots" } else { "boot" };
    format!("{} {boots} as before.\n", count(hosts, "host"))
}

pub fn text(report: &ForecastReport, width: usize) -> String {
    let forecast = &report.forecast;
    let mut out = String::new();
    for line in wrapped(&format!("{}: {}", visible(&report.host), forecast.verdict), width) {
        out.push_str(&styled(look(forecast.outcome), &line));
        out.push('\n');
    }
    out.push_str(&format!("{}, table {}\n\n", forecast.init, visible(&report.table)));
    if let Some(other) = &report.what_if {
        return out + &what_if::text(forecast, other, width);
    }
    out.push_str(&before(report, width));
    out.push_str(&timeline::timeline(report, width));
    let reasons = reasons(report, width);
    if reasons.is_empty() && report.advice.is_none() && !forecast.assumed.is_empty() {
        out.push('\n');
    }
    out.push_str(&reasons);
    if let Some(advice) = &report.advice {
        out.push_str(&repair(advice, width));
    }
    out.push_str(&several("assumed", &forecast.assumed, width));
    if let Some(worst) = &forecast.worst {
        out.push_str(&labelled("at worst", &worst.words(), width));
    }
    out
}

/// What no entry does: what the command line has asked for, what passes before
/// the init system begins, and swap units written by hand that are waited for.
fn beside(report: &ForecastReport) -> Vec<(&'static str, String)> {
    let forecast = &report.forecast;
    let told = |e: &Event| match (e.at_s < 0.0, is_beside(report, e)) {
        (true, _) => Some(("stall", format!("{} s before: {} {}", -e.at_s, e.unit, e.what))),
        (false, true) => Some(("stall", format!("at {} s: {} {}", e.at_s, e.unit, e.what))),
        _ => None,
    };
    let waited = forecast.stall_s.filter(|s| forecast.outcome == Outcome::NoRoot && *s > 0.0);
    let waits = waited.map(|s| format!(" → waits {}", seconds(Some(s)))).unwrap_or_default();
    let ended = forecast.ended_by.iter().map(|why| match forecast.outcome {
        Outcome::NoRoot => ("halt", format!("{why}{waits} → the boot ends in {}", forecast.ends_in)),
        _ => ("halt", why.clone()),
    });
    ended.chain(forecast.events.iter().filter_map(told)).collect()
}

fn before(report: &ForecastReport, width: usize) -> String {
    let told: String =
        beside(report).iter().map(|(stamp, text)| labelled(stamp, &visible(text), width)).collect();
    if told.is_empty() { told } else { told + "\n" }
}

/// Whether an event is of a swap unit that no entry makes.
fn is_beside(report: &ForecastReport, event: &Event) -> bool {
    let own = |e: &EntryForecast| e.unit.as_deref() == Some(&event.unit) || e.target == event.unit;
    let beside = event.unit.ends_with(".swap") || event.unit.starts_with("systemd-cryptsetup@");
    beside && !report.forecast.entries.iter().any(own)
}

/// From cause to effect, for each entry that does something to the boot.
fn reasons(report: &ForecastReport, width: usize) -> String {
    let told = |e: &&EntryForecast| e.consequence.is_some() || e.state == EntryState::Unknown;
    let mut out = String::new();
    for entry in report.forecast.entries.iter().filter(told) {
        if out.is_empty() {
            out.push('\n');
        }
        let stamp = entry.consequence.map_or("unknown", Consequence::name);
        let why = if entry.chain.is_empty() { entry.why.clone() } else { entry.chain.join(" → ") };
        let text = format!("line {}, {}: {}", entry.line, visible(place(entry)), visible(&why));
        out.push_str(&labelled(stamp, &text, width));
    }
    out
}

/// The smallest repair, line by line, and what the boot does then.
fn repair(advice: &Advice, width: usize) -> String {
    const SHOWN: usize = 5;
    let mut out = String::from("\n");
    for step in advice.steps.iter().take(SHOWN) {
        let RepairStep { line, what, before, after, safe } = step;
        let look_first = if *safe { "" } else { " (look first whether that is meant)" };
        out.push_str(&labelled("repair", &visible(&format!("line {line}: {what}{look_first}")), width));
        out.push_str(&format!("    now  {}\n", table_line(before)));
        out.push_str(&format!("    then {}\n", table_line(after)));
    }
    if advice.steps.len() > SHOWN {
        let text = format!("and {} more lines; --format json has all", advice.steps.len() - SHOWN);
        out.push_str(&labelled("", &text, width));
    }
    out + &labelled("after it", &styled(look(advice.outcome), &advice.verdict.to_string()), width)
}

fn several(label: &str, all: &[String], width: usize) -> String {
    const SHOWN: usize = 5;
    let mut out = String::new();
    for one in all.iter().take(SHOWN) {
        out.push_str(&labelled(label, &visible(one), width));
    }
    if all.len() > SHOWN {
        out.push_str(&labelled("", &format!("and {} more", all.len() - SHOWN), width));
    }
    out
}
