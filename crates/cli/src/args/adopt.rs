use super::{Format, WithArgs};
use bradawl_change::edit::By;
use clap::Args;

/// Write the table for what is mounted now, or under a directory where a system
/// is being installed.
///
/// The table goes to standard output, what was left out and why to standard
/// error; nothing is written to a file unless --write is given.
#[derive(Args, Debug)]
pub struct AdoptArgs {
    /// A record; default: this host; `-`: a record from standard input.
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Adopt what is mounted under this directory, as the root of a new system.
    #[arg(long, value_name = "DIR")]
    pub tree: Option<String>,
    /// The sort of name to give devices: uuid, label, partuuid, partlabel, id,
    /// path; another where one has none.
    #[arg(long, value_name = "SORT")]
    pub by: Option<By>,
    /// Keep the table that is there, and add only what it lacks.
    #[arg(long)]
    pub merge: bool,
    /// The table to add to and to write, in place of the host's own.
    #[arg(long, value_name = "FILE")]
    pub table: Option<String>,
    /// Write the table: the host's own, that under --tree, or the one given.
    #[arg(long)]
    pub write: bool,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}
