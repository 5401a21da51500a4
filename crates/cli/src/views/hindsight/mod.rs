//! What a boot did, as the forecast tells what it will do: the difference
//! first, a timeline, what took long.

mod fleet;
mod machine;
mod page;

pub use fleet::fleet;
pub use machine::{csv, prometheus};
pub use page::html;

use crate::ui::{BOLD, FAINT, GOOD, labelled, padded, shortened, style, styled, wrapped};
use anstyle::Style;
use bradawl_documents::hindsight::{HindsightReport, place};
use bradawl_facts::Consequence;
use bradawl_facts::record::JobResult;
use bradawl_facts::size::seconds;
use bradawl_facts::text::{some, visible};
use bradawl_judgement::hindsight::{Agreement, Ended, EntrySeen, Hindsight, Seen, Slow};
use bradawl_judgement::policy::Date;

/// More than this are only counted.
const MAX_SHOWN: usize = 10;

/// A moment to the minute: `2026-11-23 17:30 UTC`.
fn utc(s: u64) -> String {
    let day = s % 86400;
    format!("{} {:02}:{:02} UTC", Date::of_seconds(s), day / 3600, day / 60 % 60)
}

fn look(agreement: Agreement) -> Style {
    match agreement {
        Agreement::Agreed => GOOD,
        Agreement::Differed => style(Consequence::Halt),
        Agreement::NotKnown => style(Consequence::Missing),
    }
}

/// A boot that stopped is bad news, whoever foresaw it.
fn look_of(boot: &Hindsight) -> Style {
    match boot.ended {
        Ended::Emergency | Ended::Rescue => style(Consequence::Halt),
        _ => look(boot.agreement),
    }
}

pub fn text(report: &HindsightReport, width: usize) -> String {
    let boot = &report.hindsight;
    let mut out = String::new();
    for line in wrapped(&headline(report), width) {
        out.push_str(&format!("{}\n", styled(look_of(boot), &line)));
    }
    let began = boot.began_s.map(|s| format!(", began {}", utc(s))).unwrap_or_default();
    let which = match boot.boot {
        0 => "the boot that is running".to_owned(),
        n => format!("boot {n}"),
    };
    out.push_str(&format!("{which}{began}, table {}\n", visible(&report.table)));
    if report.table_changed_since == Some(true) {
        let text = "the table was changed after this boot had begun: it went by the one before";
        out.push_str(&labelled("note", text, width));
    }
    out.push('\n');
    out + &body(boot, width)
}

/// The entries on a timeline, what differs, and what took long.
pub(super) fn body(boot: &Hindsight, width: usize) -> String {
    let mut out = timeline(boot, width);
    out.push_str(&differences(boot, width));
    for slow in boot.slow.iter().take(MAX_SHOWN) {
        out.push_str(&labelled("took", &slow_words(slow, &boot.entries), width));
    }
    for said in boot.complaints.iter().take(MAX_SHOWN) {
        out.push_str(&labelled("generator", &visible(said), width));
    }
    out
}

/// How it ended, without what, and whether the forecast had said so.
fn headline(report: &HindsightReport) -> String {
    let (boot, ended) = (&report.hindsight, ended_words(&report.hindsight));
    let had = if report.from_before { "had said" } else { "from the same facts says" };
    let verdict = match boot.agreement {
        Agreement::Agreed => format!("the forecast {had} the same"),
        Agreement::Differed => format!("the forecast {had} otherwise: {}", boot.forecast_verdict),
        Agreement::NotKnown => format!("the forecast {had}: {}", boot.forecast_verdict),
    };
    format!("{}: {ended}; {verdict}.", visible(&report.host))
}

