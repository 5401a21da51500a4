use crate::shapes::{OutcomeShape, StepShape};
use bradawl_boot::Outcome;
use bradawl_change::steps::Step;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.roll-out/1`: a new table for one host, ready to be brought there.
#[serde_as]
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct RollOut {
    /// Always `bradawl.roll-out/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table's path on the host. What it has to hold there stands in the file
    /// `fstab.before` beside this document, what it is to hold in `fstab`.
    pub table: String,
    /// What has to be done on the host before.
    #[serde_as(as = "Vec<StepShape>")]
    pub steps: Vec<Step>,
    /// What may be done on the host at once after; else the next boot does it.
    #[serde_as(as = "Vec<StepShape>")]
    pub after: Vec<Step>,
    /// How its boot ends with the table as it is.
    #[serde_as(as = "OutcomeShape")]
    pub outcome_before: Outcome,
    /// How its boot ends with the new one.
    #[serde_as(as = "OutcomeShape")]
    pub outcome_after: Outcome,
    /// The boot in one sentence, with the new one.
    pub verdict_after: String,
}

impl RollOut {
    /// The schema's name.
    pub const SCHEMA: &'static str = "bradawl.roll-out/1";
}
