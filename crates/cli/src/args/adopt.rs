use super::{Format, ToArgs, WithArgs, examples};
use bradawl_change::edit::By;
use clap::Args;

/// Write the table for what is mounted now
///
/// With --tree: for what is mounted under a directory where a system is being
/// installed. The table goes to standard output, what was left out and why to
/// standard error; no file is written without --write.
#[derive(Args, Debug)]
#[command(after_help = examples::ADOPT)]
pub struct AdoptArgs {
    /// Record, or `-` [default: this host].
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Adopt what is mounted under DIR, the root of a new system.
    #[arg(long, value_name = "DIR", help_heading = "Input")]
    pub tree: Option<String>,
    /// Table to add to and to write [default: the host's own].
    #[arg(long, value_name = "FILE", help_heading = "Input")]
    pub table: Option<String>,
    /// How to name devices: uuid, label, partuuid, partlabel, id or path.
    ///
    /// A device without such a name gets another.
    #[arg(long, value_name = "SORT", help_heading = "Entry", hide_short_help = true)]
    pub by: Option<By>,
    /// Keep the existing table and add only what it lacks.
    #[arg(long, help_heading = "Entry")]
    pub merge: bool,
    /// Write the table: the host's own, that under --tree, or --table's.
    #[arg(long, help_heading = "Output")]
    pub write: bool,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}
