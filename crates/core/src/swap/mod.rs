//! Swap: what swapon takes, what is there now and after a reboot, what would
//! be sensible, and the header of an area.

mod activation;
mod header;
mod overview;
mod plan;
mod priority;

pub use activation::{Activation, Area, Fate, Place, Warning, activate};
pub use header::{PAGE_SIZES, header};
pub use overview::{AreaKind, AreaNow, Hibernation, Overview, Totals, overview};
pub(crate) use overview::{activation_of, file_system};
pub use plan::{PlanError, SwapPlan, Wanted, Wishes, plan};
pub use priority::{Priority, switch_discard, switch_priority, written_priority};
