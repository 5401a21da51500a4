//! A layout on hosts: how many fit, what changes where, who is left alone and
//! why.

use crate::ui::{FAINT, padded, shortened, style, styled, wrapped};
use bradawl_change::layout::LaidState;
use bradawl_documents::{LayoutLine, LayoutReport, LayoutState};
use bradawl_facts::Consequence;
use bradawl_facts::text::{count, visible};

/// Hosts beyond this many are only counted.
const MAX_SHOWN: usize = 200;

pub fn text(report: &LayoutReport, diff: Option<&str>, width: usize) -> String {
    let mut out = wrapped(&headline(report), width).join("\n") + "\n\n";
    let told: Vec<&LayoutLine> = report.hosts.iter().filter(|h| h.state != LayoutState::Fits).collect();
    let name = |h: &LayoutLine| visible(&h.host).into_owned();
    let column = told.iter().map(|h| name(h).chars().count()).max().unwrap_or(0).min(24);
    for host in told.iter().take(MAX_SHOWN) {
        let label = padded(&shortened(&name(host), column), column);
        for (n, line) in wrapped(&words(host), width.saturating_sub(column + 4)).iter().enumerate() {
            let before = if n == 0 { label.clone() } else { " ".repeat(column) };
            let line = match host.state {
                LayoutState::Refused => styled(style(Consequence::Halt), line),
                LayoutState::Unresolved => styled(style(Consequence::Missing), line),
                _ => line.clone(),
            };
            out.push_str(&format!("  {before}  {line}\n"));
        }
    }
    if told.len() > MAX_SHOWN {
        let more = format!("  and {} more; --format json gives all", told.len() - MAX_SHOWN);
        out.push_str(&format!("{}\n", styled(FAINT, &more)));
    }
    if let (Some(diff), [host]) = (diff, report.hosts.as_slice()) {
        if !diff.is_empty() {
            out.push_str(&format!("\n{diff}"));
        }
        if !host.steps.is_empty() {
            out.push_str(&format!("\nFirst, on the host:\n{}", super::steps::steps(&host.steps, width)));
        }
    }
    out
}

fn headline(report: &LayoutReport) -> String {
    let of = |state| report.count(state);
    let told = [
        (LayoutState::Fits, "as the layout has it"),
        (LayoutState::Changes, "would change"),
        (LayoutState::Unresolved, "cannot be resolved in full"),
        (LayoutState::Refused, "left alone because something would get worse"),
    ];
    let some = told.iter().filter(|(state, _)| of(*state) > 0);
    let parts: Vec<String> = some.map(|(state, words)| format!("{} {words}", of(*state))).collect();
    format!("{}: {}.", count(report.hosts.len() + report.failed.len(), "host"), parts.join(", "))
}

fn words(host: &LayoutLine) -> String {
    if host.state == LayoutState::Refused {
        return format!("left alone: {}", visible(&host.worse.join("; ")));
    }
    let each = host.changes.iter().filter(|c| c.state != LaidState::Kept).map(|change| {
        let what = match (change.state, &change.why) {
            (LaidState::Added, _) => "added".to_owned(),
            (LaidState::Changed, _) => "changed".to_owned(),
            (LaidState::SwitchedOff, _) => "switched off".to_owned(),
            (_, Some(why)) => format!("not resolved: {}", visible(why)),
            (LaidState::Kept | LaidState::Unresolved, None) => String::new(),
        };
        let target = if change.target == "none" { "swap" } else { &change.target };
        format!("{} {what}", visible(target))
    });
    let changes = each.collect::<Vec<_>>().join(", ");
    let boot = match host.verdict_before == host.verdict_after {
        true => String::new(),
        false => format!("; then {}", visible(&host.verdict_after)),
    };
    let steps = match host.steps.len() {
        0 => String::new(),
        n => format!("; {} first", count(n, "step")),
    };
    format!("{changes}{steps}{boot}")
}
