use super::{EntryNames, Finding, Rule};
use crate::policy::Policy;
use bradawl_boot::{EntryForecast, EntryState, Forecast, Need, Outcome, Request};
use bradawl_facts::Consequence;
use bradawl_facts::map::Map;
use bradawl_facts::record::BootsWith;
use bradawl_facts::record::{Device, Mount, Record};
use bradawl_facts::size::seconds;
use bradawl_facts::table::{FieldName, Span, Table};
use bradawl_resolve::Index;

/// Everything a rule may look at.
pub struct Case<'a> {
    /// The facts.
    pub record: &'a Record,
    /// The names of all devices.
    pub index: &'a Index<'a>,
    /// The table.
    pub table: &'a Table,
    /// What each entry asks for.
    pub requests: &'a [Request<'a>],
    /// The predicted boot, when the init system is modelled.
    pub forecast: Option<&'a Forecast>,
    /// The policy to hold it against.
    pub policy: Option<&'a Policy>,
    /// The names of an earlier record of the host.
    pub earlier: Option<&'a Index<'a>>,
    users: Map<&'a str, Vec<usize>>,
    targets: Map<&'a str, usize>,
    mounts: Map<&'a str, &'a Mount>,
}

impl<'a> Case<'a> {
    /// A case from its parts.
    pub fn new(
        record: &'a Record,
        index: &'a Index<'a>,
        table: &'a Table,
        requests: &'a [Request<'a>],
        forecast: Option<&'a Forecast>,
    ) -> Self {
        let mut targets = Map::default();
        for (n, request) in requests.iter().enumerate() {
            if let Some(target) = request.target.as_deref() {
                targets.entry(target).or_insert(n);
            }
        }
        // The last of several is on top.
        let shown = record.mounts.iter().flatten().filter(|m| m.fstype != "autofs");
        let mounts = shown.map(|m| (m.target.as_str(), m)).collect();
        let users = users(requests);
        Case { record, index, table, requests, forecast, policy: None, earlier: None, users, targets, mounts }
    }

    /// The same case held against a policy and the names of an earlier record.
    pub fn against(self, policy: Option<&'a Policy>, earlier: Option<&'a Index<'a>>) -> Self {
        Case { policy, earlier, ..self }
    }

    /// A finding on a field of an entry, with the rule's own consequence.
    pub fn finding(&self, rule: &Rule, request: &Request<'_>, field: FieldName) -> Finding {
        let span = request.entry.span(field).or(request.entry.fields.last().copied());
        self.finding_at(rule, request, field, span)
    }

    /// A finding on a place within an entry.
    pub fn finding_at(
        &self,
        rule: &Rule,
        request: &Request<'_>,
        field: FieldName,
        span: Option<Span>,
    ) -> Finding {
        let line = self.table.line(request.line());
        let columns = line.zip(span).map(|(line, span)| self.table.columns(line, span));
        let entry = &request.entry;
        Finding {
            line: Some(entry.line),
            columns,
            field: Some(field),
            entry: Some(EntryNames {
                source: entry.source.clone(),
                target: entry.target.clone(),
                fstype: entry.fstype.clone(),
            }),
            ..Finding::of(rule)
        }
    }

    /// A finding on a whole line, whatever it is, with the rule's own
    /// consequence.
    pub fn finding_on_line(&self, rule: &Rule, line: usize) -> Finding {
        let place = self.table.line(line);
        Finding {
            line: place.map(|l| l.number),
            columns: place.map(|l| self.table.columns(l, l.text)),
            ..Finding::of(rule)
        }
    }

    /// The same for something that keeps the entry from working: consequence,
    /// wait and reason come from the forecast.
    pub fn failure(&self, rule: &Rule, request: &Request<'_>, field: FieldName) -> Finding {
        let mut finding = self.finding(rule, request, field);
        self.judge(&mut finding, request);
        finding
    }

    /// Takes consequence, wait and reason from the forecast of the entry.
    pub fn judge(&self, finding: &mut Finding, request: &Request<'_>) {
        let Some(entry) = self.fate(request) else { return };
        // An entry that works all the same is at most a risk.
        finding.consequence = entry.consequence.unwrap_or(finding.consequence.max(Consequence::Risk));
        if entry.consequence.is_some() {
            finding.stall_s = entry.stall_s;
        }
        finding.why = at_boot(entry, request, self.forecast);
    }

    /// What the forecast says of the request's entry.
    pub fn fate(&self, request: &Request<'_>) -> Option<&'a EntryForecast> {
        let entries = &self.forecast?.entries;
        entries.binary_search_by_key(&request.line(), |e| e.line).ok().map(|n| &entries[n])
    }

    /// The first entry with this target.
    pub fn entry_at(&self, target: &str) -> Option<&'a Request<'a>> {
        self.targets.get(target).map(|n| &self.requests[*n])
    }

    /// The entry on a line.
    pub fn entry_on(&self, line: usize) -> Option<&'a Request<'a>> {
        self.requests.binary_search_by_key(&line, Request::line).ok().map(|n| &self.requests[n])
    }

    /// What is mounted on a directory now, where that is known.
    pub fn mount_at(&self, target: &str) -> Option<&'a Mount> {
        self.mounts.get(target).copied()
    }

    /// Whether the table is the one the host has now, and not one given in its
    /// place.
    pub fn is_own_table(&self) -> bool {
        let own = self.record.tables.first().and_then(|t| t.bytes.bytes());
        own.as_deref() == Some(self.table.bytes())
    }

    /// Whether the record tells what is mounted on the host now, and the table
    /// is meant to say the same.
    pub fn compares_running(&self) -> bool {
        self.record.mounts.is_some() && !self.is_container()
    }

    /// Whether the host is a container: its mounts are its host's affair.
    pub fn is_container(&self) -> bool {
        self.record.host.container == Some(true)
    }

    /// Whether an entry on another line names the device.
    pub fn is_taken(&self, device: &Device, line: usize) -> bool {
        self.users.get(device.path.as_str()).is_some_and(|lines| lines.iter().any(|l| *l != line))
    }
}

