//! The forecast as one page of HTML, with the timeline as a drawing; no
//! script, nothing from elsewhere.

use super::timeline::place;
use super::what_if::state;
use crate::outcome::CommandError;
use crate::ui::shortened;
use askama::Template;
use bradawl_boot::{EntryForecast, EntryState, Forecast, Outcome};
use bradawl_change::advice::RepairStep;
use bradawl_documents::{ForecastReport, WhatIf};
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;

/// Where the seconds begin and end in the drawing, which is 1000 wide.
const LEFT: u32 = 250;
const RIGHT: u32 = 820;
/// Height of a row.
const ROW: u32 = 26;

#[derive(Template)]
#[template(path = "forecast.html")]
struct Page {
    host: String,
    verdict: String,
    outcome: &'static str,
    init: String,
    table: String,
    /// The drawing.
    timeline: String,
    rows: Vec<Row>,
    steps: Vec<RepairStep>,
    after: String,
    after_outcome: &'static str,
    other: Option<Other>,
    /// What happens beside the table.
    beside: Vec<String>,
    assumed: Vec<String>,
}

/// Each entry over the seconds of the boot.
#[derive(Template)]
#[template(path = "timeline.svg", escape = "html")]
struct Drawing<'a> {
    outcome: &'static str,
    left: u32,
    height: u32,
    ticks: Vec<Tick>,
    rows: &'a [Row],
    end_x: u32,
    end_anchor: &'static str,
    end_text: String,
}

struct Tick {
    x: u32,
    anchor: &'static str,
    text: String,
}

struct Row {
    line: usize,
    name: String,
    full: String,
    state: &'static str,
    consequence: &'static str,
    then: String,
    chain: Vec<String>,
    kind: &'static str,
    x: u32,
    y: u32,
    label_x: u32,
}

struct Other {
    changes: String,
    verdict: String,
    outcome: &'static str,
}

/// The whole page.
pub fn html(report: &ForecastReport) -> Result<String, CommandError> {
    let forecast = &report.forecast;
    let scale = Scale::of(forecast);
    let then = report.what_if.as_ref().map(|w| &w.forecast);
    let rows: Vec<Row> = forecast.entries.iter().enumerate().map(|(n, e)| row(n, e, then, &scale)).collect();
    let timeline = drawing(forecast, &rows, &scale)?;
    let advice = report.advice.as_ref();
    let page = Page {
        host: visible(&report.host).into_owned(),
        verdict: forecast.verdict.to_string(),
        outcome: forecast.outcome.name(),
        init: visible(&forecast.init).into_owned(),
        table: visible(&report.table).into_owned(),
        timeline,
        rows,
        steps: advice.map(|a| a.steps.iter().map(shown).collect()).unwrap_or_default(),
        after: advice.map(|a| a.verdict.to_string()).unwrap_or_default(),
        after_outcome: advice.map_or("", |a| a.outcome.name()),
        other: report.what_if.as_ref().map(other),
        beside: super::beside(report).into_iter().map(|(_, text)| visible(&text).into_owned()).collect(),
        assumed: assumed(forecast),
    };
    page.render().map_err(|e| CommandError::input("the page", e))
}

/// The drawing by itself, for other pages.
pub fn timeline(forecast: &Forecast) -> Result<String, CommandError> {
    let scale = Scale::of(forecast);
    let rows: Vec<Row> = forecast.entries.iter().enumerate().map(|(n, e)| row(n, e, None, &scale)).collect();
    drawing(forecast, &rows, &scale)
}

fn drawing(forecast: &Forecast, rows: &[Row], scale: &Scale) -> Result<String, CommandError> {
    let height = ROW * (u32::try_from(rows.len()).unwrap_or(u32::MAX / ROW - 4) + 3);
    let end_x = forecast.end_s().map_or(RIGHT, |s| scale.x(s));
    let drawing = Drawing {
        outcome: forecast.outcome.name(),
        left: LEFT,
        height,
        ticks: scale.ticks(),
        rows,
        end_x,
        end_anchor: if end_x > 600 { "end" } else { "start" },
        end_text: ending(forecast),
    };
    drawing.render().map_err(|e| CommandError::input("the page", e))
}

