//! Many hosts as one page of HTML: who does not come back first, then hosts
//! against targets, then each host's boot. It reads without its script, which
//! only hides rows.

use crate::outcome::CommandError;
use askama::Template;
use bradawl_boot::{EntryState, Event, Forecast};
use bradawl_documents::HostAudit;
use bradawl_documents::fleet::{FleetReport, NO_ROLE, RoleLine, SharedFinding, headline};
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;
use std::collections::BTreeMap;

/// Columns of the matrix: the targets that most hosts have.
const MAX_TARGETS: usize = 24;
/// What is said of a host at most.
const MAX_EVENTS: usize = 40;

/// What the page keeps of one host.
pub struct Row {
    host: String,
    /// The page of this host alone, beside this one.
    page: Option<String>,
    because: String,
    repair: Option<String>,
    targets: Vec<(String, EntryState)>,
    events: Vec<Moment>,
}

/// One moment of a boot, with the time until then as a bar.
struct Moment {
    at: String,
    /// In pixels.
    width: String,
    what: String,
}

impl Row {
    pub fn new(audit: &HostAudit, forecast: &Forecast, page: Option<String>) -> Self {
        let shown = |text: &str| visible(text).into_owned();
        let target = |e: &bradawl_boot::EntryForecast| {
            let swap = e.unit.as_deref().is_some_and(|u| u.ends_with(".swap"));
            (if swap { "swap".to_owned() } else { shown(&e.target) }, e.state)
        };
        let steps = audit.advice.iter().flat_map(|a| &a.steps);
        let steps: Vec<String> = steps.map(|s| format!("line {}: {}", s.line, shown(&s.what))).collect();
        let whole = forecast.events.iter().map(|e| e.at_s).fold(1.0, f64::max);
        let moment = |e: &Event| Moment {
            at: seconds(Some(e.at_s.max(0.0))),
            width: format!("{:.0}", e.at_s.max(0.0) / whole * 160.0),
            what: format!("{}: {}", shown(&e.unit), shown(&e.what)),
        };
        let events = forecast.events.iter().take(MAX_EVENTS);
        Row {
            host: audit.host.clone(),
            page,
            because: because(audit),
            repair: (!steps.is_empty()).then(|| steps.join("; ")),
            targets: forecast.entries.iter().map(target).collect(),
            events: events.map(moment).collect(),
        }
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

#[derive(Template)]
#[template(path = "fleet.html")]
struct Page<'a> {
    headline: String,
    counted: String,
    unread: &'a [String],
    policy: &'a [String],
    lost: Vec<&'a Host>,
    hosts: &'a [Host],
    targets: &'a [String],
    roles: Vec<Role>,
    shared: Vec<Shared>,
    elsewhere: Vec<String>,
}

/// A host as the page shows it.
struct Host {
    name: String,
    page: Option<String>,
    role: String,
    state: &'static str,
    word: &'static str,
    wait: String,
    verdict: String,
    because: String,
    repair: Option<String>,
    cells: Vec<Cell>,
    events: Vec<Moment>,
    counts: [usize; 5],
}

struct Cell {
    class: &'static str,
    text: &'static str,
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
pub fn html(report: &FleetReport, rows: Vec<Row>) -> Result<String, CommandError> {
    let targets = common_targets(&rows);
    let mut rows: BTreeMap<String, Vec<Row>> = rows.into_iter().fold(BTreeMap::new(), |mut all, row| {
        all.entry(row.host.clone()).or_insert_with(Vec::new).push(row);
        all
    });
    let hosts: Vec<Host> = report
        .hosts
        .iter()
        .map(|line| {
            let row = rows.get_mut(&line.host).and_then(Vec::pop);
            host(line, row, &targets)
        })
        .collect();
    let lost: Vec<&Host> = hosts.iter().filter(|h| h.state == "lost").collect();
    let headline = headline(&report.hosts, report.failed.len(), &report.missing);
    let absent = report.missing.iter().map(|m| format!("{}: {}", visible(&m.host), m.words()));
    let unread: Vec<String> =
        absent.chain(report.failed.iter().map(|f| visible(&f.error).into_owned())).collect();
    let policy =
        super::audit::policy_lines(report.policy.as_ref(), report.hosts.iter().map(|h| h.silenced).sum());
    let of = |state: &str| hosts.iter().filter(|h| h.state == state).count();
    let counted = format!(
        "{} late, {} without something, {} not known, {} as they should.",
        of("late"),
        of("partial"),
        of("not-known"),
        of("up")
    );
    let page = Page {
        headline,
        counted,
        unread: &unread,
        policy: &policy,
        lost,
        hosts: &hosts,
        targets: &targets,
        roles: report.roles.iter().filter(|r| r.role != NO_ROLE).map(role).collect(),
        shared: report
            .shared
            .iter()
            .filter(|s| s.hosts > 1 && s.consequence < Consequence::Note)
            .take(30)
            .map(shared)
            .collect(),
        elsewhere: report.elsewhere.iter().map(super::audit::elsewhere_words).collect(),
    };
    page.render().map_err(|e| std::io::Error::other(e).into())
}

fn common_targets(rows: &[Row]) -> Vec<String> {
    let mut times: BTreeMap<&str, usize> = BTreeMap::new();
    rows.iter().flat_map(|r| &r.targets).for_each(|(t, _)| *times.entry(t).or_default() += 1);
    let mut all: Vec<(&str, usize)> = times.into_iter().collect();
    all.sort_by_key(|(_, times)| std::cmp::Reverse(*times));
    all.truncate(MAX_TARGETS);
    let mut names: Vec<String> = all.into_iter().map(|(t, _)| t.to_owned()).collect();
    names.sort();
    names
}

fn host(line: &bradawl_documents::fleet::HostLine, row: Option<Row>, targets: &[String]) -> Host {
    let (state, word) = match () {
        () if line.is_lost() => ("lost", "will not return"),
        () if line.is_late() => ("late", "late"),
        () if line.outcome == Some(bradawl_boot::Outcome::Partial) => ("partial", "without something"),
        () if line.outcome == Some(bradawl_boot::Outcome::NotKnown) => ("not-known", "not known"),
        () => ("up", "returns"),
    };
    let row = row.unwrap_or_else(|| Row {
        host: String::new(),
        page: None,
        because: String::new(),
        repair: None,
        targets: vec![],
        events: vec![],
    });
    let cell = |target: &String| {
        let worst =
            row.targets.iter().filter(|(t, _)| t == target).map(|(_, s)| cell(*s)).max_by_key(|(n, _)| *n);
        worst.map_or(Cell { class: "none", text: "" }, |(_, cell)| cell)
    };
    use Consequence as C;
    Host {
        page: row.page,
        name: visible(&line.host).into_owned(),
        role: line.roles.iter().map(|r| visible(r).into_owned()).collect::<Vec<_>>().join(" "),
        state,
        word,
        wait: seconds(line.stall_s),
        verdict: visible(&line.verdict).into_owned(),
        cells: targets.iter().map(cell).collect(),
        because: row.because.clone(),
        repair: row.repair.clone(),
        counts: [C::Halt, C::Stall, C::Missing, C::Risk, C::Note].map(|c| line.totals.get(c)),
        events: row.events,
    }
}

/// How an entry's end is shown, and how bad it is.
fn cell(state: EntryState) -> (u8, Cell) {
    let (rank, class, text) = match state {
        EntryState::Mounted | EntryState::Active => (0, "up", "there"),
        EntryState::OnAccess => (1, "none", "on access"),
        EntryState::Manual => (1, "none", "by hand"),
        EntryState::Unknown => (2, "late", "unknown"),
        EntryState::Ignored => (3, "partial", "ignored"),
        EntryState::Blocked => (4, "lost", "blocked"),
        EntryState::Failed => (5, "lost", "fails"),
        EntryState::TimedOut => (6, "lost", "no device"),
    };
    (rank, Cell { class, text })
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
