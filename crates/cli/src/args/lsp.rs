use super::{WithArgs, examples};
use clap::Args;

/// Serve editors over standard input and output (the Language Server Protocol)
///
/// Tables are judged while they are typed, by this host's facts or those of a
/// record: findings, what a word is, names and options to complete, repairs.
#[derive(Args, Debug)]
#[command(after_help = examples::LSP)]
pub struct LspArgs {
    /// Judge by this record, root directory, or disk image [default: this host].
    #[arg(long, value_name = "HOST", help_heading = "Input")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
}
