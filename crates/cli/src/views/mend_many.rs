//! The repairs of many hosts: how many, of which kinds, what each comes to.

use crate::ui::{BOLD, FAINT, padded, shortened, styled, wrapped};
use bradawl_documents::{MendLine, MendManyReport, MendState};
use bradawl_facts::text::{count, visible};

/// Hosts beyond this many are only counted.
const MAX_SHOWN: usize = 200;

pub fn text(report: &MendManyReport, width: usize) -> String {
    let of = |state| report.count(state);
    let (done, refused) = (of(MendState::Repaired), of(MendState::Refused));
    let stopped = |h: &&MendLine| !h.outcome_before.reaches_login();
    let saved = report.hosts.iter().filter(|h| h.state == MendState::Repaired);
    let saved = saved.filter(|h| h.outcome_after.reaches_login()).filter(stopped).count();
    let mut first = format!("{}: {done} repaired", count(report.hosts.len() + report.failed.len(), "host"));
    first.push_str(&format!(", {} need no repair that is safe", of(MendState::Unchanged)));
    if refused > 0 {
        first.push_str(&format!(", {refused} left alone because something would get worse"));
    }
    if saved > 0 {
        first.push_str(&format!("; {saved} that would not come back from a reboot will"));
    }
    let mut out = wrapped(&(first + "."), width).join("\n") + "\n\n";
    if let Some(folder) = report.hosts.iter().find_map(|h| h.directory.as_deref()) {
        let above = folder.rsplit_once('/').map_or(folder, |(above, _)| above);
        out.push_str(&format!(
            "Written below {}: for each of them the table, the patch, steps, mend.json.\n\n",
            visible(above)
        ));
    }
    let shown: Vec<&MendLine> = report.hosts.iter().filter(|h| h.state != MendState::Unchanged).collect();
    let name = |h: &MendLine| visible(&h.host).into_owned();
    let column = shown.iter().map(|h| name(h).chars().count()).max().unwrap_or(0).min(24);
    for host in shown.iter().take(MAX_SHOWN) {
        let label = padded(&shortened(&name(host), column), column);
        let told = match host.state {
            MendState::Refused => format!("left alone: {}", host.worse.join("; ")),
            _ => host.verdict_after.clone(),
        };
        out.push_str(&format!(
            "  {label}  {}\n",
            shortened(&visible(&told), width.saturating_sub(column + 4))
        ));
    }
    if shown.len() > MAX_SHOWN {
        let more = format!("  and {} more; --format json gives all", shown.len() - MAX_SHOWN);
        out.push_str(&format!("{}\n", styled(FAINT, &more)));
    }
    if !report.kinds.is_empty() {
        out.push_str(&format!("\n{}\n", styled(BOLD, "Repairs")));
    }
    for kind in &report.kinds {
        let rule = kind.rule.map(|rule| format!(" ({rule})")).unwrap_or_default();
        let text = format!("{:>6}  {}{rule}", kind.hosts, visible(&kind.what));
        for (n, line) in wrapped(&text, width.saturating_sub(8)).iter().enumerate() {
            out.push_str(&format!("{}{line}\n", if n == 0 { "" } else { "        " }));
        }
    }
    out
}
