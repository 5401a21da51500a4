//! Swap: what swapon takes, what is there now and after a reboot, what would
//! be sensible, and the header of an area.

mod activation;
mod file_system;
mod header;
mod priority;

pub use activation::{Activation, Area, Fate, Place, Warning, activate};
pub use file_system::file_system;
pub use header::{PAGE_SIZES, header};
pub use priority::{Priority, switch_discard, switch_priority, written_priority};
