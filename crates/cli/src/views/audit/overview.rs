//! Many hosts: a line for each, what several share, the sums of each role.

use super::{totals_words, verdict_style};
use crate::ui::{BOLD, FAINT, padded, shortened, style, styled, wrapped};
use bradawl_documents::Failure;
use bradawl_documents::fleet::{
    FleetReport, HostLine, MAX_SOUND, MissingHost, NO_ROLE, RoleLine, SharedFinding, Sums,
};
use bradawl_facts::Consequence;
use bradawl_facts::text::{count, list, visible};
use bradawl_judgement::Elsewhere;

/// Findings that several hosts share, beyond this many, are only counted.
const MAX_SHARED: usize = 20;

/// How many hosts will come back, then a line for each, worst first.
pub fn overview(
    (hosts, sums): (&[HostLine], &Sums),
    failed: &[Failure],
    missing: &[MissingHost],
    (width, all): (usize, bool),
) -> String {
    let first = format!("{}.{}", sums.headline(failed.len(), missing), unread(failed.len()));
    let mut out = wrapped(&first, width).join("\n") + "\n\n";
    let name = |h: &HostLine| visible(&h.host).into_owned();
    let folded = !all && sums.sound > MAX_SOUND;
    let mut order: Vec<&HostLine> = hosts.iter().filter(|h| !folded || !h.is_sound()).collect();
    order.sort_by_key(|host| host.rank());
    let column = order.iter().map(|h| name(h).chars().count()).max().unwrap_or(0).min(24);
    for host in order {
        let label = padded(&shortened(&name(host), column), column);
        let rest = with_reason(host, width.saturating_sub(column + 4));
        out.push_str(&format!("  {label}  {}\n", styled(verdict_style(host.outcome), &rest)));
    }
    if folded {
        let text = format!(
            "{} come back with everything in place; --all lists them",
            count(sums.sound, "sound host")
        );
        out.push_str(&format!("  {}\n", styled(FAINT, &text)));
    }
    for one in missing {
        let text = format!("{}: {}", visible(&one.host), one.words());
        out.push_str(&format!("  {}\n", styled(style(Consequence::Halt), &shortened(&text, width - 2))));
    }
    for failure in failed {
        out.push_str(&format!("  {}\n", shortened(&visible(&failure.error), width - 2)));
    }
    out.push('\n');
    out
}

fn unread(failed: usize) -> String {
    if failed == 0 { String::new() } else { format!(" {failed} could not be judged.") }
}

/// What the boot will do, and as much of the reason as there is room for.
fn with_reason(host: &HostLine, width: usize) -> String {
    if let Some(worst) = &host.at_worst {
        return shortened(&format!("not known; at worst: {worst}"), width);
    }
    let because = host.because.as_deref().map(|b| visible(b).into_owned()).unwrap_or_default();
    let place = because.split(": ").next().unwrap_or_default();
    let told = [because.as_str(), place].map(|why| format!("{} ({why})", host.verdict));
    let fits = told.into_iter().find(|text| !because.is_empty() && text.chars().count() <= width);
    fits.unwrap_or_else(|| shortened(&host.verdict, width))
}

/// The overview with what hosts share and the sums of each role.
pub fn summary(report: &FleetReport, (width, all): (usize, bool)) -> String {
    let mut out = overview((&report.hosts, &report.sums), &report.failed, &report.missing, (width, all));
    let shared: Vec<&SharedFinding> =
        report.shared.iter().filter(|s| s.hosts > 1 && s.consequence < Consequence::Note).collect();
    if !shared.is_empty() {
        out.push_str(&styled(BOLD, "On several hosts"));
        out.push('\n');
        shared.iter().take(MAX_SHARED).for_each(|one| out.push_str(&on_several(one, width)));
        if shared.len() > MAX_SHARED {
            let more = format!("  and {} more; --format json gives all\n", shared.len() - MAX_SHARED);
            out.push_str(&styled(FAINT, &more));
        }
        out.push('\n');
    }
    out.push_str(&elsewhere(&report.elsewhere, width));
    if report.roles.iter().any(|r| r.role != NO_ROLE) {
        out.push_str(&roles(&report.roles));
    }
    out.push_str(&totals_words(report.totals));
    out.push('\n');
    for line in super::policy_lines(report.policy.as_ref(), report.sums.silenced) {
        out.push_str(&styled(FAINT, &wrapped(&line, width).join("\n")));
        out.push('\n');
    }
    out
}

/// One of them in a sentence.
pub fn elsewhere_words(one: &Elsewhere) -> String {
    let on: Vec<String> = one.on.iter().map(|host| visible(host).into_owned()).collect();
    let (host, name) = (visible(&one.host), visible(&one.name));
    format!("{host}, line {}: {name} is a device of {}.", one.line, list(&on))
}

/// Lost UUIDs that belong to another of the hosts.
pub(super) fn elsewhere(found: &[Elsewhere], width: usize) -> String {
    if found.is_empty() {
        return String::new();
    }
    let mut out = format!("{}\n", styled(BOLD, "UUIDs of another host"));
    for one in found.iter().take(MAX_SHARED) {
        for (n, line) in wrapped(&elsewhere_words(one), width.saturating_sub(4)).iter().enumerate() {
            out.push_str(&format!("{}{line}\n", if n == 0 { "  " } else { "    " }));
        }
    }
    if found.len() > MAX_SHARED {
        let more = format!("  and {} more; --format json gives all\n", found.len() - MAX_SHARED);
        out.push_str(&styled(FAINT, &more));
    }
    out.push('\n');
    out
}

fn on_several(one: &SharedFinding, width: usize) -> String {
    let label = format!("  {:<8}", one.consequence.name());
    let target = one.target.as_deref().map(|t| format!("{}: ", visible(t))).unwrap_or_default();
    let text = format!("{target}{} ({}) {}", visible(&one.message), one.rule, whose(one));
    let mut out = String::new();
    for (n, line) in wrapped(&text, width.saturating_sub(10)).iter().enumerate() {
        let before = if n == 0 { styled(style(one.consequence), &label) } else { " ".repeat(10) };
        out.push_str(&format!("{before}{line}\n"));
    }
    out
}

/// "212 hosts of role archive", or the sum with each role's share.
fn whose(one: &SharedFinding) -> String {
    let hosts = count(one.hosts, "host");
    match one.roles.iter().collect::<Vec<_>>().as_slice() {
        [(role, _)] if role.as_str() == NO_ROLE => hosts,
        [(role, _)] => format!("{hosts} of role {}", visible(role)),
        roles => {
            let each: Vec<String> = roles.iter().map(|(role, n)| format!("{} {n}", visible(role))).collect();
            format!("{hosts}: {}", each.join(", "))
        }
    }
}

fn roles(roles: &[RoleLine]) -> String {
    let column = roles.iter().map(|r| visible(&r.role).chars().count()).max().unwrap_or(0).clamp(4, 24);
    let head = ["hosts", "will not return", "late", "without something", "not known", "sound"];
    let mut out =
        format!("{}  {}\n", styled(BOLD, &padded("Role", column + 2)), styled(FAINT, &head.join("  ")));
    for role in roles {
        let name = padded(&shortened(&visible(&role.role), column), column);
        let cells = [role.hosts, role.lost, role.late, role.partial, role.not_known, role.sound];
        let cells: Vec<String> =
            cells.iter().zip(head).map(|(n, h)| format!("{n:>w$}", w = h.len())).collect();
        out.push_str(&format!("  {name}  {}\n", cells.join("  ")));
    }
    out.push('\n');
    out
}
