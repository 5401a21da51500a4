//! Hosts over time: what changed, what stands, who goes back and forth.

use crate::ui::{BOLD, FAINT, padded, shortened, style, styled, wrapped};
use bradawl_documents::trend::{ChangeSort, HostChange, StandingFinding, TrendReport};
use bradawl_facts::Consequence;
use bradawl_facts::size::age;
use bradawl_facts::text::{count, visible};
use std::collections::BTreeMap;

/// More of a kind than this are only counted.
const MAX_SHOWN: usize = 20;

pub fn text(report: &TrendReport, width: usize) -> String {
    let mut out = wrapped(&headline(report), width).join("\n") + "\n\n";
    let column =
        report.surveys.iter().map(|s| visible(&s.survey).chars().count()).max().unwrap_or(0).clamp(6, 24);
    let head = ["hosts", "will not return", "impaired"];
    out.push_str(&format!(
        "{}  {}\n",
        styled(BOLD, &padded("Survey", column + 2)),
        styled(FAINT, &head.join("  "))
    ));
    for survey in &report.surveys {
        let name = padded(&shortened(&visible(&survey.survey), column), column);
        let cells = [survey.hosts, survey.lost, survey.impaired];
        let cells: Vec<String> =
            cells.iter().zip(head).map(|(n, h)| format!("{n:>w$}", w = h.len())).collect();
        out.push_str(&format!("  {name}  {}\n", cells.join("  ")));
    }
    section(&mut out, "Changed, latest first", report.changes.iter().rev().map(change), width);
    section(&mut out, "Standing findings, oldest first", report.standing.iter().map(standing), width);
    let restless = report.restless.iter().map(|r| {
        (None, format!("{}: its boot ended differently {}", visible(&r.host), count(r.changes, "time")))
    });
    section(&mut out, "Back and forth", restless, width);
    out
}

fn headline(report: &TrendReport) -> String {
    let surveys = count(report.surveys.len(), "survey");
    let (Some(first), Some(last)) = (report.surveys.first(), report.surveys.last()) else {
        return format!("{surveys}.");
    };
    let since = match last.lost.cmp(&first.lost) {
        _ if report.surveys.len() < 2 => String::new(),
        std::cmp::Ordering::Equal => format!(", as many as in {}", visible(&first.survey)),
        std::cmp::Ordering::Greater => {
            format!(", {} more than in {}", last.lost - first.lost, visible(&first.survey))
        }
        std::cmp::Ordering::Less => {
            format!(", {} fewer than in {}", first.lost - last.lost, visible(&first.survey))
        }
    };
    format!(
        "{surveys}: in {}, {} of {} will not come back from a reboot{since}.",
        visible(&last.survey),
        last.lost,
        count(last.hosts, "host")
    )
}

fn section(
    out: &mut String,
    title: &str,
    lines: impl ExactSizeIterator<Item = (Option<Consequence>, String)>,
    width: usize,
) {
    let all = lines.len();
    if all == 0 {
        return;
    }
    out.push_str(&format!("\n{}\n", styled(BOLD, title)));
    for (consequence, line) in lines.take(MAX_SHOWN) {
        for (n, line) in wrapped(&line, width.saturating_sub(4)).iter().enumerate() {
            let before = if n == 0 { "  " } else { "    " };
            let line = consequence.map_or(line.clone(), |c| styled(style(c), line));
            out.push_str(&format!("{before}{line}\n"));
        }
    }
    if all > MAX_SHOWN {
        let more = format!("  and {} more; --format json gives all\n", all - MAX_SHOWN);
        out.push_str(&styled(FAINT, &more));
    }
}

fn change(change: &HostChange) -> (Option<Consequence>, String) {
    let because = change.because.as_ref().map(|b| format!(" ({})", visible(b))).unwrap_or_default();
    let ends = |o: Option<bradawl_boot::Outcome>| o.map_or("no record", bradawl_boot::Outcome::words);
    let told = match change.change {
        ChangeSort::New => format!("new: {}", ends(change.now)),
        ChangeSort::Gone => "no record in this survey".to_owned(),
        ChangeSort::Back => format!("has a record again: {}", ends(change.now)),
        ChangeSort::Worse => format!("{}{because}; before: {}", ends(change.now), ends(change.before)),
        ChangeSort::Better => format!("{}; before: {}", ends(change.now), ends(change.before)),
    };
    let lost = change.now.is_some_and(|o| !o.reaches_login());
    let style = (lost && change.change != ChangeSort::Better).then_some(Consequence::Halt);
    (style, format!("{}  {}: {told}", visible(&change.survey), visible(&change.host)))
}

fn standing(one: &StandingFinding) -> (Option<Consequence>, String) {
    let place = one.target.as_ref().map(|t| format!(" {}", visible(t))).unwrap_or_default();
    let old = match one.age_s {
        Some(s) if one.surveys > 1 => format!("for {}, ", age(s)),
        _ => String::new(),
    };
    let since = format!("{old}since {} ({})", visible(&one.since), count(one.surveys, "survey"));
    let text = format!("{:<7}  {}{place}: {}, {since}", one.consequence.name(), visible(&one.host), one.rule);
    (Some(one.consequence), text)
}

/// The last survey for a time series database: what it counts, and how old its
/// findings are.
pub fn prometheus(report: &TrendReport) -> String {
    let mut out = String::new();
    let mut gauge = |name: &str, help: &str, rows: Vec<(String, String)>| {
        out.push_str(&format!("# HELP bradawl_{name} {help}\n# TYPE bradawl_{name} gauge\n"));
        rows.iter().for_each(|(labels, value)| out.push_str(&format!("bradawl_{name}{labels} {value}\n")));
    };
    if let Some(last) = report.surveys.last() {
        let row = |n: usize| vec![(String::new(), n.to_string())];
        gauge("survey_hosts", "Hosts in the last survey.", row(last.hosts));
        gauge(
            "survey_hosts_lost",
            "Hosts of the last survey that will not come back from a reboot.",
            row(last.lost),
        );
    }
    let mut changes: BTreeMap<&str, usize> = BTreeMap::new();
    for change in report.changes.iter().filter(|c| matches!(c.change, ChangeSort::Worse | ChangeSort::Better))
    {
        *changes.entry(&change.host).or_default() += 1;
    }
    let rows = changes.iter().map(|(host, n)| (format!("{{host=\"{}\"}}", label(host)), n.to_string()));
    gauge(
        "host_outcome_changes",
        "How often the outcome of a host changed over the surveys.",
        rows.collect(),
    );
    let rows = report.standing.iter().filter_map(|s| {
        let target = label(s.target.as_deref().unwrap_or_default());
        let labels = format!("{{host=\"{}\",rule=\"{}\",target=\"{target}\"}}", label(&s.host), s.rule);
        Some((labels, s.age_s?.to_string()))
    });
    gauge("finding_age_seconds", "How long a finding of the last survey has stood.", rows.collect());
    out
}

/// As the value of a label.
fn label(text: &str) -> String {
    visible(text).replace('\\', "\\\\").replace('"', "\\\"")
}
