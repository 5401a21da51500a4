//! What is printed: each view is a function from results to text.

pub mod adopt;
pub mod audit;
pub mod compare;
pub mod devices;
pub mod draft;
pub mod explain;
pub mod fleet_page;
pub mod forecast;
mod kernel;
pub mod machine;
mod marked;
pub mod mend;
pub mod options;
pub mod rehearse;
pub mod resolve;
mod steps;
pub mod survey;
pub mod swap;

use crate::outcome::CommandError;
use serde::Serialize;
use std::io::{self, Write as _};

/// Prints one JSON document.
pub fn json(document: &impl Serialize) -> Result<(), CommandError> {
    let mut out = io::stdout().lock();
    writeln!(out, "{}", json_text(document))?;
    Ok(out.flush()?)
}

/// The document as one line of JSON.
pub fn json_line(document: &impl Serialize) -> Result<String, CommandError> {
    Ok(serde_json::to_string(document).map_err(io::Error::from)? + "\n")
}

/// The document as indented JSON.
pub fn json_text(document: &impl Serialize) -> String {
    // Our documents have string keys only, so this cannot fail.
    serde_json::to_string_pretty(document).unwrap_or_default()
}
