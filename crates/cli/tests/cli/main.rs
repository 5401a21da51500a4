//! The built program, driven on files in a temporary directory.

#![allow(clippy::unwrap_used, missing_docs)]

mod adopt;
mod audit;
#[cfg(feature = "parquet")]
mod columns;
mod completions;
mod demo;
mod devices;
mod docs;
mod draft;
mod edit;
mod errors;
mod everyday;
mod fleet;
mod forecast;
mod guest;
mod harness;
mod hindsight;
mod host_page;
mod install;
mod layout;
mod lsp;
mod mend;
mod not_known;
mod options;
mod pages;
mod policy;
mod resolve;
mod rules;
#[path = "../../../core/judgement/tests/scene/mod.rs"]
mod scene;
mod schemas;
mod sentences;
mod shell;
mod survey;
mod swap;
mod trend;
mod trust;
