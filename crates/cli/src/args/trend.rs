use super::{PolicyArgs, ToArgs, TrendFormat, WithArgs, examples};
use clap::Args;

/// Show what changed over many surveys of the same hosts
///
/// Which host got worse when, how long findings have stood, which hosts go back
/// and forth. A survey is a directory of records, or a file with a record a line
/// (.jsonl, .jsonl.zst); one directory that holds several of them stands for all
/// of them, in the order of their names.
#[derive(Args, Debug)]
#[command(after_help = examples::TREND)]
pub struct TrendArgs {
    /// Surveys, oldest first; or the directory that holds them.
    #[arg(value_name = "SURVEY", required = true)]
    pub surveys: Vec<String>,
    #[command(flatten)]
    pub with: WithArgs,
    #[command(flatten)]
    pub policy: PolicyArgs,
    /// text, json or prometheus.
    #[arg(long, value_enum, default_value_t = TrendFormat::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: TrendFormat,
    #[command(flatten)]
    pub out: ToArgs,
}
