//! What becomes of each entry, and when.

use super::super::assembly::Lack;
use super::super::doubt::{Doubt, DoubtSort};
use super::super::forecast::EntryState;
use super::super::need::Need;
use super::super::request::Request;
use super::super::trial::{Cause, Trial};
use super::super::unit_file::SwitchedOff;
use super::SwitchedUnits;
use super::circle::Circle;
use super::duplicates::{PassedOver, is_api};
use super::goal::Goal;
use super::graph::{Graph, NodeRole};
use super::simulate::End;
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;
use bradawl_resolve::Source;

/// Of a circle so many lines are named.
const MAX_NAMED: usize = 8;

/// What came of one request, with the moment it was settled.
#[derive(Debug, Clone)]
pub(super) struct Settled {
    pub state: EntryState,
    /// Seconds; `None`: never.
    pub at: Option<f64>,
    pub why: String,
    /// What would settle it, where it is not known.
    pub doubt: Option<DoubtSort>,
    /// Seconds that its device is waited for, where it never comes; `None`:
    /// without end.
    pub limit: Option<f64>,
    /// The line of the entry that this one needs in vain.
    pub because_of: Option<usize>,
    /// Whether it lies on a circle.
    pub on_circle: bool,
    /// Whether what it asks for is there all the same: it repeats another.
    pub repeats: bool,
}

impl Settled {
    fn in_doubt(doubt: &Doubt) -> Self {
        Settled { doubt: Some(doubt.sort), ..Settled::now(EntryState::Unknown, doubt.why.as_str()) }
    }

    fn now(state: EntryState, why: impl Into<String>) -> Self {
        Settled {
            state,
            at: Some(0.0),
            why: why.into(),
            limit: None,
            doubt: (state == EntryState::Unknown).then_some(DoubtSort::NotKnown),
            because_of: None,
            on_circle: false,
            repeats: false,
        }
    }
}

/// The played boot, from which entries are told.
pub(super) struct Played<'a> {
    pub requests: &'a [Request<'a>],
    pub goal: Goal<'a>,
    pub graph: &'a Graph<'a>,
    pub started: &'a [bool],
    /// Units that are switched off, and what requires them.
    pub barred: &'a [bool],
    pub ends: &'a [End],
    pub passed_over: &'a [Option<PassedOver>],
    /// The circle that each request lies on, as nodes.
    pub circle: &'a [Option<Circle>],
    pub switched: &'a SwitchedUnits,
}

