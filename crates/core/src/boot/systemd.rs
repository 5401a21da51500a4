//! systemd's boot: entries become units; devices are waited for side by side;
//! a required local mount that fails ends in emergency mode.
//!
//! What is modelled follows systemd.mount(5), systemd-fstab-generator(8) and
//! 130 recorded boots of version 252 (test `truth_boots`).

use super::forecast::{EntryForecast, EntryState, Event, Forecast, Outcome};
use super::request::{Need, Request};
use super::trial::{Cause, Trial};
use super::unit_name::{mount_unit, swap_unit};
use super::{Consequence, parse_timespan};
use crate::record::{InitKind, Record};
use crate::resolve::{Index, Resolution, Source, Tag};
use crate::size::seconds;
use crate::text::{count, visible};

/// `DefaultDeviceTimeoutSec` when nothing is configured.
const DEVICE_TIMEOUT_S: f64 = 90.0;

/// Folders that the init system mounts by itself; entries for them are not
/// made into units.
const API_FOLDERS: [&str; 12] = [
    "/proc",
    "/sys",
    "/dev",
    "/dev/pts",
    "/dev/shm",
    "/run",
    "/sys/fs/cgroup",
    "/sys/fs/pstore",
    "/sys/fs/bpf",
    "/sys/kernel/security",
    "/sys/firmware/efi/efivars",
    "/sys/fs/smackfs",
];

/// Folders that services needed for login lie on: these are waited for even
/// with nofail (recorded for /tmp).
const LOGIN_FOLDERS: [&str; 3] = ["/tmp", "/var", "/var/tmp"];

/// What came of one request, with the moment it was settled.
#[derive(Debug, Clone)]
struct Settled {
    state: EntryState,
    /// Seconds; `None`: never.
    at: Option<f64>,
    why: String,
    because_of: Option<usize>,
}

struct Boot<'a> {
    requests: &'a [Request<'a>],
    device_timeout: f64,
    settled: Vec<Option<Settled>>,
}

pub(super) fn forecast(record: &Record, index: &Index<'_>, requests: &[Request<'_>]) -> Forecast {
    let init = record.host.init.as_ref();
    let mut boot = Boot {
        requests,
        device_timeout: init.and_then(|i| i.device_timeout_s).unwrap_or(DEVICE_TIMEOUT_S),
        settled: vec![None; requests.len()],
    };
    for n in 0..requests.len() {
        boot.settle(n, false, 0);
    }
    let entries: Vec<EntryForecast> = (0..requests.len()).map(|n| boot.entry(n)).collect();
    let lost_root = lost_root(record, index);
    let (outcome, stall) = boot.outcome(&entries, root_read_only(record, requests), lost_root.is_some());
    let mut events = boot.events(&entries, outcome, stall);
    if let Some(root) = &lost_root {
        events = vec![Event {
            at_s: 0.0,
            unit: "/".to_owned(),
            what: format!("root={root} is not found: boot ends in the initramfs"),
        }];
    }
    Forecast {
        init: init_name(record),
        outcome,
        reaches_login: outcome.reaches_login(),
        stall_s: stall,
        verdict: verdict(outcome, stall, &entries, root_read_only(record, requests)),
        assumed: assumed(record, &entries),
        entries,
        events,
    }
}

fn init_name(record: &Record) -> String {
    let version = record.host.init.as_ref().and_then(|i| i.version.as_deref());
    version.map_or_else(|| "systemd".to_owned(), |v| format!("systemd {v}"))
}

