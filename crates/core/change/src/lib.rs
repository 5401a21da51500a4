//! Changes to tables: edits of their text, repairs, drafts of new entries,
//! plans for swap, and boots that are only thought.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

pub mod adopt;
pub mod advice;
pub mod aftermath;
pub mod draft;
pub mod edit;
pub mod forms;
mod image;
pub mod layout;
pub mod mend;
mod mended_line;
pub mod rehearsal;
pub mod steps;
pub mod swap_plan;
pub mod what_if;

pub use mended_line::{MendedLine, mended_lines};
