//! Many hosts as one page of HTML: who does not come back first, then roles and what
//! is wrong on several hosts; below, every host with all that is found of it, a
//! hundred at a time, by the page's script. What stands above reads without it.

mod data;

pub use data::Gathering;

use crate::outcome::CommandError;
use askama::Template;
use bradawl_boot::Outcome;
use bradawl_documents::HostAudit;
use bradawl_documents::fleet::{FleetReport, HostLine, NO_ROLE, RoleLine, SharedFinding};
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::text::{count, visible};

/// Lost hosts that stand in the first table.
const MAX_LOST: usize = 30;

#[derive(Template)]
#[template(path = "fleet.html")]
struct Page<'a> {
    headline: String,
    counted: String,
    unread: &'a [String],
    policy: &'a [String],
    lost: Vec<Lost<'a>>,
    more_lost: Option<String>,
    roles: Vec<Role>,
    shared: Vec<Shared>,
    elsewhere: Vec<String>,
    hosts: usize,
    data: String,
}

/// A host as the page needs it.
pub struct HostOf {
    /// As it is called in the run.
    name: String,
    role: String,
    state: &'static str,
    wait: String,
    verdict: String,
}

/// A host that does not come back.
struct Lost<'a> {
    host: &'a HostOf,
    page: Option<&'a str>,
    because: String,
    repair: Option<String>,
}

struct Role {
    name: String,
    cells: [usize; 6],
}

struct Shared {
    class: &'static str,
    text: String,
    hosts: usize,
    who: String,
}

/// The page of a run.
pub fn html(report: &FleetReport, gathered: Gathering) -> Result<String, CommandError> {
    let hosts: Vec<HostOf> = report.hosts.iter().map(host).collect();
    let (data, reasons) = gathered.data(&hosts);
    let all_lost = hosts.iter().filter(|h| h.state == "lost");
    let lost = all_lost.zip(&reasons).take(MAX_LOST).map(|(host, reason)| {
        let (because, repair) = reason.told(&data);
        Lost { host, page: reason.page.as_deref(), because, repair }
    });
    let absent = report.missing.iter().map(|m| format!("{}: {}", visible(&m.host), m.words()));
    let unread: Vec<String> =
        absent.chain(report.failed.iter().map(|f| visible(&f.error).into_owned())).collect();
    let policy = super::audit::policy_lines(report.policy.as_ref(), report.sums.silenced);
    let of = |state: &str| hosts.iter().filter(|h| h.state == state).count();
    let page = Page {
        headline: report.sums.headline(report.failed.len(), &report.missing),
        counted: format!(
            "{} late, {} without something, {} not known, {} as they should.",
            of("late"),
            of("partial"),
            of("not-known"),
            of("up")
        ),
        unread: &unread,
        policy: &policy,
        lost: lost.collect(),
        more_lost: reasons.len().checked_sub(MAX_LOST).filter(|n| *n > 0).map(|n| count(n, "more host")),
        roles: report.roles.iter().filter(|r| r.role != NO_ROLE).map(role).collect(),
        shared: report
            .shared
            .iter()
            .filter(|s| s.hosts > 1 && s.consequence < Consequence::Note)
            .take(30)
            .map(shared)
            .collect(),
        elsewhere: report.elsewhere.iter().map(super::audit::elsewhere_words).collect(),
        hosts: hosts.len(),
        data: data.json().map_err(std::io::Error::other)?,
    };
    page.render().map_err(|e| std::io::Error::other(e).into())
}

fn host(line: &HostLine) -> HostOf {
    let state = match () {
        () if line.is_lost() => "lost",
        () if line.is_late() => "late",
        () if line.outcome == Some(Outcome::Partial) => "partial",
        () if line.outcome == Some(Outcome::NotKnown) => "not-known",
        () => "up",
    };
    HostOf {
        name: line.host.clone(),
        role: line.roles.iter().map(|r| visible(r).into_owned()).collect::<Vec<_>>().join(" "),
        state,
        wait: if line.stall_s == Some(0.0) { String::new() } else { seconds(line.stall_s) },
        verdict: visible(&line.verdict).into_owned(),
    }
}

/// The worst finding, with its place.
fn because(audit: &HostAudit) -> String {
    let Some(worst) = audit.findings.first().filter(|f| f.consequence <= Consequence::Missing) else {
        return String::new();
    };
    let target = worst.entry.as_ref().map(|e| format!("{}: ", visible(&e.target))).unwrap_or_default();
    format!("{target}{}", visible(&worst.message))
}

fn role(role: &RoleLine) -> Role {
    let cells = [role.hosts, role.lost, role.late, role.partial, role.not_known, role.sound];
    Role { name: visible(&role.role).into_owned(), cells }
}

fn shared(one: &SharedFinding) -> Shared {
    let target = one.target.as_deref().map(|t| format!("{}: ", visible(t))).unwrap_or_default();
    let who =
        one.roles.iter().map(|(role, n)| format!("{} {n}", visible(role))).collect::<Vec<_>>().join(", ");
    let text = format!("{target}{} ({})", visible(&one.message), one.rule);
    Shared { class: one.consequence.name(), text, hosts: one.hosts, who }
}
