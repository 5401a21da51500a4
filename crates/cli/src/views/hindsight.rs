//! What a boot did, as the forecast tells what it will do: the difference
//! first, a timeline, what took long.

use crate::outcome::CommandError;
use crate::ui::{BOLD, FAINT, GOOD, labelled, padded, shortened, style, styled, wrapped};
use anstyle::Style;
use bradawl_documents::hindsight::{Agreements, HindsightFleet, HindsightLine, HindsightReport, place};
use bradawl_facts::Consequence;
use bradawl_facts::record::JobResult;
use bradawl_facts::size::seconds;
use bradawl_facts::text::{count, some, visible};
use bradawl_judgement::hindsight::{Agreement, Ended, EntrySeen, Seen, Slow};
use bradawl_judgement::policy::Date;
use std::io;

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

pub fn text(report: &HindsightReport, width: usize) -> String {
    let boot = &report.hindsight;
    let mut out = String::new();
    for line in wrapped(&headline(report), width) {
        out.push_str(&format!("{}\n", styled(look(boot.agreement), &line)));
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
    out.push_str(&timeline(report, width));
    out.push_str(&differences(report, width));
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
    let (boot, ended) = (&report.hindsight, ended_words(report));
    let had = if report.from_before { "had said" } else { "from the same facts says" };
    let verdict = match boot.agreement {
        Agreement::Agreed => format!("the forecast {had} the same"),
        Agreement::Differed => format!("the forecast {had} otherwise: {}", boot.forecast_verdict),
        Agreement::NotKnown => format!("the forecast {had}: {}", boot.forecast_verdict),
    };
    format!("{}: {ended}; {verdict}.", visible(&report.host))
}

/// How it ended, when, and without what.
fn ended_words(report: &HindsightReport) -> String {
    let boot = &report.hindsight;
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

/// A row for each entry: its wait, what it ended in, and the forecast where that
/// was another.
fn timeline(report: &HindsightReport, width: usize) -> String {
    const STATE: usize = 13;
    let boot = &report.hindsight;
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
fn differences(report: &HindsightReport, width: usize) -> String {
    let differs = report.hindsight.entries.iter().filter(|e| e.agreement == Agreement::Differed);
    let mut out = String::new();
    for entry in differs {
        let why = match entry.forecast_why.is_empty() {
            true => String::new(),
            false => format!(" ({})", visible(&entry.forecast_why)),
        };
        let waited =
            entry.waited_s.map(|s| format!(" after a wait of {}", seconds(Some(s)))).unwrap_or_default();
        let text = format!(
            "line {}, {}: {}{waited}; the forecast says {}{why}",
            entry.line,
            visible(place(entry)),
            entry.seen.words(),
            entry.forecast.words()
        );
        out.push_str(&labelled("differs", &text, width));
    }
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
        let line = format!("{:>4}  {began}  {}; {told}", boot.boot, ended_words(report));
        out.push_str(&format!("{}\n", styled(look(boot.agreement), &shortened(&line, width))));
    }
    out
}

/// How often the forecast was right, and the hosts whose boots differ first.
pub fn fleet(report: &HindsightFleet, width: usize) -> String {
    if report.hosts.is_empty() {
        return "No record could be read.\n".to_owned();
    }
    let mut out = wrapped(&fleet_headline(report), width).join("\n") + "\n";
    let share =
        |a: &Agreements| a.share().map_or_else(|| "not known".to_owned(), |s| format!("{:.1} %", s * 100.0));
    out.push_str(&labelled(
        "entries",
        &format!("{} of {} as forecast", share(&report.entries), known(&report.entries)),
        width,
    ));
    for (fstype, one) in report.by_type.iter().filter(|(_, one)| one.differed > 0) {
        out.push_str(&labelled("", &format!("{}: {} of {}", visible(fstype), share(one), known(one)), width));
    }
    out.push('\n');
    let shown: Vec<&HindsightLine> = report.hosts.iter().filter(|h| notable(h)).take(50).collect();
    let column = shown.iter().map(|h| visible(&h.host).chars().count()).max().unwrap_or(0).clamp(8, 24);
    for host in &shown {
        let name = padded(&shortened(&visible(&host.host), column), column);
        let text = shortened(&line_words(host), width.saturating_sub(column + 4));
        out.push_str(&format!("  {name}  {}\n", styled(look(host.agreement), &text)));
    }
    let rest = report.hosts.len() - shown.len();
    if rest > 0 {
        out.push_str(&format!("  {} as forecast, with no wait of a second or more.\n", count(rest, "host")));
    }
    out
}

fn notable(host: &HindsightLine) -> bool {
    host.agreement != Agreement::Agreed || host.slowest.is_some()
}

fn known(all: &Agreements) -> String {
    count(all.agreed + all.differed, "entry")
}

fn fleet_headline(report: &HindsightFleet) -> String {
    let Agreements { agreed, differed, not_known } = report.boots;
    let open = if not_known > 0 { format!("; {not_known} not known") } else { String::new() };
    match differed {
        0 => format!("{}: {agreed} ended as forecast{open}.", count(report.hosts.len(), "boot")),
        n => format!("{}: {n} did not end as forecast{open}.", count(report.hosts.len(), "boot")),
    }
}

fn line_words(host: &HindsightLine) -> String {
    let ended = match host.ended {
        Ended::Login => "login",
        Ended::Emergency => "emergency mode",
        Ended::Rescue => "rescue mode",
        Ended::Waiting => "still waits",
        Ended::NotKnown => "not known",
    };
    let at = host.ended_at_s.map(|s| format!(" after {}", seconds(Some(s)))).unwrap_or_default();
    let differs = match host.differed.is_empty() {
        true => String::new(),
        false => format!(
            "; not as forecast: {}",
            some(&host.differed.iter().map(|d| visible(d).into_owned()).collect::<Vec<_>>())
        ),
    };
    let slow = host.slowest.iter().map(|(s, unit)| format!("; {} for {}", seconds(Some(*s)), visible(unit)));
    format!("{ended}{at}{differs}{}", slow.collect::<String>())
}

/// A row for each host.
///
/// # Errors
/// Never in practice: it is written to memory.
pub fn csv(report: &HindsightFleet) -> Result<String, CommandError> {
    let mut out = ::csv::Writer::from_writer(Vec::new());
    let failed = |e: ::csv::Error| CommandError::from(io::Error::other(e));
    out.write_record(["host", "ended", "ended_at_s", "agreement", "differed", "slowest_s", "slowest"])
        .map_err(failed)?;
    for host in &report.hosts {
        let number = |n: Option<f64>| n.map(|n| n.to_string()).unwrap_or_default();
        let row = [
            super::machine::cell(&host.host),
            name(&host.ended),
            number(host.ended_at_s),
            name(&host.agreement),
            super::machine::cell(&host.differed.join(" ")),
            number(host.slowest.as_ref().map(|(s, _)| *s)),
            super::machine::cell(host.slowest.as_ref().map_or("", |(_, unit)| unit)),
        ];
        out.write_record(&row).map_err(failed)?;
    }
    let bytes = out.into_inner().map_err(|e| io::Error::other(e.to_string()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// The word for it, as in JSON.
fn name(value: &impl serde::Serialize) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// How often forecasts were right, for a time series database.
pub fn prometheus(report: &HindsightFleet) -> String {
    let mut out = String::new();
    for (what, all) in [("boots", &report.boots), ("entries", &report.entries)] {
        out.push_str(&format!(
            "# HELP bradawl_hindsight_{what} The last {what}, by whether they ended as forecast.\n# TYPE bradawl_hindsight_{what} gauge\n"
        ));
        for (word, n) in [("agreed", all.agreed), ("differed", all.differed), ("not-known", all.not_known)] {
            out.push_str(&format!("bradawl_hindsight_{what}{{agreement=\"{word}\"}} {n}\n"));
        }
    }
    out.push_str("# HELP bradawl_boot_seconds When the last boot came to its end, after the init system began.\n# TYPE bradawl_boot_seconds gauge\n");
    for host in &report.hosts {
        let label = visible(&host.host).replace('\\', "\\\\").replace('"', "\\\"");
        if let Some(at) = host.ended_at_s {
            out.push_str(&format!("bradawl_boot_seconds{{host=\"{label}\"}} {at}\n"));
        }
    }
    out
}
