use super::doubt::DoubtSort;
use super::verdict::{Absent, AtWorst, BootVerdict, Ending};
use bradawl_facts::Consequence;
use bradawl_facts::record::BootsWith;
use bradawl_facts::text::{some, visible};
use std::borrow::Cow;

/// The predicted boot.
#[derive(Debug, Clone, PartialEq)]
#[non_exhaustive]
pub struct Forecast {
    /// The init system that was modelled: `systemd 252`.
    pub init: String,
    /// The model that was followed.
    pub model: BootsWith,
    /// How the boot ends.
    pub outcome: Outcome,
    /// Whether anybody can log in.
    pub reaches_login: bool,
    /// What the boot ends in or at: `login`, `emergency mode`, `rescue mode`,
    /// `the initramfs`, `a kernel panic`, a shell of the init's scripts; `never`.
    pub ends_in: String,
    /// What ends the boot before login although no entry is to blame; absent:
    /// nothing does.
    pub ended_by: Option<String>,
    /// Seconds that boot waits for something that does not come; null:
    /// without end.
    pub stall_s: Option<f64>,
    /// Seconds of these that pass before the init system begins.
    pub before_init_s: f64,
    /// What is said of the whole boot, in one sentence.
    pub verdict: BootVerdict,
    /// Whether root is read-only in the end, be it that its entry asks for it.
    pub root_read_only: bool,
    /// Whether all local mounts that are demanded are there in time:
    /// local-fs.target is reached.
    pub local_fs_reached: bool,
    /// What the boot does at worst, where not everything is known; absent: the
    /// same.
    pub worst: Option<Worst>,
    /// What the boot does at worst where facts are missing that a fuller survey
    /// would settle; absent: they make no difference that counts.
    pub not_known: Option<Worst>,
    /// What is not in the record and makes what comes of entries uncertain:
    /// more rights or a fuller survey would tell.
    pub missing_facts: Vec<String>,
    /// What had to be assumed because the record does not say.
    pub assumed: Vec<String>,
    /// One for every entry, in table order.
    pub entries: Vec<EntryForecast>,
    /// What the kernel's command line adds to the table (`systemd.mount-extra=`),
    /// as entries of line 0.
    pub beside: Vec<EntryForecast>,
    /// What happens, in order.
    pub events: Vec<Event>,
}

impl Forecast {
    /// Seconds from the moment the init system begins to the end of the boot.
    pub fn after_init_s(&self) -> Option<f64> {
        self.stall_s.map(|s| s - self.before_init_s)
    }

    /// When the boot ends, on the clock of its events: that of the init system,
    /// or of the initramfs where the boot ends there.
    pub fn end_s(&self) -> Option<f64> {
        if self.outcome == Outcome::NoRoot { self.stall_s } else { self.after_init_s() }
    }

    /// Says that facts are missing where that may make the boot worse.
    pub(super) fn leave_open(&mut self, worst: Option<Worst>) {
        let Some(worst) = worst.filter(|_| self.outcome.reaches_login()) else { return };
        self.outcome = Outcome::NotKnown;
        self.verdict.at_worst = Some(Box::new(AtWorst {
            stall_s: worst.stall_s,
            ending: worst.verdict.ending.clone(),
            lines: worst.lines.clone(),
        }));
        self.not_known = Some(worst);
    }

    /// Adds swap that no entry asks for and that does not come.
    pub(super) fn lose_swaps(&mut self, events: impl Iterator<Item = Event>) {
        if self.outcome == Outcome::Up {
            self.outcome = Outcome::Partial;
            self.verdict.ending = Ending::Without(Absent::Swap);
        }
        self.see_beside(events);
    }

    /// Adds what is seen of units that no entry asks for.
    pub(super) fn see_beside(&mut self, events: impl Iterator<Item = Event>) {
        self.events.extend(events);
        self.events.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    }
}

/// What is not known of these entries.
pub(super) fn missing_facts(entries: &[EntryForecast]) -> Vec<String> {
    let open = |e: &&EntryForecast| e.doubt == Some(DoubtSort::NotKnown) && e.because_of.is_none();
    entries.iter().filter(open).map(|e| format!("line {}: {}", e.line, e.why)).collect()
}

/// How a boot ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Outcome {
    /// Everything asked for at boot is there.
    Up,
    /// Login, but something is missing, or root is left read-only.
    Partial,
    /// Login as far as is known; facts are missing, and it may be worse:
    /// `not_known` says how.
    NotKnown,
    /// Stops in emergency mode.
    Emergency,
    /// The root file system is never found.
    NoRoot,
    /// Waits without end.
    Never,
}

impl Outcome {
    /// Whether anybody can log in, as far as is known.
    pub fn reaches_login(self) -> bool {
        matches!(self, Outcome::Up | Outcome::Partial | Outcome::NotKnown)
    }

