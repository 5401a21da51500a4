//! The last boots of many hosts as one page of HTML: those that were not as
//! forecast first, how long each took as a bar. It reads without its script,
//! which only hides rows.

use super::fleet::{counted, ended_word, fleet_headline, known, notable, share};
use crate::outcome::CommandError;
use askama::Template;
use bradawl_documents::hindsight::{Agreements, HindsightFleet, HindsightLine};
use bradawl_facts::size::seconds;
use bradawl_facts::text::{count, visible};
use bradawl_judgement::hindsight::{Agreement, Ended};
use std::collections::BTreeMap;

#[derive(Template)]
#[template(path = "hindsight.html")]
struct Page {
    headline: String,
    differs: bool,
    entries: String,
    failed: Vec<String>,
    /// What is counted: a heading, and names with their shares and counts.
    tables: Vec<(&'static str, Vec<Counted>)>,
    rows: Vec<Row>,
    rest: Vec<Row>,
    rest_words: String,
}

/// A name, its share, and how many.
type Counted = (String, String, String);

/// A host's last boot.
struct Row {
    host: String,
    class: &'static str,
    agreement: &'static str,
    ended: &'static str,
    bad: bool,
    at: String,
    /// In pixels of 160.
    width: String,
    differed: String,
    slowest: String,
}

/// The page of a run.
pub fn html(report: &HindsightFleet) -> Result<String, CommandError> {
    let whole = report.hosts.iter().filter_map(|h| h.ended_at_s).fold(1.0, f64::max);
    let (rows, rest): (Vec<&HindsightLine>, Vec<_>) = report.hosts.iter().partition(|h| notable(h));
    let table = |all: &BTreeMap<String, Agreements>| {
        all.iter().map(|(name, one)| (shown(name), share(one), counted(one))).collect::<Vec<_>>()
    };
    let page = Page {
        headline: fleet_headline(report),
        differs: report.boots.differed > 0,
        entries: format!("{} of {} as forecast", share(&report.entries), known(&report.entries)),
        failed: report.failed.iter().map(|f| shown(&format!("{}: {}", f.input, f.error))).collect(),
        tables: vec![
            ("Entries by type", table(&report.by_type)),
            ("Boots by forecast", table(&report.by_outcome)),
        ],
        rows: rows.into_iter().map(|h| row(h, whole)).collect(),
        rest_words: format!("{} as forecast, with no wait of a second or more", count(rest.len(), "host")),
        rest: rest.into_iter().map(|h| row(h, whole)).collect(),
    };
    page.render().map_err(|e| CommandError::input("the page", e))
}

fn shown(text: &str) -> String {
    visible(text).into_owned()
}

fn row(host: &HindsightLine, whole: f64) -> Row {
    let (class, agreement) = match host.agreement {
        Agreement::Agreed => ("agreed", "as forecast"),
        Agreement::Differed => ("differed", "not as forecast"),
        Agreement::NotKnown => ("not-known", "not known"),
    };
    let at = host.ended_at_s.map(|s| s.max(0.0));
    Row {
        host: shown(&host.host),
        class,
        agreement,
        ended: ended_word(host.ended),
        bad: matches!(host.ended, Ended::Emergency | Ended::Rescue),
        at: at.map(|s| seconds(Some(s))).unwrap_or_default(),
        width: format!("{:.0}", at.unwrap_or(0.0) / whole * 160.0),
        differed: shown(&host.differed.join(", ")),
        slowest: host
            .slowest
            .as_ref()
            .map(|(s, what)| format!("{} for {}", seconds(Some(*s)), shown(what)))
            .unwrap_or_default(),
    }
}
