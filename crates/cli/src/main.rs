//! The `bradawl` command.

mod args;
mod commands;
mod demo;
mod fleet;
mod input;
mod kernel;
mod outcome;
mod output;
mod policy;
mod store;
mod swap_file;
mod ui;
mod views;
mod written;

use std::process::ExitCode;

fn main() -> ExitCode {
    outcome::conclude(commands::run(args::parse()))
}
