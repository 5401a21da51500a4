//! One file for each command.

mod adopt;
mod audit;
mod collected;
mod compare;
mod demo;
mod devices;
mod draft;
mod explain;
mod forecast;
mod mend;
mod options;
mod rehearse;
mod resolve;
mod survey;
mod survey_many;
mod swap;

use crate::args::{Cli, Command};
use crate::outcome::{CommandError, Status};
use crate::ui::Ui;

/// Runs the command that was asked for.
pub fn run(cli: Cli) -> Result<Status, CommandError> {
    let ui = Ui::new(cli.color);
    match cli.command {
        Command::Audit(args) => audit::run(&ui, &args),
        Command::Compare(args) => compare::run(&ui, &args),
        Command::Explain(args) => explain::run(&ui, &args),
        Command::Options(args) => options::run(&ui, &args),
        Command::Draft(args) => draft::run(&ui, &args),
        Command::Adopt(args) => adopt::run(&ui, &args),
        Command::Rehearse(args) => rehearse::run(&ui, &args),
        Command::Swap(args) => swap::run(&ui, &args),
        Command::Mend(args) => mend::run(&ui, &args),
        Command::Forecast(args) => forecast::run(&ui, &args),
        Command::Devices(args) => devices::run(&ui, &args),
        Command::Resolve(args) => resolve::run(&ui, &args),
        Command::Survey(args) => survey::run(&ui, &args),
        Command::Demo => demo::run(&ui),
    }
}
