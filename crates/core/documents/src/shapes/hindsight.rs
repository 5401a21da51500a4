//! A boot as it was.

use super::forecast::EntryStateShape;
use super::forecast::OutcomeShape;
use bradawl_boot::{EntryState, Outcome};
use bradawl_facts::record::JobResult;
use bradawl_judgement::hindsight::{Agreement, Ended, EntrySeen, Hindsight, Seen, Slow};
use serde::Serialize;
use serde_with::serde_as;

/// A boot beside its forecast.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Hindsight"))]
#[serde(remote = "Hindsight")]
pub struct HindsightShape {
    /// 0: the boot that is running; -1: the one before; and so on.
    pub boot: i32,
    /// When its journal begins, in seconds since 1970 UTC.
    pub began_s: Option<u64>,
    /// How it ended.
    #[serde_as(as = "EndedShape")]
    pub ended: Ended,
    /// When, in seconds after the init system began its jobs; null: not known.
    pub ended_at_s: Option<f64>,
    /// Whether root is read-only; null: only the running boot tells.
    pub root_read_only: Option<bool>,
    /// One for every entry, in table order.
    #[serde_as(as = "Vec<EntrySeenShape>")]
    pub entries: Vec<EntrySeen>,
    /// What took long, longest first.
    #[serde_as(as = "Vec<SlowShape>")]
    pub slow: Vec<Slow>,
    /// What the generator of mounts said about the table.
    pub complaints: Vec<String>,
    /// How the forecast from the same facts ends.
    #[serde_as(as = "OutcomeShape")]
    pub forecast: Outcome,
    /// The forecast in one sentence.
    pub forecast_verdict: String,
    /// Whether the boot ended as forecast.
    #[serde_as(as = "AgreementShape")]
    pub agreement: Agreement,
}

/// How a boot ended.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Ended"))]
#[serde(remote = "Ended", rename_all = "kebab-case")]
pub enum EndedShape {
    /// Somebody could log in.
    Login,
    /// In emergency mode.
    Emergency,
    /// In rescue mode.
    Rescue,
    /// It is not over: jobs still wait.
    Waiting,
    /// Nothing tells.
    NotKnown,
}

/// Whether what was seen is what was forecast.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Agreement"))]
#[serde(remote = "Agreement", rename_all = "kebab-case")]
pub enum AgreementShape {
    /// It is.
    Agreed,
    /// It is not.
    Differed,
    /// One of the two is not known.
    NotKnown,
}

/// A job that took long.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Slow"))]
#[serde(remote = "Slow")]
pub struct SlowShape {
    /// The unit.
    pub unit: String,
    /// The line of the entry that it belongs to; null: none.
    pub line: Option<usize>,
    /// How long it took, in seconds.
    pub took_s: f64,
    /// How it ended; null: it has not.
    pub result: Option<JobResult>,
}

/// What became of an entry, beside what was forecast of it.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "EntrySeen"))]
#[serde(remote = "EntrySeen")]
pub struct EntrySeenShape {
    /// Line in the table, from 1.
    pub line: usize,
    /// Source as written.
    pub source: String,
    /// Target as written.
    pub target: String,
    /// The init system's name for it.
    pub unit: Option<String>,
    /// How it ended.
    #[serde_as(as = "SeenShape")]
    pub seen: Seen,
    /// When it ended, in seconds after the init system began its jobs.
    pub at_s: Option<f64>,
    /// How long mounting it, or switching it on, took.
    pub took_s: Option<f64>,
    /// How long its device was waited for, where it did not come at once.
    pub waited_s: Option<f64>,
    /// How it was forecast to end.
    #[serde_as(as = "EntryStateShape")]
    pub forecast: EntryState,
    /// Why, in the forecast's words.
    pub forecast_why: String,
    /// Whether the two agree.
    #[serde_as(as = "AgreementShape")]
    pub agreement: Agreement,
}

/// How an entry ended.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Seen"))]
#[serde(remote = "Seen", rename_all = "kebab-case")]
pub enum SeenShape {
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

shapes! {
    Hindsight => HindsightShape,
    Ended => EndedShape,
    Agreement => AgreementShape,
    Slow => SlowShape,
    EntrySeen => EntrySeenShape,
    Seen => SeenShape,
}
