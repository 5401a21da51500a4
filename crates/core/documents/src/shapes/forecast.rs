//! A boot as it is foreseen.

use bradawl_boot::{BootVerdict, DoubtSort, EntryForecast, EntryState, Event, Forecast, Outcome, Worst};
use bradawl_facts::Consequence;
use serde::Serialize;
use serde_with::{DisplayFromStr, serde_as};
use std::borrow::Cow;

/// The predicted boot.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Forecast"))]
#[serde(remote = "Forecast")]
pub struct ForecastShape {
    /// The init system that was modelled: `systemd 252`.
    pub init: String,
    /// How the boot ends.
    #[serde_as(as = "OutcomeShape")]
    pub outcome: Outcome,
    /// Whether anybody can log in.
    pub reaches_login: bool,
    /// What the boot ends in or at: `login`, `emergency mode`, `rescue mode`,
    /// `the initramfs`, `a kernel panic`, a shell of the init's scripts; `never`.
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
    #[serde_as(as = "DisplayFromStr")]
    pub verdict: BootVerdict,
    /// Whether root is read-only in the end, be it that its entry asks for it.
    pub root_read_only: bool,
    /// Whether all local mounts that are demanded are there in time:
    /// local-fs.target is reached.
    pub local_fs_reached: bool,
    /// What the boot does at worst, where not everything is known; absent: the
    /// same.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde_as(as = "Option<WorstShape>")]
    pub worst: Option<Worst>,
    /// What the boot does at worst where facts are missing that a fuller survey
    /// would settle; absent: they make no difference that counts.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde_as(as = "Option<WorstShape>")]
    pub not_known: Option<Worst>,
    /// What is not in the record and makes what comes of entries uncertain:
    /// more rights or a fuller survey would tell.
    pub missing_facts: Vec<String>,
    /// What had to be assumed because the record does not say.
    pub assumed: Vec<String>,
    /// One for every entry, in table order.
    #[serde_as(as = "Vec<EntryForecastShape>")]
    pub entries: Vec<EntryForecast>,
    /// What the kernel's command line adds to the table (`systemd.mount-extra=`),
    /// as entries of line 0.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    #[serde_as(as = "Vec<EntryForecastShape>")]
    pub beside: Vec<EntryForecast>,
    /// What happens, in order.
    #[serde_as(as = "Vec<EventShape>")]
    pub events: Vec<Event>,
}

/// How a boot ends.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Outcome"))]
#[serde(remote = "Outcome", rename_all = "kebab-case")]
pub enum OutcomeShape {
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

/// What the boot does at worst.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Worst"))]
#[serde(remote = "Worst")]
pub struct WorstShape {
    /// How it ends.
    #[serde_as(as = "OutcomeShape")]
    pub outcome: Outcome,
    /// Seconds that it waits; null: without end.
    pub stall_s: Option<f64>,
    /// The boot in one sentence.
    #[serde_as(as = "DisplayFromStr")]
    pub verdict: BootVerdict,
    /// The lines of the entries that are not known to work and then do not.
    pub lines: Vec<usize>,
    /// The containers whose passphrases nobody types then.
    pub asked: Vec<String>,
}

/// What becomes of one entry.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "EntryForecast"))]
#[serde(remote = "EntryForecast")]
pub struct EntryForecastShape {
    /// Line in the table, from 1.
    pub line: usize,
    /// Source as written.
    pub source: String,
    /// Target as written.
    pub target: String,
    /// How it ends.
    #[serde_as(as = "EntryStateShape")]
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
    /// What would settle how it ends, where that is not known.
    #[serde(skip_serializing_if = "Option::is_none")]
    #[serde_as(as = "Option<DoubtSortShape>")]
    pub doubt: Option<DoubtSort>,
    /// The line of the entry that this one waits for in vain.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub because_of: Option<usize>,
    /// From cause to effect, link by link; empty when it does nothing to the
    /// boot.
    pub chain: Vec<String>,
}

/// How an entry ends.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "EntryState"))]
#[serde(remote = "EntryState", rename_all = "kebab-case")]
pub enum EntryStateShape {
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

/// One moment of the predicted boot.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Event"))]
#[serde(remote = "Event")]
pub struct EventShape {
    /// Seconds after the init system began its jobs, negative before; boot's
    /// own work counts as no time.
    pub at_s: f64,
    /// The unit it is about; the target when the init system has no units.
    pub unit: String,
    /// What happens.
    pub what: Cow<'static, str>,
}

/// What would settle a doubt.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "DoubtSort"))]
#[serde(remote = "DoubtSort", rename_all = "kebab-case")]
pub enum DoubtSortShape {
    /// Facts that are not in the record: a fuller survey, more rights.
    NotKnown,
    /// Nothing before the boot: an event, such as a server that answers or a
    /// passphrase that somebody types.
    Event,
}

shapes! {
    Forecast => ForecastShape,
    Outcome => OutcomeShape,
    Worst => WorstShape,
    EntryForecast => EntryForecastShape,
    EntryState => EntryStateShape,
    Event => EventShape,
    DoubtSort => DoubtSortShape,
}
