use super::Worst;
use super::early::{EarlyWait, GivenUp};
use bradawl_facts::Consequence;
use bradawl_facts::size::seconds;
use serde::Serialize;
use std::borrow::Cow;

/// The predicted boot.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Forecast {
    /// The init system that was modelled: `systemd 252`.
    pub init: String,
    /// How the boot ends.
    pub outcome: Outcome,
    /// Whether anybody can log in.
    pub reaches_login: bool,
    /// What the boot ends in or at: `login`, `emergency mode`, `rescue mode`,
    /// `the initramfs`, a shell of the init's scripts; `never`.
    pub ends_in: String,
    /// What ends the boot before login although no entry is to blame; absent:
    /// nothing does.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ended_by: Option<String>,
    /// Seconds that boot waits for something that does not come; null:
    /// without end.
    pub stall_s: Option<f64>,
    /// Seconds of these that pass before the init system begins.
    pub before_init_s: f64,
    /// What is said of the whole boot, in one sentence.
    pub verdict: String,
    /// Whether root stays read-only.
    pub root_read_only: bool,
    /// What the boot does at worst, where not everything is known; absent: the
    /// same.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub worst: Option<Worst>,
    /// What had to be assumed because the record does not say.
    pub assumed: Vec<String>,
    /// One for every entry, in table order.
    pub entries: Vec<EntryForecast>,
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

    /// Adds swap that no entry asks for and that does not come.
    pub(super) fn lose_swaps(&mut self, events: impl Iterator<Item = Event>) {
        if self.outcome == Outcome::Up {
            self.outcome = Outcome::Partial;
            self.verdict = self.verdict.replace(", with everything in place", ", but swap will be missing");
        }
        self.see_beside(events);
    }

    /// Adds what is seen of units that no entry asks for.
    pub(super) fn see_beside(&mut self, events: impl Iterator<Item = Event>) {
        self.events.extend(events);
        self.events.sort_by(|a, b| a.at_s.total_cmp(&b.at_s));
    }

    /// Puts waits of the initramfs before everything else.
    pub(super) fn wait_before(&mut self, waits: &[EarlyWait]) {
        let stall_s = longest(waits);
        self.before_init_s = stall_s;
        self.stall_s = self.stall_s.map(|s| s + stall_s);
        let early = format!("after {} in the initramfs ", seconds(Some(stall_s)));
        self.verdict = self.verdict.replacen("boot will ", &format!("{early}boot will "), 1);
        self.events.splice(0..0, waits.iter().map(|wait| wait.event(-stall_s)));
        self.assumed.extend(waits.iter().map(|wait| wait.assumed.clone()));
    }

    /// Ends the boot in the initramfs.
    pub(super) fn give_up(&mut self, given_up: &GivenUp, waits: &[EarlyWait]) {
        let stall_s = given_up.stall_s.max(longest(waits));
        (self.outcome, self.reaches_login) = (Outcome::NoRoot, false);
        self.ends_in = "the initramfs".to_owned();
        self.ended_by = given_up.entry.is_none().then(|| given_up.why.clone());
        (self.stall_s, self.before_init_s) = (Some(stall_s), stall_s);
        let after = if stall_s > 0.0 { format!(" after {}", seconds(Some(stall_s))) } else { String::new() };
        let without = if given_up.target == "/" { "root" } else { given_up.target };
        self.verdict = format!("boot will end in the initramfs{after}, without {without}");
        let at =
            |at_s: f64, what: String| Event { at_s, unit: given_up.target.to_owned(), what: what.into() };
        self.events = waits.iter().map(|wait| wait.event(0.0)).collect();
        self.events.extend((given_up.stall_s > 0.0).then(|| at(0.0, "waits for its device".to_owned())));
        self.events.push(at(stall_s, format!("{}: boot ends in the initramfs", given_up.why)));
        self.assumed.extend(waits.iter().map(|wait| wait.assumed.clone()));
        for entry in self.entries.iter_mut().filter(|e| !e.state.is_absent() && e.state != EntryState::Manual)
        {
            entry.state = EntryState::Blocked;
            entry.why = "the boot ends in the initramfs, before the table is read".to_owned();
            (entry.stall_s, entry.consequence) = (Some(stall_s), None);
        }
        if let Some((place, state)) = given_up.entry {
            let entry = &mut self.entries[place];
            (entry.state, entry.why) = (state, given_up.why.clone());
            (entry.stall_s, entry.consequence) = (Some(given_up.stall_s), Some(Consequence::Halt));
        }
    }
}

/// All waits of the initramfs run side by side.
fn longest(waits: &[EarlyWait]) -> f64 {
    waits.iter().map(|wait| wait.stall_s).fold(0.0, f64::max)
}

/// How a boot ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum Outcome {
    /// Everything asked for at boot is there.
    Up,
    /// Login, but something is missing, or root is left read-only.
    Partial,
    /// Stops in emergency mode.
    Emergency,
    /// The root file system is never found.
    NoRoot,
    /// Waits without end.
    Never,
}

impl Outcome {
    /// Whether anybody can log in.
    pub fn reaches_login(self) -> bool {
        matches!(self, Outcome::Up | Outcome::Partial)
    }

    /// The word for it, as in JSON.
    pub fn name(self) -> &'static str {
        match self {
            Outcome::Up => "up",
            Outcome::Partial => "partial",
            Outcome::Emergency => "emergency",
            Outcome::NoRoot => "no-root",
            Outcome::Never => "never",
        }
    }
}

/// What becomes of one entry.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
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
    /// The line of the entry that this one waits for in vain.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub because_of: Option<usize>,
    /// Whether it lies on a circle of entries that wait for each other.
    #[serde(skip)]
    pub on_circle: bool,
    /// From cause to effect, link by link; empty when it does nothing to the
    /// boot.
    pub chain: Vec<String>,
}

/// How an entry ends.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
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
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Event {
    /// Seconds after the init system began its jobs, negative before; boot's
    /// own work counts as no time.
    pub at_s: f64,
    /// The unit it is about; the target when the init system has no units.
    pub unit: String,
    /// What happens.
    pub what: Cow<'static, str>,
}
