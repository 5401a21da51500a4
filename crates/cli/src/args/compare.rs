use super::{Format, ToArgs, WithArgs, examples};
use clap::Args;

/// Compare two hosts or times, or a table with what runs
///
/// With --group: the hosts of each role with each other.
///
/// Entries are compared by what they ask for, not by spelling. Between two
/// hosts, UUIDs and disk names are ignored.
#[derive(Args, Debug)]
#[command(after_help = examples::COMPARE)]
pub struct CompareArgs {
    /// Two hosts, the earlier or usual one first; one host: its table against
    /// what runs on it; with --group any number.
    #[arg(value_name = "HOST", required = true)]
    pub hosts: Vec<String>,
    /// For each role: what most hosts have in common, and the hosts that
    /// depart from it, the most harmful first.
    #[arg(long, help_heading = "Comparison")]
    pub group: bool,
    /// Treat both as the same host although their names differ.
    #[arg(long, conflicts_with_all = ["group", "as_kind"], help_heading = "Comparison", hide_short_help = true)]
    pub as_same: bool,
    /// Treat both as two hosts of a kind although their names are the same.
    #[arg(long, conflicts_with = "group", help_heading = "Comparison", hide_short_help = true)]
    pub as_kind: bool,
    #[command(flatten)]
    pub with: WithArgs,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}
