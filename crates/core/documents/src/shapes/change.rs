//! Changes: lines, steps, repairs.

use bradawl_change::MendedLine;
use bradawl_change::adopt::Skipped;
use bradawl_change::edit::Fresh;
use bradawl_change::layout::{LaidChange, LaidState};
use bradawl_change::mend::{Conflict, Made};
use bradawl_change::steps::Step;
use serde::Serialize;
use serde_with::serde_as;

/// An entry that is to be written.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Fresh"))]
#[serde(remote = "Fresh")]
pub struct FreshShape {
    /// What is mounted.
    pub source: String,
    /// Where; `none` for swap.
    pub target: String,
    /// The file system type.
    #[serde(rename = "type")]
    pub fstype: String,
    /// The options in order; none: `defaults`.
    pub options: Vec<String>,
    /// Fifth field.
    pub dump: u8,
    /// Sixth field.
    pub pass: u8,
    /// A comment for the line above, without its `#`.
    pub comment: Option<String>,
}

/// A line with all of its safe repairs made.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "MendedLine"))]
#[serde(remote = "MendedLine")]
pub struct MendedLineShape {
    /// Line in the table, from 1.
    pub line: usize,
    /// Its text then.
    pub text: String,
}

/// What is done about one target.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "LaidChange"))]
#[serde(remote = "LaidChange")]
pub struct LaidChangeShape {
    /// The target; `none` for swap.
    pub target: String,
    /// What is done.
    #[serde_as(as = "LaidStateShape")]
    pub state: LaidState,
    /// Why it cannot be done; null: it can.
    pub why: Option<String>,
}

/// What is done about a target.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "LaidState"))]
#[serde(remote = "LaidState", rename_all = "kebab-case")]
pub enum LaidStateShape {
    /// Its entry is as it should be.
    Kept,
    /// Its entry is new.
    Added,
    /// Its entry is changed.
    Changed,
    /// Its entry is switched off.
    SwitchedOff,
    /// The host does not tell which device is meant, or it cannot be done.
    Unresolved,
}

/// A repair that is made.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Made"))]
#[serde(remote = "Made")]
pub struct MadeShape {
    /// The rule whose finding it mends; null for a step that keeps the boot
    /// from stopping or waiting.
    pub rule: Option<&'static str>,
    /// The line, from 1.
    pub line: Option<usize>,
    /// What is done, in a few words.
    pub what: String,
    /// The requirement of the policy behind it: `FILE, line N`.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub asked_by: Option<String>,
}

/// Repairs that undo each other: none of them is made.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Conflict"))]
#[serde(remote = "Conflict")]
pub struct ConflictShape {
    /// The line, from 1.
    pub line: usize,
    /// The repairs, in the order in which they call for each other.
    #[serde_as(as = "Vec<MadeShape>")]
    pub repairs: Vec<Made>,
}

/// One step.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Step"))]
#[serde(remote = "Step")]
pub struct StepShape {
    /// What it is for.
    pub what: String,
    /// The command, ready for a shell; null when there is none.
    pub run: Option<String>,
    /// What follows when it went well.
    pub expect: Option<String>,
}

/// Something mounted that gets no entry.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Skipped"))]
#[serde(remote = "Skipped")]
pub struct SkippedShape {
    /// Where it is mounted; the path of swap.
    pub target: String,
    /// Its type.
    #[serde(rename = "type")]
    pub fstype: String,
    /// Why it gets none.
    pub why: String,
}

shapes! {
    Fresh => FreshShape,
    MendedLine => MendedLineShape,
    LaidChange => LaidChangeShape,
    LaidState => LaidStateShape,
    Made => MadeShape,
    Conflict => ConflictShape,
    Step => StepShape,
    Skipped => SkippedShape,
}