impl Boot<'_> {
    /// Settles a request after those it lies under. `pulled` means another
    /// entry needs it, so that `noauto` does not count.
    fn settle(&mut self, n: usize, pulled: bool, depth: usize) -> Settled {
        if let Some(done) = &self.settled[n]
            && !(pulled && done.state == EntryState::Manual)
        {
            return done.clone();
        }
        let mut settled = self.alone(n, pulled);
        let tried = matches!(
            settled.state,
            EntryState::Mounted | EntryState::Active | EntryState::Failed | EntryState::Unknown
        );
        // A chain longer than the table is a circle.
        if (tried || settled.state == EntryState::TimedOut) && depth <= self.requests.len() {
            for needed in self.needed_by(n) {
                let below = self.settle(needed, true, depth + 1);
                let line = self.requests[needed].line();
                settled = after(settled, &below, line);
            }
        }
        self.settled[n] = Some(settled.clone());
        settled
    }

    /// What comes of a request when all it lies under is there.
    fn alone(&self, n: usize, pulled: bool) -> Settled {
        let request = &self.requests[n];
        let now = |state, why: String| Settled { state, at: Some(0.0), why, because_of: None };
        if let Some(why) = self.passed_over(n) {
            return now(EntryState::Ignored, why);
        }
        if is_api(request) || request.is_root() {
            return self.already_there(request);
        }
        if request.automount && !pulled {
            return now(EntryState::OnAccess, "mounted when somebody first touches it".to_owned());
        }
        if request.noauto && !pulled {
            return now(EntryState::Manual, "noauto: not mounted at boot".to_owned());
        }
        match &request.need {
            Need::Missing(_) => {
                let limit = self.timeout(request);
                let why = format!(
                    "no device answers to {}; waits {}",
                    visible(&request.entry.source),
                    seconds(limit)
                );
                Settled { state: EntryState::TimedOut, at: limit, why, because_of: None }
            }
            Need::Unknown(why) => now(EntryState::Unknown, why.clone()),
            Need::None | Need::Present(_) => tried(request),
        }
    }

    /// Entries for which no unit is made, and why.
    fn passed_over(&self, n: usize) -> Option<String> {
        let request = &self.requests[n];
        if request.entry.is_swap() {
            let path = request.source_path();
            let first = self.requests[..n].iter().find(|r| r.entry.is_swap() && r.source_path() == path)?;
            return Some(format!("line {} already asks for this swap", first.line()));
        }
        let Some(target) = &request.target else {
            return Some("its target is no path; the init system passes the line over".to_owned());
        };
        let same = |r: &&Request<'_>| r.target.as_ref() == Some(target);
        let first = self.requests[..n].iter().find(same)?;
        Some(format!("line {} already mounts {}; the first one counts", first.line(), visible(target)))
    }

    /// Root and the API folders are mounted before the table is read; their
    /// options are applied by a remount, and the type is not looked at.
    fn already_there(&self, request: &Request<'_>) -> Settled {
        let settled = |state, why: String| Settled { state, at: Some(0.0), why, because_of: None };
        if !request.is_root() {
            return if request.source.wants_device() {
                settled(EntryState::Ignored, "the init system mounts this folder itself".to_owned())
            } else {
                settled(EntryState::Mounted, "the init system mounts this folder itself".to_owned())
            };
        }
        settled(
            EntryState::Mounted,
            root_trouble(request).unwrap_or_else(|| "mounted before the table is read".to_owned()),
        )
    }

    fn timeout(&self, request: &Request<'_>) -> Option<f64> {
        let option = request.entry.option("x-systemd.device-timeout");
        let given = option.and_then(|o| o.value.as_deref()).and_then(parse_timespan);
        match given {
            // Recorded: 0 waits without end, a value that is no time is passed over.
            Some(limit) => limit.filter(|s| *s > 0.0),
            None => Some(self.device_timeout),
        }
    }

    /// The entries whose mounts this one lies under, nearest target first.
    fn needed_by(&self, n: usize) -> Vec<usize> {
        let paths = self.requests[n].lies_under();
        let mut needed = Vec::new();
        for path in paths {
            let over = |r: &Request<'_>| {
                r.target.as_deref().is_some_and(|t| {
                    t != "/" && (path == t || path.strip_prefix(t).is_some_and(|rest| rest.starts_with('/')))
                })
            };
            let found = (0..self.requests.len())
                .filter(|&i| i != n && over(&self.requests[i]) && self.passed_over(i).is_none());
            needed.extend(found);
        }
        needed.sort_unstable();
        needed.dedup();
        needed
    }

    fn entry(&self, n: usize) -> EntryForecast {
        let request = &self.requests[n];
        let settled = self.settled[n].clone().unwrap_or_else(|| self.alone(n, false));
        let waits = settled.at != Some(0.0);
        EntryForecast {
            line: request.line(),
            source: request.entry.source.clone(),
            target: request.entry.target.clone(),
            state: settled.state,
            unit: self.unit(n),
            stall_s: if waits { settled.at } else { Some(0.0) },
            consequence: consequence(request, &settled),
            why: settled.why,
            because_of: settled.because_of,
        }
    }

    fn unit(&self, n: usize) -> Option<String> {
        let request = &self.requests[n];
        if self.passed_over(n).is_some() || (is_api(request) && !request.is_root()) {
            return None;
        }
        match &request.target {
            Some(target) => Some(mount_unit(target)),
            None => Some(swap_unit(&request.source_path())),
        }
    }

    fn outcome(
        &self,
        entries: &[EntryForecast],
        root_read_only: bool,
        lost_root: bool,
    ) -> (Outcome, Option<f64>) {
        if lost_root {
            return (Outcome::NoRoot, Some(0.0));
        }
        let halting = || entries.iter().filter(|e| e.consequence == Some(Consequence::Halt));
        // The first failure ends the boot, whatever others still wait for.
        if let Some(at) = halting().filter_map(|e| e.stall_s).min_by(f64::total_cmp) {
            return (Outcome::Emergency, Some(at));
        }
        let gating = |e: &&EntryForecast| self.gates_login(e.line);
        let endless = |e: EntryForecast| e.stall_s.is_none();
        if halting().next().is_some() || entries.iter().filter(gating).cloned().any(endless) {
            return (Outcome::Never, None);
        }
        let stall = entries.iter().filter(gating).filter_map(|e| e.stall_s).fold(0.0, f64::max);
        let wrong =
            |e: &EntryForecast| matches!(e.consequence, Some(Consequence::Stall | Consequence::Missing));
        let partial = root_read_only || entries.iter().any(wrong);
        (if partial { Outcome::Partial } else { Outcome::Up }, Some(stall))
    }

    fn gates_login(&self, line: usize) -> bool {
        self.requests.iter().find(|r| r.line() == line).is_some_and(gates_login)
    }

    fn events(&self, entries: &[EntryForecast], outcome: Outcome, stall: Option<f64>) -> Vec<Event> {
        let mut events = Vec::new();
        let mut push =
            |at_s: f64, unit: &str, what: String| events.push(Event { at_s, unit: unit.to_owned(), what });
        for entry in entries {
            let unit = entry.unit.as_deref().unwrap_or(&entry.target);
            let at = entry.stall_s;
            match (entry.state, at) {
                (EntryState::TimedOut, at) => {
                    push(0.0, unit, format!("waits for {}", entry.source));
                    if let Some(at) = at {
                        push(at, unit, "gives up: its device has not come".to_owned());
                    }
                }
                (EntryState::Unknown, at) => {
                    push(at.unwrap_or(0.0), unit, format!("not known: {}", entry.why))
                }
                (EntryState::Manual | EntryState::Ignored, _) | (_, None) => {}
                (state, Some(at)) => push(at, unit, state.words().to_owned()),
            }
        }
        let ending = match outcome {
            Outcome::Emergency => "emergency mode",
            Outcome::Up | Outcome::Partial => "login",
            Outcome::Never | Outcome::NoRoot => "",
        };
        if let (false, Some(at)) = (ending.is_empty(), stall) {
            events.retain(|e| outcome != Outcome::Emergency || e.at_s <= at);
            events.push(Event { at_s: at, unit: ending.to_owned(), what: "reached".to_owned() });
        }
        events.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
        events
    }
}

