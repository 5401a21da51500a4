use crate::shapes::{OverviewShape, SwapPlanShape};
use bradawl_change::swap_plan::SwapPlan;
use bradawl_judgement::swap_overview::Overview;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.swap/1`: all swap of a host, and a plan for more.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SwapReport {
    /// Always `bradawl.swap/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table's path.
    pub table: String,
    /// The areas and their sums.
    #[serde(flatten)]
    #[serde_as(as = "OverviewShape")]
    pub overview: Overview,
    /// How readily the kernel swaps (vm.swappiness); null: not known.
    pub swappiness: Option<u32>,
    /// Whether pages are compressed on their way to swap (zswap); null: not
    /// known.
    pub zswap: Option<bool>,
    /// The plan, when one was asked for.
    #[serde_as(as = "Option<SwapPlanShape>")]
    pub plan: Option<SwapPlan>,
}
