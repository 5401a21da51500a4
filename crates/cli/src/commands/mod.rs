//! One file for each command.

mod adopt;
mod audit;
mod collected;
mod compare;
pub mod completions;
mod config;
mod demo;
mod devices;
mod draft;
mod edit;
mod explain;
mod forecast;
mod guest;
mod hindsight;
mod install;
mod judged;
mod layout;
mod lsp;
pub mod manual;
mod mend;
mod mend_many;
mod options;
mod pack;
pub mod per_host;
mod rehearse;
mod resolve;
mod survey;
mod survey_many;
pub mod swap;
mod trend;

use crate::args::{Cli, Command};
use crate::outcome::{CommandError, Status};
use crate::settings::Settings;
use crate::ui::Ui;
use std::path::Path;

/// Runs the command that was asked for.
pub fn run(cli: &Cli) -> Result<Status, CommandError> {
    let settings = Settings::read();
    let ui = Ui::new(&cli.show, &settings, output(&cli.command));
    let ui = if asks(&cli.command) { ui.at_once() } else { ui };
    let status = command(&ui, &cli.command, &settings);
    // What was found before something failed is shown too; a file is whole or not at all.
    if status.is_ok() || output(&cli.command).is_none() {
        ui.finish()?;
    }
    status
}

fn command(ui: &Ui, command: &Command, settings: &Settings) -> Result<Status, CommandError> {
    match command {
        Command::Audit(args) => audit::run(ui, args, settings),
        Command::Compare(args) => compare::run(ui, args),
        Command::Explain(args) => explain::run(ui, args),
        Command::Options(args) => options::run(ui, args),
        Command::Draft(args) => draft::run(ui, args),
        Command::Adopt(args) => adopt::run(ui, args),
        Command::Rehearse(args) => rehearse::run(ui, args),
        Command::Swap(args) => swap::run(ui, args),
        Command::Mend(args) => mend::run(ui, args, settings),
        Command::Layout(args) => layout::run(ui, args, settings),
        Command::Edit(args) => edit::run(ui, args, settings),
        Command::Lsp(args) => lsp::run(args),
        Command::Trend(args) => trend::run(ui, args, settings),
        Command::Hindsight(args) => hindsight::run(ui, args),
        Command::Forecast(args) => forecast::run(ui, args),
        Command::Devices(args) => devices::run(ui, args),
        Command::Resolve(args) => resolve::run(ui, args),
        Command::Survey(args) => survey::run(ui, args, settings),
        Command::Config(args) => config::run(ui, args, settings),
        Command::Install(args) => install::install(ui, args),
        Command::Uninstall(args) => install::remove(ui, args),
        Command::Completions(args) => completions::run(ui, args),
        Command::Manual(args) => manual::run(ui, args),
        Command::Demo => demo::run(ui),
    }
}

/// The file that the result goes to. A survey writes its record itself: it is
/// private.
fn output(command: &Command) -> Option<&Path> {
    let out = match command {
        Command::Audit(args) => &args.out,
        Command::Compare(args) => &args.out,
        Command::Explain(args) => &args.out,
        Command::Options(args) => &args.out,
        Command::Draft(args) => &args.out,
        Command::Adopt(args) => &args.out,
        Command::Rehearse(args) => &args.out,
        Command::Swap(args) => &args.out,
        Command::Mend(args) => &args.out,
        Command::Layout(args) => &args.out,
        Command::Edit(args) => &args.out,
        Command::Trend(args) => &args.out,
        Command::Hindsight(args) => &args.out,
        Command::Forecast(args) => &args.out,
        Command::Devices(args) => &args.out,
        Command::Resolve(args) => &args.out,
        Command::Config(args) => &args.out,
        Command::Install(args) => &args.out,
        Command::Uninstall(args) => &args.out,
        Command::Completions(args) => &args.out,
        Command::Manual(args) => &args.out,
        Command::Survey(_) | Command::Lsp(_) | Command::Demo => return None,
    };
    out.output.as_deref()
}

/// Whether somebody is asked while it runs.
fn asks(command: &Command) -> bool {
    match command {
        Command::Mend(args) => args.choose,
        Command::Edit(_) => true,
        _ => false,
    }
}