/// The lines whose entries name each device.
fn users<'a>(requests: &[Request<'a>]) -> Map<&'a str, Vec<usize>> {
    let mut users: Map<&str, Vec<usize>> = Map::default();
    for request in requests {
        if let Need::Present(devices) = &request.need {
            for device in devices {
                let lines = users.entry(device.path.as_str()).or_default();
                // Two say all there is to ask.
                if lines.len() < 2 {
                    lines.push(request.line());
                }
            }
        }
    }
    users
}

/// What happens at boot to an entry, in a sentence.
/// `boot`: all of it.
pub(super) fn at_boot(entry: &EntryForecast, request: &Request<'_>, boot: Option<&Forecast>) -> String {
    let early = boot.is_some_and(|f| f.outcome == Outcome::NoRoot);
    let shell = boot.filter(|f| matches!(f.model, BootsWith::Scripts(_))).map(|f| f.ends_in.as_str());
    let what = if request.entry.is_swap() { "this swap" } else { entry.target.as_str() };
    let waits = match entry.stall_s {
        Some(s) if s > 0.0 => format!("The boot waits {} for it", seconds(entry.stall_s)),
        None => "The boot waits for it without end".to_owned(),
        Some(_) => String::new(),
    };
    let tried =
        if entry.state == EntryState::Blocked { "It is not attempted" } else { "The mount fails at once" };
    let there = matches!(entry.state, EntryState::Mounted | EntryState::Active);
    match (entry.consequence, waits.is_empty(), shell) {
        (Some(Consequence::Halt), _, Some(shell)) => {
            format!("Its check fails and the boot stops in {shell}: no login over the network.")
        }
        (Some(Consequence::Halt), ..) if early && request.entry.target == "/usr" => {
            let waits = if waits.is_empty() { String::new() } else { format!("{waits}. ") };
            format!(
                "{waits}The initramfs mounts it, and stops in its own shell when it cannot: no login over the network."
            )
        }
        (Some(Consequence::Halt), ..) if entry.stall_s.is_none() => {
            format!("{waits}: no login over the network.")
        }
        (Some(Consequence::Halt), false, None) => {
            format!("{waits}, then stops in emergency mode: no login over the network.")
        }
        (Some(Consequence::Halt), true, None) => {
            format!("{tried} and the boot stops in emergency mode: no login over the network.")
        }
        (Some(Consequence::Stall), ..) if there => format!("{waits}, and login comes that much later."),
        (Some(Consequence::Stall), ..) => {
            format!("{waits}, login comes that much later, and {what} is not there.")
        }
        (Some(Consequence::Missing), ..) if request.is_root() => {
            "Login comes, but root is left read-only.".to_owned()
        }
        (Some(Consequence::Missing), ..) => format!("Login comes, but {what} is not there."),
        (Some(Consequence::Risk), ..) => {
            format!("The boot does not try it; whoever needs {what} will find it failing.")
        }
        (Some(Consequence::Note) | None, ..) => "The boot is not affected.".to_owned(),
    }
}
