//! What is printed: each view is a function from results to text.

pub mod adopt;
pub mod audit;
pub mod compare;
pub mod config;
pub mod devices;
pub mod draft;
pub mod edit;
pub mod explain;
pub mod fleet_page;
pub mod forecast;
mod found;
pub mod graph;
pub mod guest;
pub mod hindsight;
pub mod host_page;
pub mod install;
mod kernel;
pub mod layout;
pub mod machine;
mod marked;
pub mod mend;
pub mod mend_many;
pub mod options;
pub mod rehearse;
pub mod resolve;
pub mod roff;
pub mod stack;
pub mod stack_dot;
pub mod steps;
pub mod survey;
pub mod swap;
pub mod trend;

use crate::outcome::CommandError;
use crate::ui::{Ui, labelled};
use bradawl_documents::WrittenFile;
use bradawl_facts::secrets;
use bradawl_facts::text::visible;
use serde::Serialize;
use serde_json::Value;
use std::io;

/// Where what was there before a write is kept, and why it cannot be taken
/// back, if it cannot.
fn kept(written: &WrittenFile, width: usize) -> String {
    let before =
        Some(&written.backup).filter(|b| !b.is_empty()).map(|b| labelled("before", &visible(b), width));
    let lost = written.unrecorded.as_ref().map(|why| labelled("no undo", &visible(why), width));
    before.into_iter().chain(lost).collect()
}

/// Prints one JSON document.
pub fn json(ui: &Ui, document: &impl Serialize) -> Result<(), CommandError> {
    Ok(ui.put(&(json_text(document)? + "\n"))?)
}

/// The document as one line of JSON, secrets masked.
pub fn json_line(document: &impl Serialize) -> Result<String, CommandError> {
    let text = serde_json::to_string(document).map_err(io::Error::from)?;
    let text = match secrets::found(&text) {
        true => serde_json::to_string(&masked(document)?).map_err(io::Error::from)?,
        false => text,
    };
    Ok(text + "\n")
}

/// The document as indented JSON, secrets masked.
pub fn json_text(document: &impl Serialize) -> Result<String, CommandError> {
    let text = json_whole(document);
    match secrets::found(&text) {
        true => Ok(json_whole(&masked(document)?)),
        false => Ok(text),
    }
}

/// The document as indented JSON, whatever it holds: for records.
pub fn json_whole(document: &impl Serialize) -> String {
    // Our documents have string keys only, so this cannot fail.
    serde_json::to_string_pretty(document).unwrap_or_default()
}

/// The document with secrets masked in every text of it.
fn masked(document: &impl Serialize) -> Result<Value, CommandError> {
    let mut value = serde_json::to_value(document).map_err(io::Error::from)?;
    let mut open = vec![&mut value];
    while let Some(value) = open.pop() {
        match value {
            Value::String(text) => *text = secrets::masked(text).into_owned(),
            Value::Array(items) => open.extend(items),
            Value::Object(fields) => open.extend(fields.values_mut()),
            _ => {}
        }
    }
    Ok(value)
}
