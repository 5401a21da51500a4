//! `-h` on a screen of 80 by 24: the options people ask for most, in one list.

use super::Cli;
use clap::{Command, CommandFactory as _};

/// The command line as `-h` shows it: without sections, which belong to `--help`.
pub fn command() -> Command {
    Cli::command().mut_subcommands(|sub| sub.mut_args(|arg| arg.help_heading(None)))
}

/// Whether the words ask for it.
pub fn asked(words: impl IntoIterator<Item = std::ffi::OsString>) -> bool {
    words.into_iter().skip(1).take_while(|w| w != "--").any(|w| w == "-h")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_short_help_of_every_command_fits_on_a_screen() {
        let mut command = command().term_width(80);
        command.build();
        for sub in command.get_subcommands_mut().filter(|c| c.get_name() != "help") {
            let help = sub.render_help().to_string();
            let lines = help.trim_end().lines().count();
            assert!(lines <= 24, "{}: {lines} lines\n{help}", sub.get_name());
            assert!(help.lines().all(|l| l.chars().count() <= 80), "{help}");
        }
    }
}