fn tried(request: &Request<'_>) -> Settled {
    let there = if request.entry.is_swap() { EntryState::Active } else { EntryState::Mounted };
    let (state, why) = match &request.trial {
        Trial::Works => (there, String::new()),
        Trial::Fails(_, why) => (EntryState::Failed, why.clone()),
        Trial::Unknown(why) => (EntryState::Unknown, why.clone()),
    };
    Settled { state, at: Some(0.0), why, because_of: None }
}

/// A request after one it lies under: it waits for it, and falls with it.
fn after(own: Settled, below: &Settled, line: usize) -> Settled {
    let later = match (own.at, below.at) {
        (Some(a), Some(b)) => Some(a.max(b)),
        _ => None,
    };
    match below.state {
        EntryState::TimedOut | EntryState::Failed | EntryState::Blocked => Settled {
            state: EntryState::Blocked,
            at: match (own.state, own.at, below.at) {
                // Whichever gives up first ends it.
                (EntryState::TimedOut, Some(a), Some(b)) => Some(a.min(b)),
                (EntryState::TimedOut, Some(a), None) => Some(a),
                _ => below.at,
            },
            why: format!("needs what line {line} mounts, which is not there"),
            because_of: Some(line),
        },
        EntryState::Unknown if own.state != EntryState::Failed => Settled {
            state: EntryState::Unknown,
            at: later,
            why: format!("depends on line {line}"),
            because_of: Some(line),
        },
        _ => Settled { at: later, ..own },
    }
}

fn is_api(request: &Request<'_>) -> bool {
    request.target.as_deref().is_some_and(|t| API_FOLDERS.contains(&t))
}

/// Whether login waits until the request is settled.
fn gates_login(request: &Request<'_>) -> bool {
    let asked = !request.noauto && !request.automount;
    let login = request.target.as_deref().is_some_and(|t| LOGIN_FOLDERS.contains(&t));
    // Recorded: swap with nofail delays login all the same.
    asked && (request.entry.is_swap() || !request.nofail || login)
}