/// From seconds to places.
struct Scale {
    longest: f64,
}

impl Scale {
    fn of(forecast: &Forecast) -> Self {
        let waits = forecast.entries.iter().filter_map(|e| e.stall_s);
        let waits = waits.filter(|_| forecast.outcome != Outcome::NoRoot);
        Scale { longest: waits.chain(forecast.end_s()).fold(0.0, f64::max) }
    }

    #[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss)] // within the drawing
    fn x(&self, at: f64) -> u32 {
        if self.longest <= 0.0 {
            return LEFT;
        }
        LEFT + ((at / self.longest).clamp(0.0, 1.0) * f64::from(RIGHT - LEFT)).round() as u32
    }

    fn ticks(&self) -> Vec<Tick> {
        let tick = |part: f64, anchor| Tick {
            x: self.x(self.longest * part),
            anchor,
            text: if part == 0.0 { "0 s".to_owned() } else { seconds(Some(self.longest * part)) },
        };
        match self.longest > 0.0 {
            true => vec![tick(0.0, "middle"), tick(0.5, "middle"), tick(1.0, "middle")],
            false => vec![tick(0.0, "middle")],
        }
    }
}

fn row(n: usize, entry: &EntryForecast, then: Option<&Forecast>, scale: &Scale) -> Row {
    let then = then.map(|f| f.entries.iter().find(|e| e.line == entry.line));
    let full = visible(place(entry)).into_owned();
    let x = entry.stall_s.map_or(RIGHT, |s| scale.x(s));
    let chain = match entry.chain.as_slice() {
        [] if entry.why.is_empty() => Vec::new(),
        [] => vec![visible(&entry.why).into_owned()],
        links => links.iter().map(|l| visible(l).into_owned()).collect(),
    };
    Row {
        line: entry.line,
        name: shortened(&full, 28),
        full,
        state: entry.state.words(),
        consequence: entry.consequence.map_or("", Consequence::words),
        then: match then {
            Some(None) => "not in the table".to_owned(),
            Some(Some(other)) => state(other),
            None => String::new(),
        },
        chain,
        kind: match entry.state {
            EntryState::Mounted | EntryState::Active => "there",
            state if state.is_absent() => "absent",
            _ => "other",
        },
        x,
        y: ROW * (u32::try_from(n).unwrap_or(0) + 2) - 8,
        label_x: x + 14,
    }
}

fn ending(forecast: &Forecast) -> String {
    let what = match forecast.outcome {
        Outcome::Never => "login never comes",
        _ => &forecast.ends_in,
    };
    match forecast.stall_s {
        Some(s) if s > 0.0 => format!("{what} after {}", seconds(Some(s))),
        Some(_) => format!("{what} at once"),
        None => what.to_owned(),
    }
}

/// What had to be assumed, and what the boot does if it is not so.
pub fn assumed(forecast: &Forecast) -> Vec<String> {
    let worst = forecast.worst.iter().map(|worst| format!("At worst: {}", worst.words()));
    let open = forecast.missing_facts.iter().map(|f| format!("not known: {}", visible(f)));
    open.chain(forecast.assumed.iter().map(|a| visible(a).into_owned())).chain(worst).collect()
}

fn shown(step: &RepairStep) -> RepairStep {
    let text = |t: &str| visible(t).into_owned();
    RepairStep {
        what: text(&step.what),
        before: text(&step.before),
        after: text(&step.after),
        ..step.clone()
    }
}

fn other(other: &WhatIf) -> Other {
    let changes: Vec<String> = other.changes.iter().map(|c| visible(c).into_owned()).collect();
    Other {
        changes: changes.join("; "),
        verdict: other.forecast.verdict.to_string(),
        outcome: other.forecast.outcome.name(),
    }
}
