//! Tries entries of a table on this host, one after another, in a mount
//! namespace of their own that the kernel takes down when the process that owns
//! it ends, however it ends. Each is tried by a process with a time limit, and
//! sees what those before it have mounted.

#![forbid(unsafe_code)]

mod asked;
mod child;
mod furnish;
pub mod guest;
mod kernel;
mod limit;
mod rehearsal;
mod stage;
mod state;

pub use asked::Setting;
pub use child::answer;
pub use rehearsal::{NoRehearsal, Rehearsal};
pub use stage::serve;
pub use state::HostState;

pub(crate) use asked::{Asked, Begun};

use serde::{Deserialize, Serialize};

/// What came of trying an entry.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "kebab-case", tag = "end")]
pub enum End {
    /// The kernel took it.
    Works {
        /// Options in force, as the kernel lists them; empty when its options
        /// were only offered.
        options: String,
    },
    /// The kernel refused it.
    Refused {
        /// At which step, in words.
        at: String,
        /// In the kernel's words.
        why: String,
    },
    /// It did not end within its time.
    TooLong,
    /// It cannot be tried here, which says nothing of it.
    Untried {
        /// Why.
        why: String,
    },
    /// The rehearsal itself failed.
    Failed {
        /// Why.
        why: String,
    },
}
