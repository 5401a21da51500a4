//! Many hosts surveyed at once: a list of hosts, the system's ssh client as
//! the way there, a bounded number of them side by side.

#![forbid(unsafe_code)]

mod budget;
mod hosts;
mod pool;
mod ssh;

pub use budget::Budget;
pub use hosts::{Become, Host, HostsError, parse_hosts};
pub use pool::{Ended, each_host};
pub use ssh::{Failure, Limits, Way, survey};
