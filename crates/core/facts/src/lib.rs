//! What is known of a host, and the small words everyone needs: the
//! [`record`](record::Record) of its facts, its [`table`](table::Table), what
//! a device holds by its own bytes ([`probe`]). Nothing here judges.
//!
//! No layer of the core prints, reads a file, asks the clock or the
//! environment, or ends the process; a lint keeps it so.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

mod consequence;
pub mod map;
pub mod path;
pub mod probe;
pub mod record;
pub mod secrets;
pub mod size;
pub mod table;
#[cfg(any(test, feature = "testing"))]
pub mod testing;
pub mod text;
pub mod timespan;
mod version;

pub use consequence::Consequence;
pub use version::Version;