impl Played<'_> {
    /// What became of each request.
    pub fn settled(&self) -> Vec<Settled> {
        let mut all: Vec<Settled> = (0..self.requests.len()).map(|n| self.one(n)).collect();
        self.spread_doubt(&mut all);
        all
    }

    fn one(&self, n: usize) -> Settled {
        let request = &self.requests[n];
        if let Some(passed) = &self.passed_over[n] {
            return Settled {
                repeats: passed.repeats,
                ..Settled::now(EntryState::Ignored, passed.why.as_str())
            };
        }
        if let Some(by) = request.switched_off {
            let why = match by {
                SwitchedOff::ByFile => "its unit is switched off by a unit file",
                SwitchedOff::ByCommandLine => "its unit is switched off on the kernel's command line",
            };
            return Settled::now(EntryState::Ignored, why);
        }
        let Some(id) = self.graph.of_request[n] else { return already_there(request) };
        if request.is_root() {
            return already_there(request);
        }
        if let Some(circle) = &self.circle[n] {
            let why = self.waits_in_circle(id, circle);
            return match self.started[id] {
                false => Settled { on_circle: true, ..Settled::now(EntryState::Blocked, why) },
                true => Settled { on_circle: true, why, ..self.ended(n, id) },
            };
        }
        if !self.started[id] {
            return self.kept_off(id).unwrap_or_else(|| not_started(request, self.goal));
        }
        self.ended(n, id)
    }

    fn ended(&self, n: usize, id: usize) -> Settled {
        let end = self.ends[id];
        match (end.at, end.there) {
            (Some(at), true) => Settled { at: Some(at), ..there(&self.requests[n], at) },
            (Some(at), false) => self.fallen(n, at, end.because),
            (None, _) => self.endless(n, id),
        }
    }

    fn waits_in_circle(&self, id: usize, circle: &[usize]) -> String {
        let lines = circle.iter().filter(|other| **other != id).filter_map(|other| self.line(*other));
        let lines: Vec<String> = lines.take(MAX_NAMED).map(|line| format!("line {line}")).collect();
        match lines.is_empty() {
            true => {
                "waits for what itself waits for local-fs.target, which waits for it: that is left out, and \
                     nothing waits for mounts then"
                    .to_owned()
            }
            false => {
                // Of a large circle the first few will do.
                let more = if circle.len() > MAX_NAMED + 1 { " and others" } else { "" };
                let lines = lines.join(", ");
                format!("waits for {lines}{more}, which waits for it: the last of them is left out")
            }
        }
    }

    fn line(&self, id: usize) -> Option<usize> {
        match self.graph.nodes[id].role {
            NodeRole::Entry(n) => Some(self.requests[n].line()),
            _ => None,
        }
    }

    /// It failed by itself, or fell with another.
    fn fallen(&self, n: usize, at: f64, because: Option<usize>) -> Settled {
        let request = &self.requests[n];
        let settled = match because.map(|id| (id, self.graph.nodes[id].role)) {
            Some((_, NodeRole::Device(_)))
                if !matches!(request.need, Need::Missing(_)) && request.lack.is_none() =>
            {
                let why = format!("a device that it requires does not come; waits {}", seconds(Some(at)));
                Settled::now(EntryState::Blocked, why)
            }
            Some((_, NodeRole::Device(_))) => timed_out(request, Some(at)),
            Some((id, NodeRole::Entry(_))) => self.blocked(id, "which is not there"),
            // The check falls with its device.
            Some((id, NodeRole::Check(_))) if self.ends[id].because.is_some() => timed_out(request, Some(at)),
            Some((_, NodeRole::Check(_))) | None => Settled::now(EntryState::Failed, failure(request)),
            Some(_) => Settled::now(EntryState::Blocked, "a unit that it requires fails"),
        };
        Settled { at: Some(at), ..settled }
    }

    /// Its target is not started, because it requires a unit that is switched
    /// off.
    fn kept_off(&self, id: usize) -> Option<Settled> {
        let line = self.requests[self.graph.kept_off(id, self.barred)?].line();
        let why =
            format!("the unit of line {line} is switched off, so that its target is not started at all");
        Some(Settled { because_of: Some(line), ..Settled::now(EntryState::Blocked, why) })
    }

    /// It still waits when everything else is over.
    fn endless(&self, n: usize, id: usize) -> Settled {
        let node = &self.graph.nodes[id];
        let hanging = |other: &&usize| self.started[**other] && self.ends[**other].at.is_none();
        let settled = match node.after.iter().find(hanging) {
            Some(other) if matches!(self.graph.nodes[*other].role, NodeRole::Entry(_)) => {
                self.blocked(*other, "which never comes")
            }
            _ => timed_out(&self.requests[n], None),
        };
        Settled { at: None, ..settled }
    }

    fn blocked(&self, id: usize, what: &str) -> Settled {
        let line = self.line(id);
        let why = format!("needs what line {} mounts, {what}", line.unwrap_or_default());
        Settled { because_of: line, ..Settled::now(EntryState::Blocked, why) }
    }

    /// Entries that depend on one of which nothing certain is known are not
    /// certain either.
    fn spread_doubt(&self, all: &mut [Settled]) {
        let mut open: Vec<usize> = (0..all.len()).filter(|n| all[*n].state == EntryState::Unknown).collect();
        if open.is_empty() {
            return;
        }
        let mut needing = vec![Vec::new(); self.graph.nodes.len()];
        for (n, id) in self.graph.of_request.iter().enumerate() {
            let requires = id.map(|id| self.graph.nodes[id].requires.as_slice()).unwrap_or_default();
            requires.iter().for_each(|other| needing[*other].push(n));
        }
        while let Some(n) = open.pop() {
            let Some(id) = self.graph.of_request[n] else { continue };
            for &above in &needing[id] {
                if matches!(all[above].state, EntryState::Mounted | EntryState::Active) {
                    let line = self.requests[n].line();
                    all[above].state = EntryState::Unknown;
                    all[above].doubt = all[n].doubt;
                    all[above].why = format!("depends on line {line}");
                    all[above].because_of = Some(line);
                    open.push(above);
                }
            }
        }
    }
}

