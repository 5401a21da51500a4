use super::{Format, ToArgs, examples};
use clap::Args;

/// Mount each entry as the boot would, then unmount it
///
/// Needs root. It happens in a private namespace: nobody else sees the mounts,
/// and they end with the command.
/// Devices are mounted read-only and without replaying their journals; of what
/// is in use only the options are checked.
#[derive(Args, Debug)]
#[command(after_help = examples::REHEARSE)]
pub struct RehearseArgs {
    /// Try this table in place of the host's own (`-`: standard input).
    #[arg(long, value_name = "FILE", help_heading = "Input")]
    pub table: Option<String>,
    /// Only the entry on this line; repeatable.
    #[arg(long, value_name = "LINE", help_heading = "Input")]
    pub line: Vec<usize>,
    /// Mount devices exactly as the entry says, so that journals are replayed;
    /// only devices that are not in use.
    #[arg(long, help_heading = "Attempt")]
    pub exact: bool,
    /// Try network file systems too.
    #[arg(long, help_heading = "Attempt")]
    pub network: bool,
    /// Try entries that name a program, which then runs as root: only for a
    /// table that you trust.
    ///
    /// These are the fuse types, helper= and ssh_command=.
    #[arg(long, help_heading = "Attempt")]
    pub run_programs: bool,
    /// Time limit for each entry.
    #[arg(long, help_heading = "Attempt", default_value_t = 20, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..=3600))]
    pub limit: u64,
    /// Time limit for the whole rehearsal.
    #[arg(long, help_heading = "Attempt", default_value_t = 300, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..=86400))]
    pub limit_all: u64,
    /// The process that tries one entry; not for people.
    #[arg(long, hide = true)]
    pub one: bool,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}