/// How it ended, when, and without what.
pub(super) fn ended_words(boot: &Hindsight) -> String {
    let at = boot.ended_at_s.map(|s| format!(" after {}", seconds(Some(s)))).unwrap_or_default();
    let absent: Vec<String> =
        boot.entries.iter().filter(|e| missed(e)).map(|e| visible(place(e)).into_owned()).collect();
    let without = if absent.is_empty() { String::new() } else { format!(" without {}", some(&absent)) };
    match boot.ended {
        Ended::Login => format!("came to login{at}{without}"),
        Ended::Emergency => format!("stopped in emergency mode{at}{without}"),
        Ended::Rescue => format!("stopped in rescue mode{at}{without}"),
        Ended::Waiting => "still waits".to_owned(),
        Ended::NotKnown if absent.is_empty() => "ended in a way that nothing tells".to_owned(),
        Ended::NotKnown => format!("is up{without}"),
    }
}

/// Whether the boot was asked for it and it is not there.
fn missed(entry: &EntrySeen) -> bool {
    let asked =
        !matches!(entry.forecast, bradawl_boot::EntryState::Manual | bradawl_boot::EntryState::Ignored);
    entry.seen.is_absent() && asked
}

/// Whether the boot came without something that it was asked for.
pub(super) fn lacks_something(boot: &Hindsight) -> bool {
    boot.entries.iter().any(missed)
}

/// A row for each entry: its wait, what it ended in, and the forecast where that
/// was another.
fn timeline(boot: &Hindsight, width: usize) -> String {
    const STATE: usize = 13;
    let longest = boot.entries.iter().map(|e| visible(place(e)).chars().count()).max().unwrap_or(0);
    let names = longest.clamp(14, 26);
    let bars = width.saturating_sub(names + STATE + 22).clamp(10, 50);
    let at = |e: &EntrySeen| e.at_s.map(|s| s.max(0.0));
    let end = boot.entries.iter().filter_map(at).chain(boot.ended_at_s).fold(0.0, f64::max);
    let right = if end > 0.0 { seconds(Some(end)) } else { String::new() };
    let axis = format!("{}{right}", padded("0 s", bars.saturating_sub(right.chars().count())));
    let heads =
        format!("  line  {}  {}  {}forecast", padded("", names), padded(&axis, bars), padded("seen", STATE));
    let mut out = format!("{}\n", styled(FAINT, heads.trim_end()));
    for entry in &boot.entries {
        let name = padded(&shortened(&visible(place(entry)), names), names);
        let bar = padded(&bar(entry, at(entry), end, bars), bars);
        let seen = padded(entry.seen.words(), STATE);
        let told = match entry.agreement {
            Agreement::Agreed => styled(FAINT, "agreed"),
            Agreement::NotKnown => styled(FAINT, "not known"),
            Agreement::Differed => styled(look(Agreement::Differed), entry.forecast.words()),
        };
        let seen = styled(if missed(entry) { style(Consequence::Missing) } else { BOLD }, &seen);
        out.push_str(&format!("  {:>4}  {name}  {bar}  {seen}{told}\n", entry.line));
    }
    let (word, color) = match boot.ended {
        Ended::Login => ("login", GOOD),
        Ended::Emergency => ("emergency mode", style(Consequence::Halt)),
        Ended::Rescue => ("rescue mode", style(Consequence::Halt)),
        Ended::Waiting | Ended::NotKnown => return out + "\n",
    };
    let at = boot.ended_at_s.map_or(0, |s| column(s, end, bars));
    let mark = padded(&format!("{}▲", " ".repeat(at)), bars);
    let when = boot.ended_at_s.map(|s| format!("at {}", seconds(Some(s)))).unwrap_or_default();
    out.push_str(&format!(
        "        {}  {mark}  {}\n\n",
        styled(color, &padded(word, names)),
        styled(color, &when)
    ));
    out
}

fn bar(entry: &EntrySeen, at: Option<f64>, end: f64, width: usize) -> String {
    let mark = match entry.seen {
        Seen::Mounted | Seen::Active => '●',
        Seen::OnAccess => '○',
        Seen::Waiting => '▸',
        Seen::NotKnown => '?',
        _ if missed(entry) => '×',
        _ => '○',
    };
    let (at, waited) = (at.map_or(0, |s| column(s, end, width)), entry.waited_s.is_some());
    format!("{}{mark}", if waited { "·" } else { " " }.repeat(at))
}

