//! Entries that are drafted, and advice.

use super::change::FreshShape;
use super::change::StepShape;
use super::forecast::OutcomeShape;
use bradawl_boot::{BootVerdict, Outcome};
use bradawl_change::advice::{Advice, RepairStep};
use bradawl_change::draft::{Choice, Draft, DraftPurpose, Recommended};
use bradawl_change::edit::Fresh;
use bradawl_change::steps::Step;
use serde::Serialize;
use serde_with::{DisplayFromStr, serde_as};

/// What to change, and what the boot does then.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Advice"))]
#[serde(remote = "Advice")]
pub struct AdviceShape {
    /// The changes, in the order they were found.
    #[serde_as(as = "Vec<RepairStepShape>")]
    pub steps: Vec<RepairStep>,
    /// How the boot ends with all of them.
    #[serde_as(as = "OutcomeShape")]
    pub outcome: Outcome,
    /// Seconds that it still waits; null: without end.
    pub stall_s: Option<f64>,
    /// The boot in one sentence.
    #[serde_as(as = "DisplayFromStr")]
    pub verdict: BootVerdict,
}

/// One change to one line.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "RepairStep"))]
#[serde(remote = "RepairStep")]
pub struct RepairStepShape {
    /// The line, from 1.
    pub line: usize,
    /// What is done, in a few words.
    pub what: String,
    /// The line as it is.
    pub before: String,
    /// The line as it becomes.
    pub after: String,
    /// Whether nothing has to be asked first: what the line asks for is there
    /// afterwards, or was lost anyway.
    pub safe: bool,
}

/// What the file system is for.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "DraftPurpose"))]
#[serde(remote = "DraftPurpose", rename_all = "lowercase")]
pub enum DraftPurposeShape {
    /// Data that the host works with.
    Data,
    /// A medium that is plugged in and taken out.
    Removable,
    /// Copies, written now and then.
    Backup,
    /// What may be lost.
    Scratch,
    /// What the machine starts from.
    Boot,
    /// Data of several users.
    Shared,
}

/// A choice and its reason.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Choice"))]
#[serde(remote = "Choice")]
pub struct ChoiceShape {
    /// What was chosen: a field's text or an option.
    pub what: String,
    /// Why.
    pub why: String,
}

/// A drafted entry.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Draft"))]
#[serde(remote = "Draft")]
pub struct DraftShape {
    /// The entry.
    #[serde_as(as = "FreshShape")]
    pub entry: Fresh,
    /// The device, as the kernel names it now.
    pub device: Option<String>,
    /// Whether the device is empty, and the file system has to be made first.
    pub to_make: bool,
    /// Whether the steps move what the target holds now to it.
    pub moves: bool,
    /// What it is for.
    #[serde_as(as = "Option<DraftPurposeShape>")]
    pub purpose: Option<DraftPurpose>,
    /// Each choice with its reason.
    #[serde_as(as = "Vec<ChoiceShape>")]
    pub choices: Vec<Choice>,
    /// What its options mean in effect.
    pub effective: Vec<String>,
    /// What to do before the entry counts.
    #[serde_as(as = "Vec<StepShape>")]
    pub before: Vec<Step>,
    /// What to do once it stands in the table.
    #[serde_as(as = "Vec<StepShape>")]
    pub after: Vec<Step>,
}

/// A set of options for a use.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Recommended"))]
#[serde(remote = "Recommended")]
pub struct RecommendedShape {
    /// What for; several uses may have the same set.
    #[serde_as(as = "Vec<DraftPurposeShape>")]
    pub purposes: Vec<DraftPurpose>,
    /// The options as they stand in the table.
    pub options: String,
    /// Each of them with its reason.
    #[serde_as(as = "Vec<ChoiceShape>")]
    pub reasons: Vec<Choice>,
}

shapes! {
    Advice => AdviceShape,
    RepairStep => RepairStepShape,
    DraftPurpose => DraftPurposeShape,
    Choice => ChoiceShape,
    Draft => DraftShape,
    Recommended => RecommendedShape,
}
