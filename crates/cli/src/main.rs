//! The `bradawl` command.

mod args;
mod atomic;
mod commands;
mod demo;
mod fleet;
mod input;
mod kernel;
mod outcome;
mod policy;
mod store;
mod swap_file;
mod ui;
mod views;

use std::process::ExitCode;

fn main() -> ExitCode {
    outcome::conclude(commands::run(args::parse()))
}