/// The column of a moment, from 0.
#[allow(clippy::cast_possible_truncation, clippy::cast_sign_loss, clippy::cast_precision_loss)]
fn column(at: f64, end: f64, width: usize) -> usize {
    if end <= 0.0 { 0 } else { ((at / end) * (width - 1) as f64).round() as usize }.min(width - 1)
}

/// Each entry that did not end as forecast.
fn differences(boot: &Hindsight, width: usize) -> String {
    let differs = boot.entries.iter().filter(|e| e.agreement == Agreement::Differed);
    differs.map(|entry| labelled("differs", &differs_words(entry), width)).collect()
}

fn differs_words(entry: &EntrySeen) -> String {
    let why = match entry.forecast_why.is_empty() {
        true => String::new(),
        false => format!(" ({})", visible(&entry.forecast_why)),
    };
    let waited = entry.waited_s.map(|s| format!(" after a wait of {}", seconds(Some(s)))).unwrap_or_default();
    format!(
        "line {}, {}: {}{waited}; the forecast says {}{why}",
        entry.line,
        visible(place(entry)),
        entry.seen.words(),
        entry.forecast.words()
    )
}

/// A reboot between two surveys: what it did that was not forecast before it.
pub fn between(host: &str, boot: &Hindsight, width: usize) -> String {
    let told = match boot.agreement {
        Agreement::Agreed => "as the forecast before it had said",
        Agreement::Differed => "the forecast before it had said otherwise",
        Agreement::NotKnown => "the forecast before it cannot be held against it",
    };
    let began = boot.began_s.map(|s| format!(" at {}", utc(s))).unwrap_or_default();
    let head = format!("{host}: rebooted{began}, and {}: {told}.", ended_words(boot));
    let mut out = String::new();
    for line in wrapped(&head, width) {
        out.push_str(&format!("{}\n", styled(look_of(boot), &line)));
    }
    out.push_str(&differences(boot, width));
    out
}

/// What took long, by the entry where it belongs to one.
fn slow_words(slow: &Slow, entries: &[EntrySeen]) -> String {
    let entry = entries.iter().find(|e| Some(e.line) == slow.line);
    let name = match entry {
        Some(entry) => format!("line {}, {}", entry.line, visible(place(entry))),
        None => visible(&slow.unit).into_owned(),
    };
    let (took, device) = (seconds(Some(slow.took_s)), slow.unit.ends_with(".device"));
    match (slow.result, device) {
        (Some(JobResult::Timeout), true) => {
            format!("{name}: its device was waited for {took} and did not come")
        }
        (None, true) => format!("{name}: its device is waited for, {took} so far"),
        (_, true) => format!("{name}: {took} until its device was there"),
        (Some(JobResult::Failed | JobResult::Timeout), _) => format!("{name}: {took}, and it failed"),
        _ if slow.unit.starts_with("systemd-fsck") => format!("{name}: its check took {took}"),
        _ if slow.unit.ends_with(".mount") => format!("{name}: mounting it took {took}"),
        _ => format!("{name}: {took}"),
    }
}

/// Boots a line each, the latest first.
pub fn list(all: &[HindsightReport], width: usize) -> String {
    if all.is_empty() {
        return "Nothing is known of any boot: no journal of the init system could be read.\n".to_owned();
    }
    let mut out = String::new();
    for report in all {
        let boot = &report.hindsight;
        let began = boot.began_s.map(utc).unwrap_or_default();
        let told = match boot.agreement {
            Agreement::Agreed => "as forecast",
            Agreement::Differed => "not as forecast",
            Agreement::NotKnown => "not known whether as forecast",
        };
        let line = format!("{:>4}  {began}  {}; {told}", boot.boot, ended_words(boot));
        out.push_str(&format!("{}\n", styled(look_of(boot), &shortened(&line, width))));
    }
    out
}