/// What the entry does to the boot at worst.
fn consequence(request: &Request<'_>, settled: &Settled) -> Option<Consequence> {
    let late = settled.at != Some(0.0) && gates_login(request);
    match settled.state {
        EntryState::Manual | EntryState::OnAccess => {
            let hollow =
                matches!(request.need, Need::Missing(_)) || matches!(request.trial, Trial::Fails(..));
            hollow.then_some(Consequence::Risk)
        }
        EntryState::Ignored if settled.why.contains("already asks") => Some(Consequence::Note),
        EntryState::Ignored => Some(Consequence::Missing),
        EntryState::TimedOut | EntryState::Failed | EntryState::Blocked => {
            let required = !request.nofail && !request.noauto && !request.automount;
            let endless = settled.at.is_none() && gates_login(request);
            let local = !request.network && !request.entry.is_swap();
            Some(match endless || (required && local) {
                true => Consequence::Halt,
                false if late => Consequence::Stall,
                false => Consequence::Missing,
            })
        }
        EntryState::Mounted if request.is_root() => root_trouble(request).map(|_| Consequence::Missing),
        EntryState::Mounted | EntryState::Active | EntryState::Unknown => None,
    }
}

/// Why the remount of root with the entry's options fails; its type is not
/// looked at (recorded).
fn root_trouble(request: &Request<'_>) -> Option<String> {
    let left = "root is left as the kernel mounted it";
    match (&request.need, &request.trial) {
        (Need::Missing(_), _) => {
            Some(format!("no device answers to {}: {left}", visible(&request.entry.source)))
        }
        (_, Trial::Fails(Cause::Options, why)) => Some(format!("{why}; {left}")),
        _ => None,
    }
}

/// `root=` of the command line when it names a device by a tag and no device
/// answers to it.
fn lost_root(record: &Record, index: &Index<'_>) -> Option<String> {
    let value = record
        .command_line
        .as_deref()?
        .split_whitespace()
        .filter_map(|w| w.strip_prefix("root="))
        .next_back()?;
    let source = Source::parse(value);
    let tagged = matches!(source, Source::Tag(Tag::Uuid | Tag::Label | Tag::PartUuid | Tag::PartLabel, _));
    let absent = tagged && matches!(index.resolve(&source), Resolution::Absent(_));
    absent.then(|| visible(value).into_owned())
}

/// Whether root stays read-only: the kernel mounts it so unless told
/// otherwise, and no working entry changes that (recorded).
fn root_read_only(record: &Record, requests: &[Request<'_>]) -> bool {
    let Some(line) = &record.command_line else { return false };
    let last = line.split_whitespace().rfind(|w| matches!(*w, "ro" | "rw"));
    if last != Some("ro") {
        return false;
    }
    match requests.iter().find(|r| r.is_root()) {
        None => true,
        Some(root) => root_trouble(root).is_some(),
    }
}

fn verdict(outcome: Outcome, stall: Option<f64>, entries: &[EntryForecast], root_read_only: bool) -> String {
    let late = stall.unwrap_or(0.0);
    let after = if late > 0.0 { format!(" after {}", seconds(stall)) } else { String::new() };
    let absent = entries.iter().filter(|e| e.state.is_absent()).count();
    match outcome {
        Outcome::Up if late > 0.0 => format!("boot will reach login{after}, with everything in place"),
        Outcome::Up => "boot will reach login with everything in place".to_owned(),
        Outcome::Emergency => format!("boot will stop in emergency mode{after}"),
        Outcome::Never => "boot will wait without end and never reach login".to_owned(),
        Outcome::NoRoot => "boot will not find its root file system".to_owned(),
        Outcome::Partial if root_read_only => {
            format!("boot will reach login{after}, but root stays read-only")
        }
        Outcome::Partial => {
            format!("boot will reach login{after}, but {} will be missing", count(absent, "entry"))
        }
    }
}

fn assumed(record: &Record, entries: &[EntryForecast]) -> Vec<String> {
    let mut assumed = Vec::new();
    match record.host.init.as_ref().map(|i| (i.kind, i.running)) {
        None => assumed.push("the init system is not known: systemd is assumed".to_owned()),
        Some((InitKind::Systemd, Some(false))) => {
            assumed.push("systemd is installed but not running: this host may not boot with it".to_owned());
        }
        Some((InitKind::Other, _)) => {
            assumed.push("the first process is no init system known here: systemd is assumed".to_owned());
        }
        _ => {}
    }
    for entry in entries.iter().filter(|e| e.state == EntryState::Unknown && e.because_of.is_none()) {
        assumed.push(format!("line {}: {}; it is taken to work", entry.line, entry.why));
    }
    assumed
}
