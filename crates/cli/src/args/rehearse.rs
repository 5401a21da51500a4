use super::Format;
use clap::Args;

/// Have this host's kernel take each entry, as the boot would, and let go of
/// it again. Needs root.
///
/// It happens in a mount namespace of its own: nobody else sees the mounts,
/// and they end with it. Devices are mounted read-only and without replaying
/// their journals; what is in use is only asked about.
#[derive(Args, Debug)]
pub struct RehearseArgs {
    /// Try this table in place of the host's own (`-`: standard input).
    #[arg(long, value_name = "FILE")]
    pub table: Option<String>,
    /// Only the entry on this line; repeatable.
    #[arg(long, value_name = "LINE")]
    pub line: Vec<usize>,
    /// Mount devices as the entry says, so that journals are replayed; only
    /// those that are not in use.
    #[arg(long)]
    pub exact: bool,
    /// Try network file systems too.
    #[arg(long)]
    pub network: bool,
    /// Try entries too that name a program which mounting them would run, as
    /// root (the fuse types, helper=, ssh_command=). Only for a table that you
    /// trust.
    #[arg(long)]
    pub run_programs: bool,
    /// Seconds that an entry may take.
    #[arg(long, default_value_t = 20, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..=3600))]
    pub limit: u64,
    /// Seconds that all of it may take.
    #[arg(long, default_value_t = 300, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..=86400))]
    pub limit_all: u64,
    /// The process that tries one entry; not for people.
    #[arg(long, hide = true)]
    pub one: bool,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}
