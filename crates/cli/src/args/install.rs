use super::{Format, ToArgs, examples};
use bradawl_documents::Part;
use clap::builder::PossibleValue;
use clap::{Args, ValueEnum};
use std::path::PathBuf;

/// Put units, hooks, completions and manual pages in place
///
/// They are in the program. Every file is shown, none that is not its own is
/// replaced, no unit is enabled, and "bradawl uninstall" takes all of it away. The
/// hook of a package manager is in force as soon as it is there: it is put there
/// when asked for. A deb or rpm package brings all but the hook by itself.
#[derive(Args, Debug)]
#[command(after_help = examples::INSTALL)]
pub struct InstallArgs {
    /// Only these: units, hooks, completions, man; several with commas [default: all
    /// but hooks].
    #[arg(long, value_name = "PARTS", value_enum, value_delimiter = ',', hide_possible_values = true)]
    pub only: Vec<ChosenPart>,
    /// The program that units and hooks run [default: this one].
    #[arg(long, value_name = "PATH")]
    pub program: Option<PathBuf>,
    #[command(flatten)]
    pub where_to: RootArgs,
    #[command(flatten)]
    pub out: ToArgs,
}

/// Take away what install has put in place
///
/// Files that were changed since stay, and are told.
#[derive(Args, Debug)]
#[command(after_help = examples::UNINSTALL)]
pub struct UninstallArgs {
    #[command(flatten)]
    pub where_to: RootArgs,
    #[command(flatten)]
    pub out: ToArgs,
}

/// What both ask for.
#[derive(Args, Debug)]
pub struct RootArgs {
    /// Root directory of the host, an image being built for example.
    #[arg(long, value_name = "DIRECTORY", default_value = "/", hide_default_value = true)]
    pub root: PathBuf,
    /// Show what would be done, and do nothing.
    #[arg(long)]
    pub dry_run: bool,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: Format,
}

/// A part, as it is written on the command line.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct ChosenPart(pub Part);

impl ValueEnum for ChosenPart {
    fn value_variants<'a>() -> &'a [Self] {
        const ALL: [ChosenPart; 4] = [
            ChosenPart(Part::ALL[0]),
            ChosenPart(Part::ALL[1]),
            ChosenPart(Part::ALL[2]),
            ChosenPart(Part::ALL[3]),
        ];
        &ALL
    }

    fn to_possible_value(&self) -> Option<PossibleValue> {
        Some(PossibleValue::new(self.0.name()))
    }
}