    /// How the boot ends, as a clause without a subject.
    pub fn words(self) -> &'static str {
        match self {
            Outcome::Up => "everything in place",
            Outcome::Partial => "login, but something is missing",
            Outcome::NotKnown => "not known",
            Outcome::Emergency => "stops in emergency mode",
            Outcome::NoRoot => "the root file system is not found",
            Outcome::Never => "waits without end",
        }
    }

    /// The word for it, as in JSON.
    pub fn name(self) -> &'static str {
        match self {
            Outcome::Up => "up",
            Outcome::Partial => "partial",
            Outcome::NotKnown => "not-known",
            Outcome::Emergency => "emergency",
            Outcome::NoRoot => "no-root",
            Outcome::Never => "never",
        }
    }
}

/// What the boot does at worst.
#[derive(Debug, Clone, PartialEq)]
pub struct Worst {
    /// How it ends.
    pub outcome: Outcome,
    /// Seconds that it waits; null: without end.
    pub stall_s: Option<f64>,
    /// The boot in one sentence.
    pub verdict: BootVerdict,
    /// The lines of the entries that are not known to work and then do not.
    pub lines: Vec<usize>,
    /// The containers whose passphrases nobody types then.
    pub asked: Vec<String>,
}

impl Worst {
    /// In a sentence without a full stop: what goes wrong, and the boot then.
    pub fn words(&self) -> String {
        let lines: Vec<String> = self.lines.iter().map(usize::to_string).collect();
        let lines = match lines.as_slice() {
            [] => None,
            [line] => Some(format!("line {line} does not work")),
            several => Some(format!("lines {} do not work", some(several))),
        };
        let asked = self.asked.iter().map(|name| format!("nobody types the passphrase of {}", visible(name)));
        let wrong: Vec<String> = lines.into_iter().chain(asked).collect();
        format!("{}, and {}", wrong.join(", "), self.verdict)
    }

    /// A boot that never comes to login because of the entry on this line.
    pub(super) fn never(line: usize) -> Self {
        let verdict = BootVerdict { early_s: 0.0, stall_s: None, ending: Ending::Never, at_worst: None };
        Worst { outcome: Outcome::Never, stall_s: None, verdict, lines: vec![line], asked: Vec::new() }
    }
}

/// What becomes of one entry.
#[derive(Debug, Clone, PartialEq)]
pub struct EntryForecast {
    /// Line in the table, from 1.
    pub line: usize,
    /// Source as written.
    pub source: String,
    /// Target as written.
    pub target: String,
    /// How it ends.
    pub state: EntryState,
    /// The init system's name for it; absent when it makes none.
    pub unit: Option<String>,
    /// Seconds that something waits for it; null: without end.
    pub stall_s: Option<f64>,
    /// What the worst is that this entry does to the boot; absent when
    /// nothing.
    pub consequence: Option<Consequence>,
    /// Why it ends so.
    pub why: String,
    /// The same without how long it is waited for, which `stall_s` tells.
    pub cause: String,
    /// What would settle how it ends, where that is not known.
    pub doubt: Option<DoubtSort>,
    /// The line of the entry that this one waits for in vain.
    pub because_of: Option<usize>,
    /// Whether it fails because nobody makes the directory of its target.
    pub lacks_directory: bool,
    /// Whether it lies on a circle of entries that wait for each other.
    pub on_circle: bool,
    /// From cause to effect, link by link; empty when it does nothing to the
    /// boot.
    pub chain: Vec<String>,
}

impl EntryForecast {
    /// Has it end for this reason, in which no time is told.
    pub(super) fn because(&mut self, cause: &str) {
        (self.why, self.cause) = (cause.to_owned(), cause.to_owned());
    }
}

/// How an entry ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum EntryState {
    /// Mounted.
    Mounted,
    /// Swap, in use.
    Active,
    /// Mounted when first touched.
    OnAccess,
    /// Not asked for at boot.
    Manual,
    /// Its device never came.
    TimedOut,
    /// Tried, and refused.
    Failed,
    /// Waits for another entry that is not there.
    Blocked,
    /// Passed over: a duplicate, or a line nobody can use.
    Ignored,
    /// The facts do not tell.
    Unknown,
}

impl EntryState {
    /// The word for it, in text.
    pub fn words(self) -> &'static str {
        match self {
            EntryState::Mounted => "mounted",
            EntryState::Active => "active",
            EntryState::OnAccess => "on access",
            EntryState::Manual => "manual",
            EntryState::TimedOut => "timed out",
            EntryState::Failed => "failed",
            EntryState::Blocked => "blocked",
            EntryState::Ignored => "ignored",
            EntryState::Unknown => "unknown",
        }
    }

    /// Whether the entry was asked for and is not there.
    pub fn is_absent(self) -> bool {
        matches!(self, EntryState::TimedOut | EntryState::Failed | EntryState::Blocked | EntryState::Ignored)
    }
}

/// One moment of the predicted boot.
#[derive(Debug, Clone, PartialEq)]
pub struct Event {
    /// Seconds after the init system began its jobs, negative before; boot's
    /// own work counts as no time.
    pub at_s: f64,
    /// The unit it is about; the target when the init system has no units.
    pub unit: String,
    /// What happens.
    pub what: Cow<'static, str>,
}
