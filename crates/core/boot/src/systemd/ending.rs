//! How the boot ends, given what became of the entries.

use super::super::forecast::{EntryForecast, EntryState, Event, Outcome};
use super::super::need::Need;
use super::super::request::Request;
use super::super::trial::Trial;
use super::super::verdict::{Absent, BootVerdict, Ending};
use super::goal::Goal;
use super::graph::LOGIN;
use super::settle::{Played, Settled, root_trouble};
use bradawl_catalogue::options::{in_force, program_on};
use bradawl_facts::Consequence;
use bradawl_facts::record::CommandLine;
use bradawl_facts::record::Record;
use std::borrow::Cow;

/// How the played boot ends.
pub(super) struct Close<'a> {
    goal: Goal<'a>,
    /// Whether login waits for each request.
    gates: Vec<bool>,
    /// Whether the failure of each request is that of local-fs.target.
    halts: Vec<bool>,
    /// When login comes, if ever.
    login: Option<f64>,
    /// When local-fs.target fails, if it does.
    emergency: Option<f64>,
    /// Whether local-fs.target is reached.
    local_fs: bool,
}

impl<'a> Close<'a> {
    pub fn new(played: &Played<'a>) -> Self {
        let graph = played.graph;
        let node = |name: &str| graph.find(name).filter(|id| played.started[*id]);
        let goal = played.goal;
        let login = match goal {
            Goal::Login => node(LOGIN),
            _ => goal.unit().and_then(node),
        };
        let before = login.map(|id| graph.waits_for(id, played.started));
        let local = node("local-fs.target");
        // What it requires and does not wait for has failed too late (recorded).
        let mut required = vec![false; graph.nodes.len()];
        let no_emergency = played.switched.no_emergency;
        if let Some(id) = local.filter(|_| !no_emergency).as_ref() {
            let waited = graph.waits_for(*id, played.started);
            graph.nodes[*id].requires.iter().for_each(|other| required[*other] = waited[*other]);
        }
        let of = |wanted: &dyn Fn(usize) -> bool| {
            graph.of_request.iter().map(|id| id.is_some_and(wanted)).collect::<Vec<_>>()
        };
        let end = |id: usize| played.ends[id];
        // A goal without a unit is there at once.
        let reached = if goal.unit().is_none() {
            Some(0.0)
        } else {
            login.map(end).filter(|end| end.there).and_then(|end| end.at)
        };
        Close {
            goal,
            gates: of(&|id| before.as_ref().is_some_and(|b| b[id])),
            halts: of(&|id| required[id]),
            login: reached,
            local_fs: graph.find("local-fs.target").is_none_or(|id| {
                let barred = played.barred[id] && played.switched.reached_all_the_same;
                barred || (played.started[id] && end(id).there)
            }),
            emergency: local.map(end).filter(|e| !e.there && !no_emergency).and_then(|e| e.at),
        }
    }

    /// What the entry does to the boot at worst.
    pub fn consequence(&self, n: usize, request: &Request<'_>, settled: &Settled) -> Option<Consequence> {
        match settled.state {
            EntryState::Manual | EntryState::OnAccess => match (&request.need, &request.trial) {
                // A disk that is plugged in now and then has its entry so.
                (Need::Missing(_), _)
                    if settled.state == EntryState::Manual && request.look_alikes().is_empty() =>
                {
                    Some(Consequence::Note)
                }
                (Need::Missing(_), _) | (_, Trial::Fails(..)) => Some(Consequence::Risk),
                _ => None,
            },
            EntryState::Ignored if settled.repeats => Some(Consequence::Note),
            // A comment behind a byte-order mark asks for nothing.
            EntryState::Ignored if request.entry.source.starts_with("\u{feff}#") => Some(Consequence::Note),
            EntryState::Ignored => Some(Consequence::Missing),
            EntryState::TimedOut | EntryState::Failed | EntryState::Blocked => {
                let endless = settled.at.is_none() && self.gates[n];
                Some(match (endless || self.halts[n], settled.at != Some(0.0) && self.gates[n]) {
                    (true, _) => Consequence::Halt,
                    (false, true) => Consequence::Stall,
                    (false, false) => Consequence::Missing,
                })
            }
            EntryState::Mounted if request.is_root() => root_trouble(request).map(|_| Consequence::Missing),
            // It comes, but late.
            EntryState::Mounted | EntryState::Active if request.lack.is_some() && settled.at > Some(0.0) => {
                self.gates[n].then_some(Consequence::Stall)
            }
            EntryState::Mounted | EntryState::Active | EntryState::Unknown => None,
        }
    }

    /// Whether local-fs.target is reached: by then all local mounts that are
    /// demanded are there.
    pub fn reaches_local_fs(&self) -> bool {
        self.local_fs
    }

