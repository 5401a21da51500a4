//! The last boots of many hosts, for reading: those that differ first.

use super::look;
use crate::ui::{labelled, padded, shortened, styled, wrapped};
use bradawl_documents::hindsight::{Agreements, HindsightFleet, HindsightLine};
use bradawl_facts::size::seconds;
use bradawl_facts::text::{count, some, visible};
use bradawl_judgement::hindsight::{Agreement, Ended};

/// How often the forecast was right, and the hosts whose boots differ first.
pub fn fleet(report: &HindsightFleet, width: usize) -> String {
    if report.hosts.is_empty() {
        return "No record could be read.\n".to_owned();
    }
    let mut out = wrapped(&fleet_headline(report), width).join("\n") + "\n";
    out.push_str(&labelled(
        "entries",
        &format!("{} of {} as forecast", share(&report.entries), known(&report.entries)),
        width,
    ));
    for (fstype, one) in report.by_type.iter().filter(|(_, one)| one.differed > 0) {
        out.push_str(&labelled("", &format!("{}: {} of {}", visible(fstype), share(one), known(one)), width));
    }
    for (outcome, one) in report.by_outcome.iter().filter(|(_, one)| one.differed > 0) {
        let text = format!("forecast to end {outcome}: {} did", counted(one));
        out.push_str(&labelled("boots", &text, width));
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

/// The share of what is known that agreed.
pub(super) fn share(all: &Agreements) -> String {
    all.share().map_or_else(|| "not known".to_owned(), |s| format!("{:.1} %", s * 100.0))
}

/// What is worth a line: a boot not as forecast, or one that waited.
pub(super) fn notable(host: &HindsightLine) -> bool {
    host.agreement != Agreement::Agreed || host.slowest.is_some()
}

pub(super) fn known(all: &Agreements) -> String {
    count(all.agreed + all.differed, "entry")
}

/// How many of those that are known agreed, and how many are not known.
pub(super) fn counted(all: &Agreements) -> String {
    let known = format!("{} of {}", all.agreed, all.agreed + all.differed);
    match (all.agreed + all.differed, all.not_known) {
        (0, n) => format!("{n} not known"),
        (_, 0) => known,
        (_, n) => format!("{known}; {n} not known"),
    }
}

pub(super) fn fleet_headline(report: &HindsightFleet) -> String {
    let Agreements { agreed, differed, not_known } = report.boots;
    let open = if not_known > 0 { format!("; {not_known} not known") } else { String::new() };
    match differed {
        0 => format!("{}: {agreed} ended as forecast{open}.", count(report.hosts.len(), "boot")),
        n => format!("{}: {n} did not end as forecast{open}.", count(report.hosts.len(), "boot")),
    }
}

/// How a boot ended, in a word or two.
pub(super) fn ended_word(ended: Ended) -> &'static str {
    match ended {
        Ended::Login => "login",
        Ended::Emergency => "emergency mode",
        Ended::Rescue => "rescue mode",
        Ended::Waiting => "still waits",
        Ended::NotKnown => "not known",
    }
}

fn line_words(host: &HindsightLine) -> String {
    let ended = ended_word(host.ended);
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
