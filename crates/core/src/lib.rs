//! Facts, judgement and forecast for fstab and swap configuration.
//!
//! Data flows one way: a [`record::Record`] holds every fact about one host;
//! [`judge`](judgement::judge) turns it and a [`table::Table`] into findings
//! and a forecast. Nothing here prints, reads a file, asks the clock or the
//! environment, or ends the process; a lint keeps it so.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

pub mod adopt;
pub mod advice;
pub mod aftermath;
pub mod baseline;
pub mod boot;
pub mod compare;
pub mod draft;
pub mod edit;
pub mod fleet;
pub mod fstypes;
pub mod judgement;
mod map;
pub mod mend;
pub mod options;
pub mod partition_types;
pub mod path;
pub mod policy;
pub mod probe;
pub mod record;
pub mod rehearsal;
pub mod report;
pub mod resolve;
pub mod rules;
pub mod secrets;
pub mod size;
pub mod status;
pub mod steps;
pub mod swap;
pub mod table;
pub mod text;
pub mod timespan;

pub mod what_if;
