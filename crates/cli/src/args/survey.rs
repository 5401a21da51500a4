use super::{Format, WithArgs};
use clap::Args;
use std::path::PathBuf;

/// Gather the facts about a host, or about many over ssh, into records.
///
/// Reads only, here and there; nothing is installed. As an ordinary user it says what it was not allowed to see.
#[derive(Args, Debug)]
pub struct SurveyArgs {
    /// A disk image, or a directory that is a host's root; default: this host.
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Put this table into the record in place of the host's own, with the
    /// facts about the targets it names (`-`: standard input).
    #[arg(long, value_name = "FILE")]
    pub table: Option<String>,
    /// Write the record here, readable by its owner only; of many hosts the
    /// directory for their records and index.json.
    #[arg(short, long, value_name = "FILE")]
    pub output: Option<PathBuf>,
    /// Leave secrets out of the record: passwords in options and on the
    /// kernel's command line are masked.
    #[arg(long)]
    pub redact: bool,
    /// Look at paths that may not answer: what a survey starts.
    #[arg(long, hide = true)]
    pub look: bool,
    #[command(flatten)]
    pub many: ManyArgs,
    /// How to write what was found to standard output.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}

/// Surveys of many hosts.
#[derive(Args, Debug)]
pub struct ManyArgs {
    /// Survey these hosts over ssh: a list, one a line, or TOML with roles
    /// (docs/fleet.md).
    #[arg(long, value_name = "FILE", requires = "output", conflicts_with_all = ["host", "table", "from_collected"])]
    pub hosts: Option<PathBuf>,
    /// So many hosts at a time.
    #[arg(long, value_name = "N", default_value_t = 16, value_parser = clap::value_parser!(u16).range(1..=512))]
    pub jobs: u16,
    /// Give a host so many seconds in all.
    #[arg(long, value_name = "SECONDS", default_value_t = 60, value_parser = clap::value_parser!(u32).range(1..=3600))]
    pub limit: u32,
    /// Give a connection so many seconds to stand.
    #[arg(long, value_name = "SECONDS", default_value_t = 10, value_parser = clap::value_parser!(u32).range(1..=600))]
    pub connect_limit: u32,
    /// Try a host that does not answer so many times more.
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u8).range(0..=10))]
    pub retries: u8,
    /// Survey hosts anew whose records are in the directory already.
    #[arg(long)]
    pub again: bool,
    /// The ssh client.
    #[arg(long, value_name = "PROGRAM", default_value = "ssh")]
    pub ssh: PathBuf,
    /// Settings of the ssh client, in place of the user's own.
    #[arg(long, value_name = "FILE")]
    pub ssh_config: Option<PathBuf>,
    /// Print the script that collects raw facts, for a system of yours that
    /// runs things on hosts; it needs a POSIX shell and everyday utilities.
    #[arg(long, conflicts_with_all = ["host", "hosts", "output", "table", "from_collected"])]
    pub collector: bool,
    /// Make records of what the script wrote: a directory with an output for each
    /// host, named after it.
    #[arg(long, value_name = "DIRECTORY", requires = "output", conflicts_with_all = ["host", "table"])]
    pub from_collected: Option<PathBuf>,
}
