use super::{Format, WithArgs, examples};
use clap::Args;
use std::path::PathBuf;

/// Read a host's facts into a record, or many hosts' over ssh
///
/// Reads only, on every host; nothing is installed. An ordinary user's record
/// lists what could not be read.
#[derive(Args, Debug)]
#[command(after_help = examples::SURVEY)]
pub struct SurveyArgs {
    /// Disk image, root directory or tar [default: this host].
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Record this table in place of the host's own, with the facts about its
    /// targets (`-`: standard input).
    #[arg(long, value_name = "FILE", help_heading = "Input", hide_short_help = true)]
    pub table: Option<String>,
    /// File for the record, readable by its owner only; with --hosts the
    /// directory for the records and index.json.
    #[arg(short, long, value_name = "FILE", help_heading = "Output")]
    pub output: Option<PathBuf>,
    /// Boots before the one that is running whose jobs are kept too, as far as the
    /// journal has them.
    #[arg(long, value_name = "N", default_value_t = 0, value_parser = clap::value_parser!(u32).range(0..=20), help_heading = "Input", hide_short_help = true)]
    pub boots: u32,
    /// Mask passwords in options and on the kernel's command line.
    #[arg(long, help_heading = "Output", hide_short_help = true)]
    pub redact: bool,
    /// Look at paths that may not answer: what a survey starts.
    #[arg(long, hide = true)]
    pub look: bool,
    /// Run the generator of another root: what --ask-generator starts.
    #[arg(long, hide = true)]
    pub generate: bool,
    #[command(flatten)]
    pub many: ManyArgs,
    /// text or json, on standard output.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output", hide_short_help = true)]
    pub format: Format,
}

/// Surveys of many hosts.
#[derive(Args, Debug)]
#[command(next_help_heading = "Many hosts")]
pub struct ManyArgs {
    /// Survey these hosts over ssh: a list, one a line, or TOML with roles
    /// [default: the setting hosts].
    #[arg(long, value_name = "FILE", num_args = 0..=1, default_missing_value = "", requires = "output", conflicts_with_all = ["host", "table", "from_collected"])]
    pub hosts: Option<PathBuf>,
    /// Hosts surveyed at the same time.
    #[arg(long, value_name = "N", default_value_t = 16, value_parser = clap::value_parser!(u16).range(1..=512), hide_short_help = true)]
    pub jobs: u16,
    /// Time limit for each host.
    #[arg(long, value_name = "SECONDS", default_value_t = 60, value_parser = clap::value_parser!(u32).range(1..=3600), hide_short_help = true)]
    pub limit: u32,
    /// Time limit for each connection.
    #[arg(long, value_name = "SECONDS", default_value_t = 10, value_parser = clap::value_parser!(u32).range(1..=600), hide_short_help = true)]
    pub connect_limit: u32,
    /// Further attempts with a host that does not answer.
    #[arg(long, value_name = "N", default_value_t = 1, value_parser = clap::value_parser!(u8).range(0..=10), hide_short_help = true)]
    pub retries: u8,
    /// Survey hosts again whose records are in the directory already.
    #[arg(long, hide_short_help = true)]
    pub again: bool,
    /// The ssh client.
    #[arg(long, value_name = "PROGRAM", default_value = "ssh", hide_short_help = true)]
    pub ssh: PathBuf,
    /// Configuration of the ssh client, in place of the user's own.
    #[arg(long, value_name = "FILE", hide_short_help = true)]
    pub ssh_config: Option<PathBuf>,
    /// Print the script that collects raw facts on a host.
    ///
    /// For a system of yours that runs things on hosts; the script needs a
    /// POSIX shell and everyday utilities.
    #[arg(long, conflicts_with_all = ["host", "hosts", "output", "table", "from_collected"])]
    pub collector: bool,
    /// Make records from the script's outputs: a directory with one file for
    /// each host, named after it.
    #[arg(long, value_name = "DIRECTORY", requires = "output", conflicts_with_all = ["host", "table"], hide_short_help = true)]
    pub from_collected: Option<PathBuf>,
    /// Pack records into one file (.jsonl.zst), to keep: a directory of them, or
    /// a file with one a line.
    #[arg(long, value_name = "RECORDS", requires = "output", conflicts_with_all = ["host", "table", "hosts", "from_collected", "collector"], hide_short_help = true)]
    pub pack: Option<String>,
}
