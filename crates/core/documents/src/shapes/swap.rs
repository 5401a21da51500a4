//! Swap as it is, and as it is planned.

use super::change::FreshShape;
use super::change::StepShape;
use bradawl_boot::swap::{Fate, Priority};
use bradawl_change::edit::Fresh;
use bradawl_change::steps::Step;
use bradawl_change::swap_plan::SwapPlan;
use bradawl_judgement::swap_overview::{AreaKind, AreaNow, Hibernation, Overview, SwapTotals};
use serde::Serialize;
use serde_with::serde_as;

/// When an area is used: the highest first, equal ones in turn.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Priority"))]
#[serde(remote = "Priority", rename_all = "lowercase")]
pub enum PriorityShape {
    /// Below all that have one, in the order of activation.
    Automatic,
    /// As given.
    Given(i32),
}

/// Whether an area is taken.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Fate"))]
#[serde(remote = "Fate", rename_all = "lowercase", tag = "fate", content = "why")]
pub enum FateShape {
    /// It is.
    Taken,
    /// It is not; why.
    Refused(String),
    /// The facts do not tell; what is missing.
    Unknown(String),
}

/// All swap of a host.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Overview"))]
#[serde(remote = "Overview")]
pub struct OverviewShape {
    /// Main memory, in bytes.
    pub memory: Option<u64>,
    /// The areas: those in use first, by priority.
    #[serde_as(as = "Vec<AreaNowShape>")]
    pub areas: Vec<AreaNow>,
    /// Sums over them.
    #[serde_as(as = "SwapTotalsShape")]
    pub totals: SwapTotals,
    /// The order of use after a reboot, in words.
    pub order: String,
    /// Whether the host can be put to sleep on disk.
    #[serde_as(as = "HibernationShape")]
    pub hibernation: Hibernation,
}

/// One area.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "AreaNow"))]
#[serde(remote = "AreaNow")]
pub struct AreaNowShape {
    /// The device or file, as the kernel names it; the source of the entry
    /// when it is not there.
    pub path: String,
    /// What it is: disk, file, compressed memory.
    #[serde_as(as = "AreaKindShape")]
    pub kind: AreaKind,
    /// Bytes that can be swapped to; null: not known.
    pub size: Option<u64>,
    /// Bytes in use; null: it is not active.
    pub used: Option<u64>,
    /// Its priority now; null: it is not active.
    pub priority_now: Option<i32>,
    /// Line of its entry; null: the table has none.
    pub line: Option<usize>,
    /// The priority that the entry gives; null: the table has none.
    #[serde_as(as = "Option<PriorityShape>")]
    pub priority: Option<Priority>,
    /// Whether it will be active after a reboot; null: not known.
    pub after_reboot: Option<bool>,
    /// What is wrong with it, in words.
    pub faults: Vec<String>,
}

/// What an area lies in.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "AreaKind"))]
#[serde(remote = "AreaKind", rename_all = "lowercase")]
pub enum AreaKindShape {
    /// A device.
    Device,
    /// A file.
    File,
    /// Compressed memory (zram).
    Zram,
}

/// Sums, in bytes.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "SwapTotals"))]
#[serde(remote = "SwapTotals")]
pub struct SwapTotalsShape {
    /// Active now.
    pub now: u64,
    /// In use now.
    pub used: u64,
    /// Active once the table is applied to the running host (`swapon -a`).
    pub applied: u64,
    /// Active after a reboot, as far as sizes are known.
    pub after_reboot: u64,
}

/// Whether and where the memory could be written to be resumed from.
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "Hibernation"))]
#[serde(remote = "Hibernation")]
pub struct HibernationShape {
    /// What the boot is told to resume from; null: nothing.
    pub resume: Option<String>,
    /// Whether that is an area that will be there; null: nothing to resume from.
    pub resume_found: Option<bool>,
    /// Bytes of the largest area on a disk after a reboot.
    pub largest: u64,
    /// Whether a hibernation image fits there; null: not known.
    pub fits: Option<bool>,
}

/// A plan for more swap.
#[serde_as]
#[derive(Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema), schemars(rename = "SwapPlan"))]
#[serde(remote = "SwapPlan")]
pub struct SwapPlanShape {
    /// How much there is to be, in bytes.
    pub wanted: u64,
    /// Why so much.
    pub why: Vec<String>,
    /// What is active now and stays, in bytes.
    pub before: u64,
    /// Size of the new area, in bytes; 0: none is needed.
    pub new: u64,
    /// What there will be, in bytes.
    pub after: u64,
    /// Where the new area goes.
    pub place: Option<String>,
    /// Its entry.
    #[serde_as(as = "Option<FreshShape>")]
    pub entry: Option<Fresh>,
    /// The steps in order.
    #[serde_as(as = "Vec<StepShape>")]
    pub steps: Vec<Step>,
}

shapes! {
    Priority => PriorityShape,
    Fate => FateShape,
    Overview => OverviewShape,
    AreaNow => AreaNowShape,
    AreaKind => AreaKindShape,
    SwapTotals => SwapTotalsShape,
    Hibernation => HibernationShape,
    SwapPlan => SwapPlanShape,
}
