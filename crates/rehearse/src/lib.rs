//! Tries entries of a table on this host: each in a process of its own, in a
//! mount namespace of its own, which the kernel takes down when the process
//! ends, however it ends.

#![forbid(unsafe_code)]

mod child;
mod kernel;
mod limit;
mod state;

pub use child::answer;
pub use limit::rehearse;
pub use state::HostState;

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
        /// Where it was mounted, when not on its target: that is missing.
        beside: bool,
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
    /// The rehearsal itself failed.
    Failed {
        /// Why.
        why: String,
    },
}
