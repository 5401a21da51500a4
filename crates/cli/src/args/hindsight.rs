use super::{HindsightFormat, ToArgs, WithArgs, examples};
use clap::Args;
use std::path::PathBuf;

/// Show what the last boot really did, beside what was forecast
///
/// When each entry was mounted, what its device was waited for, what failed, and
/// whether the forecast had said so. From the init system's journal; without one,
/// what is mounted now tells.
#[derive(Args, Debug)]
#[command(after_help = examples::HINDSIGHT)]
pub struct HindsightArgs {
    /// Record, directory of records, or `-` [default: this host].
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Forecast from this record, taken before the boot.
    #[arg(long, value_name = "RECORD", help_heading = "Input")]
    pub before: Option<String>,
    /// This boot: 0 is the one that is running, -1 the one before.
    #[arg(
        long,
        value_name = "N",
        default_value_t = 0,
        allow_negative_numbers = true,
        value_parser = clap::value_parser!(i32).range(-1000..=0),
        help_heading = "Input"
    )]
    pub boot: i32,
    /// List the boots that the journal keeps, a line each.
    #[arg(long, conflicts_with = "boot", help_heading = "Output")]
    pub list: bool,
    /// Write what differs from the forecast to this file, to report it.
    #[arg(long, value_name = "FILE", help_heading = "Output", hide_short_help = true)]
    pub case: Option<PathBuf>,
    /// text, json; of many hosts csv, prometheus or html too.
    #[arg(long, value_enum, default_value_t = HindsightFormat::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: HindsightFormat,
    #[command(flatten)]
    pub out: ToArgs,
}
