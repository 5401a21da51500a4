use super::{PolicyArgs, ToArgs, WithArgs, examples};
use clap::Args;
use std::path::PathBuf;

/// Edit a table in your editor; it is judged before it is written
///
/// $VISUAL or $EDITOR opens a private copy. On closing, findings and the boot
/// with the new text are shown; then write it, edit again, take the repairs that
/// are offered, or leave. A table that stops the boot is not written by accident.
#[derive(Args, Debug)]
#[command(after_help = examples::EDIT)]
pub struct EditArgs {
    /// The table, or a root directory whose table is edited [default:
    /// /etc/fstab].
    #[arg(value_name = "TABLE")]
    pub table: Option<PathBuf>,
    /// Judge it by this record, root directory, or disk image [default: this
    /// host].
    #[arg(long, value_name = "HOST", help_heading = "Input")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    #[command(flatten)]
    pub policy: PolicyArgs,
    /// Read the answers from standard input, one a line, without a terminal.
    #[arg(long, help_heading = "Input", hide_short_help = true)]
    pub answers: bool,
    #[command(flatten)]
    pub out: ToArgs,
}
