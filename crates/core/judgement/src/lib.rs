//! What is wrong with a table: [`judge`] turns a host's facts and a table
//! into findings and a forecast.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

pub mod baseline;
pub mod compare;
mod elsewhere;
mod guard;
pub mod hindsight;
mod judge;
mod meant;
pub mod policy;
pub mod rules;
pub mod status;
pub mod swap_overview;

pub use elsewhere::{Elsewhere, LostName, Owners, numbers};
pub use judge::{Against, Judgement, NotSearched, judge, judge_against};
