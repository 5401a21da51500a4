//! Entries that were tried: the count of those that fail first, then each.

use crate::ui::{BOLD, FAINT, GOOD, labelled, padded, shortened, style, styled, wrapped};
use anstyle::Style;
use bradawl_boot::EntryState;
use bradawl_change::rehearsal::{Job, Way};
use bradawl_documents::{RehearsalResult, RehearseReport, Rehearsed};
use bradawl_facts::Consequence;
use bradawl_facts::text::{count, visible};

/// How far the kernel was taken, in words.
pub fn how(job: &Job) -> String {
    let how = match job.way {
        Way::Offer if job.shown_at.is_some() => {
            "its device is in use: shown from where it is mounted; the kernel accepts each of its options"
        }
        Way::Offer => "its device is in use: the kernel accepts each of its options",
        Way::Swap => "its header and layout are right; it was not activated",
        Way::Bind => "the directory was shown there",
        Way::Program if job.layer => "mounted by the mount program, under a layer that is thrown away",
        Way::Program if job.added.is_empty() => "mounted by the mount program",
        Way::Program => "mounted by the mount program, read-only",
        Way::Mount if job.layer => "mounted, under a layer that is thrown away",
        Way::Mount if job.added.is_empty() => "mounted",
        Way::Mount => "mounted read-only, its journal left alone",
    };
    let left: Vec<&str> = job.left_out.iter().map(|(name, _)| name.as_str()).collect();
    let offered = match left.is_empty() {
        true => String::new(),
        false if left.len() == 1 => format!("; {} does not go with that, and was only offered", left[0]),
        false => format!("; {} do not go with that, and were only offered", left.join(", ")),
    };
    format!("{how}{offered}")
}

pub fn text(report: &RehearseReport, width: usize) -> String {
    let mut out = head(report);
    for entry in &report.entries {
        out.push_str(&one(entry, width));
    }
    out.push('\n');
    if report.left_behind.is_empty() {
        out.push_str("The host's mounts and swap are as they were before.\n");
    }
    for line in &report.left_behind {
        out.push_str(&labelled("changed", &visible(line), width));
    }
    out
}

/// The lines on which the attempt contradicts the forecast, as a headline;
/// nothing where there are none.
pub fn contradicted(report: &RehearseReport, width: usize) -> String {
    let mut out = String::new();
    for entry in report.contradictions() {
        let (found, look) = match entry.is_bad() {
            true => ("does not mount when it is tried", style(Consequence::Halt)),
            false => ("mounts when it is tried", style(Consequence::Missing)),
        };
        let says = entry.forecast.words();
        let text = format!(
            "Line {} {found} ({}), although the forecast below has it {says}. Trust the attempt.",
            entry.line,
            visible(&entry.why)
        );
        for line in wrapped(&text, width) {
            out.push_str(&format!("{}\n", styled(look, &line)));
        }
    }
    out
}

/// What trying the entries came to, in a line, and each that does not mount.
pub fn evidence(report: &RehearseReport, width: usize) -> String {
    let (mut worked, mut bad, mut untried) = (0, Vec::new(), 0);
    for entry in &report.entries {
        match entry.result {
            RehearsalResult::Works => worked += 1,
            _ if entry.is_bad() => bad.push(entry),
            _ => untried += 1,
        }
    }
    let mut text = format!("{} mounted in the order of the boot", count(worked, "entry"));
    if !bad.is_empty() {
        let each: Vec<String> = bad.iter().map(|e| format!("line {}: {}", e.line, visible(&e.why))).collect();
        text.push_str(&format!(", {} did not ({})", bad.len(), each.join("; ")));
    }
    if untried > 0 {
        text.push_str(&format!(", {untried} not tried"));
    }
    let mut out = labelled("tried", &format!("{text}."), width);
    for line in &report.left_behind {
        out.push_str(&labelled("changed", &visible(line), width));
    }
    out
}

fn head(report: &RehearseReport) -> String {
    let number = |result| report.entries.iter().filter(|e| e.result == result).count();
    let bad = number(RehearsalResult::Refused) + number(RehearsalResult::TooLong);
    let works = number(RehearsalResult::Works);
    let skipped = report.entries.len() - works - bad;
    let first = match bad {
        0 => styled(GOOD, &format!("{} mounted", count(works, "entry"))),
        _ => format!(
            "{}, {works} mounted",
            styled(style(Consequence::Halt), &format!("{} rejected", count(bad, "entry")))
        ),
    };
    let skipped = if skipped > 0 { format!(", {skipped} not tried") } else { String::new() };
    let differ = report.contradictions().count();
    let differ = if differ > 0 { format!(", {differ} not as forecast") } else { String::new() };
    let way = if report.exact { "as the entries say" } else { "read-only" };
    let host = styled(BOLD, &visible(&report.host));
    format!("{host} {}: {first}{skipped}{differ}; tried {way}.\n\n", visible(&report.table))
}

fn look(result: RehearsalResult) -> Style {
    match result {
        RehearsalResult::Works => GOOD,
        RehearsalResult::Refused | RehearsalResult::TooLong => style(Consequence::Halt),
        RehearsalResult::Skipped => FAINT,
        RehearsalResult::Failed => style(Consequence::Missing),
    }
}

fn one(entry: &Rehearsed, width: usize) -> String {
    let name = styled(look(entry.result), &padded(entry.result.name(), 10));
    let line = format!("line {}", entry.line);
    let swap = !entry.target.starts_with('/');
    let what = visible(if swap { &entry.source } else { &entry.target }).into_owned();
    let what = shortened(&what, width.saturating_sub(22));
    let mut out = format!("  {name}{}{}\n", padded(&line, 9), styled(BOLD, &what));
    out.push_str(&labelled("", &visible(&entry.why), width));
    if let Some(options) = &entry.options {
        let mut list: Vec<&str> = Vec::new();
        for option in options.split(',').filter(|o| !o.is_empty()) {
            if !list.contains(&option) {
                list.push(option);
            }
        }
        let list = visible(&list.join(", ")).into_owned();
        out.push_str(&labelled("", &format!("in force: {list}"), width));
    }
    if entry.result == RehearsalResult::Refused && !entry.differs && entry.forecast_why != entry.why {
        let same = matches!(entry.forecast, EntryState::Failed | EntryState::TimedOut);
        let says = if same { "the same" } else { entry.forecast.words() };
        out.push_str(&labelled("forecast", &format!("{says}: {}", visible(&entry.forecast_why)), width));
    }
    if entry.differs {
        let state = entry.forecast.words();
        let says = format!("the forecast says otherwise: {state}. Trust this, and report it.");
        out.push_str(&labelled("differs", &says, width));
    }
    out
}
