//! The built program, driven on files in a temporary folder.

#![allow(clippy::unwrap_used, missing_docs)]

mod audit;
mod demo;
mod devices;
mod errors;
mod forecast;
mod harness;
mod resolve;
mod schemas;
mod survey;