    /// What the boot stops in when it does not reach login.
    pub fn place(&self) -> &'a str {
        if self.emergency.is_some() || self.goal == Goal::Login {
            "emergency mode"
        } else {
            self.goal.place()
        }
    }

    /// How a boot that does not reach login is told.
    pub fn stop(&self) -> Ending {
        match self.goal {
            Goal::Off(_) if self.emergency.is_none() => Ending::Off,
            _ => Ending::Stops { place: self.place().to_owned(), check: false },
        }
    }

    /// The boot's outcome, and how long it waits until then.
    pub fn outcome(&self, entries: &[EntryForecast], read_only: bool) -> (Outcome, Option<f64>) {
        if let Some(at) = self.emergency {
            return (Outcome::Emergency, Some(at));
        }
        let Some(at) = self.login else { return (Outcome::Never, None) };
        if self.goal != Goal::Login {
            return (Outcome::Emergency, Some(at));
        }
        let wrong = |e: &EntryForecast| match e.consequence {
            Some(Consequence::Stall) => e.state.is_absent(),
            other => other == Some(Consequence::Missing),
        };
        let partial = read_only || entries.iter().any(wrong);
        (if partial { Outcome::Partial } else { Outcome::Up }, Some(at))
    }
}

/// Whether root stays read-only: the kernel mounts it so when told to, and no
/// working entry changes that (recorded). A container's root is its host's
/// affair, as is the command line it sees.
///
/// The remount is started by local-fs.target: `remounts`.
pub(super) fn root_read_only(record: &Record, requests: &[Request<'_>], remounts: bool) -> bool {
    if record.host.container == Some(true) || is_mounted_by_initramfs(record) {
        return false;
    }
    CommandLine::of(record).read_only()
        && (!remounts || requests.iter().find(|r| r.is_root()).is_none_or(|r| root_trouble(r).is_some()))
}

/// Whether root's own entry asks for it read-only, and is followed.
pub(super) fn root_asked_read_only(record: &Record, requests: &[Request<'_>], remounts: bool) -> bool {
    let root = requests.iter().find(|r| r.is_root()).filter(|r| remounts && root_trouble(r).is_none());
    record.host.container != Some(true)
        && root.is_some_and(|r| in_force(&r.entry.options, "ro", program_on(record)))
}

/// Whether the initramfs mounts root its own way, whatever `ro` says: ZFS, and
/// the overlay of a live system.
fn is_mounted_by_initramfs(record: &Record) -> bool {
    let zfs = |name: &str| name.starts_with("ZFS=") || name.starts_with("zfs:");
    let root = record.mounts.iter().flatten().rfind(|m| m.target == "/");
    root.is_some_and(|m| matches!(m.fstype.as_str(), "zfs" | "overlay"))
        || CommandLine::of(record).last("root").is_some_and(zfs)
}

/// The boot in one sentence.
pub(super) fn verdict(
    outcome: Outcome,
    stall_s: Option<f64>,
    entries: &[EntryForecast],
    read_only: bool,
    stop: Ending,
) -> BootVerdict {
    let lacks = |e: &&EntryForecast| e.state.is_absent() || e.consequence == Some(Consequence::Missing);
    let absent = entries.iter().filter(lacks).count();
    let ending = match outcome {
        Outcome::Up | Outcome::NotKnown => Ending::Whole,
        Outcome::Emergency => stop,
        Outcome::Never => Ending::Never,
        Outcome::NoRoot => Ending::Initramfs("/"),
        Outcome::Partial if read_only => Ending::Without(Absent::WritableRoot),
        Outcome::Partial => Ending::Without(Absent::Entries(absent)),
    };
    BootVerdict { early_s: 0.0, stall_s, ending, at_worst: None }
}

/// What happens, in order.
pub(super) fn events(
    entries: &[EntryForecast],
    outcome: Outcome,
    stall: Option<f64>,
    place: &str,
) -> Vec<Event> {
    let mut events = Vec::with_capacity(entries.len() + 2);
    entries.iter().for_each(|entry| add_events(entry, &mut events));
    let ending = match outcome {
        Outcome::Emergency => Some(place),
        Outcome::Up | Outcome::Partial | Outcome::NotKnown => Some("login"),
        Outcome::Never | Outcome::NoRoot => None,
    };
    if let Some((ending, at_s)) = ending.zip(stall) {
        events.retain(|e| outcome != Outcome::Emergency || e.at_s <= at_s);
        events.push(Event { at_s, unit: ending.to_owned(), what: "reached".into() });
    }
    events.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    events
}

fn add_events(entry: &EntryForecast, events: &mut Vec<Event>) {
    let unit = entry.unit.as_ref().unwrap_or(&entry.target);
    let event = |at_s: f64, what: Cow<'static, str>| Event { at_s, unit: unit.clone(), what };
    match (entry.state, entry.stall_s) {
        (EntryState::TimedOut, at) => {
            events.push(event(0.0, format!("waits for {}", entry.source).into()));
            events.extend(at.map(|at| event(at, "gives up: its device has not come".into())));
        }
        (EntryState::Unknown, at) => {
            events.push(event(at.unwrap_or(0.0), format!("not known: {}", entry.why).into()));
        }
        (EntryState::Manual | EntryState::Ignored, _) | (_, None) => {}
        (state, Some(at)) => events.push(event(at, state.words().into())),
    }
}