/// Root and the API directories are mounted before the table is read; their
/// options are applied by a remount, and the type is not looked at.
fn already_there(request: &Request<'_>) -> Settled {
    let own = "the init system mounts this directory itself";
    if request.is_root() {
        let why = root_trouble(request).unwrap_or_else(|| "mounted before the table is read".to_owned());
        Settled::now(EntryState::Mounted, why)
    } else if request.source.wants_device() {
        Settled::now(EntryState::Ignored, own)
    } else {
        Settled::now(EntryState::Mounted, own)
    }
}

/// Nothing in the boot starts it.
fn not_started(request: &Request<'_>, goal: Goal<'_>) -> Settled {
    if request.automount {
        Settled::now(EntryState::OnAccess, "mounted when somebody first touches it")
    } else if request.noauto {
        Settled::now(EntryState::Manual, "noauto: not mounted at boot")
    } else if let Some(word) = goal.word() {
        let word = visible(word);
        Settled::now(EntryState::Manual, format!("a boot with {word} on the command line does not start it"))
    } else {
        Settled::now(EntryState::Unknown, "it is started by a unit that is not known here")
    }
}

fn there(request: &Request<'_>, at: f64) -> Settled {
    let there = if request.entry.is_swap() { EntryState::Active } else { EntryState::Mounted };
    match (&request.need, &request.trial) {
        (Need::Unknown(doubt), _) | (_, Trial::Unknown(doubt)) => Settled::in_doubt(doubt),
        (_, Trial::PassedOver(why)) => Settled::now(EntryState::Ignored, why.clone()),
        _ => match &request.lack {
            Some(Lack::Late(why)) if at > 0.0 => Settled::now(there, format!("{why}: it is started without")),
            _ => Settled::now(there, ""),
        },
    }
}

fn timed_out(request: &Request<'_>, at: Option<f64>) -> Settled {
    let name = visible(&request.entry.source);
    let job = request.job_limit().filter(|job| at.is_some_and(|at| *job <= at));
    let limit = job.or(request.device_limit().flatten()).or(at);
    let limit = if at.is_none() { None } else { limit };
    let what = match &request.lack {
        Some(lack) => lack.words().to_owned(),
        None => format!("no device matches {name}"),
    };
    Settled { limit, ..Settled::now(EntryState::TimedOut, what) }
}

fn failure(request: &Request<'_>) -> String {
    match &request.trial {
        Trial::Fails(_, why) => why.clone(),
        _ => "it fails".to_owned(),
    }
}

/// The init system's name for a request; `None` when it makes no unit.
pub(super) fn unit<'r>(request: &'r Request<'_>) -> Option<&'r str> {
    let api = request.target.as_deref().is_some_and(|target| is_api(target) && target != "/");
    (!api).then_some(request.unit.as_str())
}

/// Why the remount of root with the entry's options fails; its type is not
/// looked at (recorded). The mount program, which makes it, looks the entry up
/// for itself.
pub(super) fn root_trouble(request: &Request<'_>) -> Option<String> {
    let left = "root is left as the kernel mounted it";
    if request.lost || request.refused {
        return Some(format!("the mount program does not know the line: {left}"));
    }
    match (&request.need, &request.trial) {
        // A path need not be there: it is passed on and not looked at (recorded
        // with 2.38 and 2.41).
        (Need::Missing(_), _) if matches!(request.source, Source::Tag(..)) => {
            Some(format!("no device matches {}: {left}", visible(&request.entry.source)))
        }
        (_, Trial::Fails(Cause::Options, why)) => Some(format!("{why}; {left}")),
        _ => None,
    }
}
