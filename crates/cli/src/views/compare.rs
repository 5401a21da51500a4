//! What differs, for reading: the worst first, old and new under each other.

use crate::ui::{BOLD, FAINT, GOOD, labelled, style, styled, wrapped};
use bradawl_facts::text::{count, visible};
use bradawl_judgement::compare::{Comparison, Departure, Departures, Difference};
use bradawl_judgement::rules::Finding;

/// Hosts beyond this many are only counted.
const MAX_HOSTS: usize = 30;
/// Points of one host beyond this many are only counted.
const MAX_POINTS: usize = 8;

/// Two records.
pub fn pair(comparison: &Comparison, width: usize) -> String {
    let (a, b) = (visible(&comparison.before.host), visible(&comparison.after.host));
    let (names, labels) = match comparison.same_host {
        true => (format!("{b}, then and now"), ["then", "now"].map(str::to_owned)),
        false => (format!("{a} and {b}"), [a.into_owned(), b.into_owned()]),
    };
    let reboot = comparison
        .reboot
        .as_ref()
        .map(|boot| super::hindsight::between(&visible(&comparison.after.host), boot, width) + "\n");
    let reboot = reboot.unwrap_or_default();
    if comparison.differences.is_empty() {
        let text = format!("{names}: nothing that matters differs.");
        return format!("{reboot}{}\n", styled(GOOD, &text));
    }
    let number = count(comparison.differences.len(), "difference");
    let mut out = format!("{reboot}{}\n\n", styled(BOLD, &format!("{names}: {number}.")));
    let mut last = String::new();
    for one in &comparison.differences {
        let head =
            format!("{}  {}", styled(style(one.harm), one.harm.name()), styled(BOLD, &visible(&one.subject)));
        if head != last {
            out.push_str(&format!("{head}\n"));
            last = head;
        }
        out.push_str(&sides(one, &labels, width));
    }
    out
}

fn sides(one: &Difference, labels: &[String; 2], width: usize) -> String {
    let side = |value: &Option<String>| {
        value.as_deref().map_or_else(|| "not there".to_owned(), |v| visible(v).into_owned())
    };
    let text =
        format!("{}: {} {}, {} {}", one.aspect, labels[0], side(&one.before), labels[1], side(&one.after));
    wrapped(&text, width.saturating_sub(4)).iter().map(|line| format!("    {line}\n")).collect()
}

/// A table and what runs.
pub fn running(host: &str, findings: &[Finding], width: usize) -> String {
    let host = visible(host);
    if findings.is_empty() {
        return format!("{}\n", styled(GOOD, &format!("{host}: what runs is what the table says.")));
    }
    let number = count(findings.len(), "difference");
    let mut out =
        format!("{}\n", styled(BOLD, &format!("{host}: {number} between the table and what runs.")));
    for finding in findings {
        let place = finding.line.map(|n| format!("line {n}: ")).unwrap_or_default();
        let head = styled(style(finding.consequence), finding.consequence.name());
        out.push_str(&format!("\n{head}  {}\n", styled(FAINT, finding.rule)));
        out.push_str(&labelled("differs", &format!("{place}{}", visible(&finding.message)), width));
        out.push_str(&labelled("effect", &visible(&finding.why), width));
        out.push_str(&labelled("to do", &visible(&finding.remedy), width));
    }
    out
}

/// Hosts of a role.
pub fn group(found: &Departures, width: usize) -> String {
    let hosts = count(found.hosts, "host");
    let mut out = match found.departures.first() {
        None => {
            return format!("{}\n", styled(GOOD, &format!("{hosts}: each is as the others of its role.")));
        }
        Some(first) => {
            let odd = found.departures.len();
            let who = format!("{hosts}: {odd} depart from their role, {} the most.", visible(&first.host));
            format!("{}\n", styled(BOLD, &who))
        }
    };
    for one in found.departures.iter().take(MAX_HOSTS) {
        out.push_str(&departure(one, width));
    }
    if found.departures.len() > MAX_HOSTS {
        let more = format!("\nand {} more; --format json gives all\n", found.departures.len() - MAX_HOSTS);
        out.push_str(&styled(FAINT, &more));
    }
    out
}

fn departure(one: &Departure, width: usize) -> String {
    let head = format!("{}, {}", visible(&one.host), visible(&one.role));
    let mut out =
        format!("\n{}  {}\n", styled(BOLD, &head), styled(FAINT, &format!("score {:.0}", one.score)));
    for point in one.points.iter().take(MAX_POINTS) {
        let side = |v: &Option<String>| {
            v.as_deref().map_or_else(|| "not there".to_owned(), |v| visible(v).into_owned())
        };
        let text = format!(
            "{} {}: {}; the others: {}",
            visible(&point.subject),
            point.aspect,
            side(&point.here),
            side(&point.common)
        );
        let label = format!("  {:<9}", point.harm.name());
        for (n, line) in wrapped(&text, width.saturating_sub(11)).iter().enumerate() {
            let before = if n == 0 { styled(style(point.harm), &label) } else { " ".repeat(11) };
            out.push_str(&format!("{before}{line}\n"));
        }
    }
    if one.points.len() > MAX_POINTS {
        out.push_str(&format!("{:11}and {} more\n", "", one.points.len() - MAX_POINTS));
    }
    out
}
