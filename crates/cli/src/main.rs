//! The `bradawl` command.

mod args;
mod believed;
#[cfg(feature = "parquet")]
mod columns;
mod commands;
mod demo;
mod fleet;
mod fleet_missing;
mod input;
mod install;
mod kernel;
mod lsp;
mod outcome;
mod output;
mod pager;
mod policy;
mod rehearsed;
mod settings;
mod store;
mod swap_file;
mod ui;
mod version;
mod views;
mod written;

use std::process::ExitCode;

fn main() -> ExitCode {
    match commands::run(&args::parse()) {
        Ok(status) => ExitCode::from(status.code()),
        Err(e) => {
            ui::complain(&e);
            ExitCode::from(2)
        }
    }
}
