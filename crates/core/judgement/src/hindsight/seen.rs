use super::{Agreement, Jobs, compared};
use bradawl_boot::{EntryForecast, EntryState, Request, device_unit};
use bradawl_facts::path::is_within;
use bradawl_facts::record::{JobResult, JobRun, Record};

/// What became of an entry, beside what was forecast of it.
#[derive(Debug, Clone, PartialEq)]
pub struct EntrySeen {
    /// Line in the table, from 1.
    pub line: usize,
    /// Source as written.
    pub source: String,
    /// Target as written.
    pub target: String,
    /// The init system's name for it.
    pub unit: Option<String>,
    /// How it ended.
    pub seen: Seen,
    /// When it ended, in seconds after the init system began its jobs.
    pub at_s: Option<f64>,
    /// How long mounting it, or switching it on, took.
    pub took_s: Option<f64>,
    /// How long its device was waited for, where it did not come at once.
    pub waited_s: Option<f64>,
    /// How it was forecast to end.
    pub forecast: EntryState,
    /// Why, in the forecast's words.
    pub forecast_why: String,
    /// Whether the two agree.
    pub agreement: Agreement,
}

/// How an entry ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Seen {
    /// Mounted.
    Mounted,
    /// Swap, in use.
    Active,
    /// An automount watches its place.
    OnAccess,
    /// Its device did not come in time.
    TimedOut,
    /// Tried, and refused.
    Failed,
    /// Left out, because something it needs was not there.
    LeftOut,
    /// Its device is still waited for.
    Waiting,
    /// Not there; nothing tells whether it was tried.
    NotThere,
    /// Nothing tells.
    NotKnown,
}

impl Seen {
    /// Whether it is known not to be there.
    pub fn is_absent(self) -> bool {
        matches!(self, Seen::TimedOut | Seen::Failed | Seen::LeftOut | Seen::Waiting | Seen::NotThere)
    }

    /// In a word or two.
    pub fn words(self) -> &'static str {
        match self {
            Seen::Mounted => "mounted",
            Seen::Active => "active",
            Seen::OnAccess => "on access",
            Seen::TimedOut => "timed out",
            Seen::Failed => "failed",
            Seen::LeftOut => "left out",
            Seen::Waiting => "still waiting",
            Seen::NotThere => "not there",
            Seen::NotKnown => "not known",
        }
    }
}

/// What the jobs of a boot, and for the one that is running its mounts, tell
/// of an entry.
pub(super) fn entry(
    record: &Record,
    (jobs, running): (&Jobs<'_>, bool),
    request: &Request<'_>,
    told: &EntryForecast,
) -> EntrySeen {
    let automount = request.automount.then(|| request.unit.replace(".mount", ".automount"));
    let job = automount.as_deref().and_then(|unit| jobs.of(unit)).or_else(|| jobs.of(&request.unit));
    let device = jobs.of(&device_unit(&request.path));
    let seen = match job.map(|j| (j.result, automount.is_some())) {
        Some((Some(JobResult::Done), true)) => Seen::OnAccess,
        Some((Some(JobResult::Done), false)) => there(request),
        Some((Some(JobResult::Timeout), _)) => Seen::TimedOut,
        Some((Some(JobResult::Failed), _)) => Seen::Failed,
        Some((Some(JobResult::Dependency), _)) => left_out(device),
        Some((Some(JobResult::Skipped), _)) => Seen::NotThere,
        Some((None, _)) => Seen::Waiting,
        None if device.is_some_and(|d| d.result.is_none() && d.began_s.is_some()) => Seen::Waiting,
        None if running => now(record, request),
        None => Seen::NotKnown,
    };
    let took = |job: &JobRun| jobs.took_s(job);
    let waited_s = device.and_then(took).filter(|s| *s >= 0.1);
    EntrySeen {
        line: request.line(),
        source: request.entry.source.clone(),
        target: request.entry.target.clone(),
        unit: told.unit.clone(),
        seen,
        at_s: job.and_then(|j| j.ended_s).map(|s| jobs.at_s(s)),
        took_s: job.filter(|j| j.began_s.is_some()).and_then(took),
        waited_s,
        forecast: told.state,
        forecast_why: told.why.clone(),
        agreement: compared(told, seen, waited_s.filter(|_| seen == Seen::TimedOut)),
    }
}

fn there(request: &Request<'_>) -> Seen {
    if request.entry.is_swap() { Seen::Active } else { Seen::Mounted }
}

/// A unit that fails for what it needs: for its device, or something else.
fn left_out(device: Option<&JobRun>) -> Seen {
    match device.and_then(|d| d.result) {
        Some(JobResult::Timeout) => Seen::TimedOut,
        _ => Seen::LeftOut,
    }
}

/// What is there now. What somebody mounted later cannot be told apart.
fn now(record: &Record, request: &Request<'_>) -> Seen {
    if request.entry.is_swap() {
        let Some(swaps) = &record.swaps else { return Seen::NotKnown };
        let path = request.device().map_or(request.path.as_str(), |d| d.path.as_str());
        let on = swaps.iter().any(|s| s.path == path || s.path == request.path);
        return if on { Seen::Active } else { Seen::NotThere };
    }
    let (Some(mounts), Some(target)) = (&record.mounts, &request.target) else { return Seen::NotKnown };
    match mounts.iter().rfind(|m| m.target == *target) {
        Some(mount) if mount.fstype == "autofs" => Seen::OnAccess,
        Some(_) => Seen::Mounted,
        // What the kernel and the init system mount by themselves may be hidden
        // from whoever looks.
        None if ["/proc", "/sys", "/dev", "/run"].iter().any(|d| is_within(target, d)) => Seen::NotKnown,
        None => Seen::NotThere,
    }
}
