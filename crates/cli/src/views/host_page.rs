//! One host as a page of HTML: what is found, the table line by line, the boot in
//! time, what its storage is made of, its swap. It has no script, and nothing from
//! elsewhere.

use super::audit::{Audited, cause};
use super::found::Found;
use super::{forecast, stack};
use crate::outcome::CommandError;
use askama::Template;
use bradawl_boot::{EntryForecast, EntryState, Forecast};
use bradawl_documents::{DevicesReport, HostAudit, Totals};
use bradawl_facts::Consequence;
use bradawl_facts::size::binary;
use bradawl_facts::table::Table;
use bradawl_facts::text::{count, visible};
use bradawl_judgement::swap_overview::{AreaNow, Overview};

/// What a host stores on.
pub struct Stores {
    pub devices: DevicesReport,
    pub swap: Overview,
}

#[derive(Template)]
#[template(path = "host.html")]
struct Page {
    host: String,
    verdict: String,
    cause: String,
    class: &'static str,
    facts: String,
    at_worst: Option<String>,
    counted: String,
    findings: Vec<Found>,
    repair: String,
    beside: Vec<String>,
    table: String,
    lines: Vec<Line>,
    timeline: String,
    assumed: Vec<String>,
    stack: String,
    stack_style: &'static str,
    swap_words: String,
    bars: Vec<Bar>,
    bars_height: u32,
}

/// A line of the table, and what becomes of it.
struct Line {
    number: usize,
    text: String,
    state: String,
    class: &'static str,
}

/// Main memory or an area of swap, in parts of the longest.
struct Bar {
    label: String,
    class: &'static str,
    width: u64,
    used: u64,
    y: u32,
}

/// The page.
///
/// `policy`: what a policy has to do with it, in words.
pub fn html(
    audited: &Audited,
    boot: &Forecast,
    stores: &Stores,
    policy: &[String],
) -> Result<String, CommandError> {
    let Audited { audit, table } = audited;
    let shown = |text: &str| visible(text).into_owned();
    let bars = bars(&stores.swap);
    let steps = audit.advice.iter().flat_map(|a| &a.steps);
    let steps: Vec<String> = steps.map(|s| format!("line {}: {}", s.line, shown(&s.what))).collect();
    let supposing = match audit.supposed.as_slice() {
        [] => String::new(),
        all => format!(", supposing {}", all.iter().map(|s| shown(s)).collect::<Vec<_>>().join(", ")),
    };
    let page = Page {
        host: shown(&audit.host),
        verdict: audit.verdict.clone(),
        cause: cause(audit),
        class: if boot.reaches_login { "up" } else { "lost" },
        facts: format!("{}, table {}{supposing}", shown(&boot.init), shown(&audit.table)),
        at_worst: audit.at_worst.clone(),
        counted: counted(Totals::of(&audit.findings)),
        findings: audit.findings.iter().map(|f| Found::of(f, audited)).collect(),
        repair: match &audit.advice {
            Some(advice) => format!("{}; after it {}.", steps.join("; "), advice.verdict),
            None => String::new(),
        },
        beside: policy.iter().cloned().chain(beside(audit)).collect(),
        table: shown(&audit.table),
        lines: lines(table, boot),
        timeline: forecast::timeline(boot)?,
        assumed: forecast::assumed(boot),
        stack: stack::inside(&stores.devices),
        stack_style: stack::STYLE,
        swap_words: match stores.swap.order.as_str() {
            "" => "The host has no swap.".to_owned(),
            order => format!("In order of use after the next boot: {}.", shown(order)),
        },
        bars_height: u32::try_from(bars.len()).unwrap_or(0) * 44 + 6,
        bars,
    };
    page.render().map_err(|e| CommandError::input("the page", e))
}

/// How many findings there are of each sort.
fn counted(totals: Totals) -> String {
    let all = Consequence::ALL.map(|c| (c, totals.get(c)));
    let some = all.iter().filter(|(_, n)| *n > 0);
    let words: Vec<String> = some.map(|(c, n)| format!("{n} {}", c.name())).collect();
    match all.iter().map(|(_, n)| n).sum::<usize>() {
        0 => "Nothing is found".to_owned(),
        n => format!("{}: {}", count(n, "finding"), words.join(", ")),
    }
}

/// What limits the judgement.
fn beside(audit: &HostAudit) -> Vec<String> {
    let unread = audit.unread.iter().map(|u| format!("Not read: {}: {}", visible(&u.what), visible(&u.why)));
    let left = (audit.not_shown > 0).then(|| format!("{} more were not asked for.", audit.not_shown));
    left.into_iter().chain(unread).collect()
}

fn lines(table: &Table, boot: &Forecast) -> Vec<Line> {
    let of = |number: usize| boot.entries.iter().find(|e| e.line == number);
    let all = table.lines().iter().enumerate().map(|(n, line)| {
        let entry = of(n + 1);
        Line {
            number: n + 1,
            text: visible(&String::from_utf8_lossy(table.slice(line.text))).into_owned(),
            state: entry.map_or(String::new(), |e| e.state.words().to_owned()),
            class: entry.map_or("", class),
        }
    });
    all.collect()
}

fn class(entry: &EntryForecast) -> &'static str {
    match entry.state {
        EntryState::Mounted | EntryState::Active => "up",
        EntryState::Unknown => "not-known",
        state if state.is_absent() => "lost",
        _ => "soft",
    }
}

fn bars(swap: &Overview) -> Vec<Bar> {
    let longest = swap.areas.iter().filter_map(|a| a.size).chain(swap.memory).max().unwrap_or(1).max(1);
    let scaled = |bytes: u64| u64::try_from(u128::from(bytes) * 690 / u128::from(longest)).unwrap_or(690);
    let memory = swap.memory.map(|bytes| (format!("main memory, {}", binary(bytes)), "memory", bytes, 0));
    let area = |a: &AreaNow| {
        let class = match (a.used, a.after_reboot) {
            (Some(_), _) => "now",
            (None, Some(false)) => "gone",
            (None, _) => "later",
        };
        let size = a.size.map_or("size not known".to_owned(), binary);
        let line = a.line.map(|n| format!(", line {n}")).unwrap_or_default();
        let faults: String = a.faults.iter().map(|f| format!("; {}", visible(f))).collect();
        (
            format!("{}, {size}{line}{faults}", visible(&a.path)),
            class,
            a.size.unwrap_or(longest),
            a.used.unwrap_or(0),
        )
    };
    let all = memory.into_iter().chain(swap.areas.iter().map(area));
    let bar = |(n, (label, class, size, used)): (usize, (String, &'static str, u64, u64))| Bar {
        label,
        class,
        width: scaled(size).max(2),
        used: scaled(used),
        y: u32::try_from(n).unwrap_or(0) * 44 + 14,
    };
    all.enumerate().map(bar).collect()
}
