use super::{FailOn, JudgeArgs, ToArgs, WithArgs, examples, parse_change};
use bradawl_change::what_if::Supposed;
use clap::{Args, ValueEnum};
use std::path::PathBuf;

/// Find what is wrong with a table, and what to write instead
///
/// Each finding names its line, what it does to the boot and the repair.
#[derive(Args, Debug)]
#[command(after_help = examples::AUDIT)]
pub struct AuditArgs {
    /// Record, directory of records, disk image, root directory or tar, or `-`
    /// [default: this host]; repeatable.
    ///
    /// Records may also stand one a line in *.jsonl, packed as *.jsonl.zst.
    #[arg(value_name = "HOST")]
    pub hosts: Vec<String>,
    #[command(flatten)]
    pub with: WithArgs,
    #[command(flatten)]
    pub judge: JudgeArgs,
    /// Earlier record of the same host: names that changed since are told from
    /// names that never existed.
    #[arg(long, value_name = "RECORD", help_heading = "Input", hide_short_help = true)]
    pub since: Option<String>,
    /// File of hosts that are expected to have a record: those that have none are
    /// listed.
    #[arg(long, value_name = "FILE", requires = "hosts", help_heading = "Input", hide_short_help = true)]
    pub expect: Option<PathBuf>,
    /// List the hosts whose record is older: 36h, 7d, 2w.
    #[arg(long, value_name = "TIME", requires = "hosts", value_parser = parse_age, help_heading = "Input", hide_short_help = true)]
    pub max_age: Option<f64>,
    /// Only findings of this rule; repeatable.
    #[arg(long, value_name = "RULE", help_heading = "Judgement")]
    pub only: Vec<String>,
    /// Offer each option to the running kernel too, and report where it and the
    /// catalogue differ.
    ///
    /// Mounts nothing; needs root, and this host.
    #[arg(long, conflicts_with = "hosts", help_heading = "Judgement", hide_short_help = true)]
    pub ask_kernel: bool,
    /// Mount the entries in the order of the boot too, in a private namespace, and
    /// report where that and the forecast differ.
    ///
    /// As "bradawl rehearse" does; needs root, and this host.
    #[arg(long, conflicts_with = "hosts", help_heading = "Judgement", hide_short_help = true)]
    pub rehearse: bool,
    /// Judge the host as if this were so; repeatable.
    ///
    /// "kernel 6.12", "init systemd-257", "mount-program 2.41", "initramfs dracut",
    /// "release debian-13", "without /dev/sdb", "server nas down", "nobody at the
    /// console"; several apply together. Changes of the table are for forecast.
    #[arg(long, value_name = "CHANGE", value_parser = parse_change, conflicts_with_all = ["ask_kernel", "rehearse", "write_baseline"], help_heading = "Judgement", hide_short_help = true)]
    pub what_if: Vec<(String, Supposed)>,
    /// Ignore the findings that this baseline has accepted.
    #[arg(long, value_name = "FILE", help_heading = "Judgement", hide_short_help = true)]
    pub baseline: Option<PathBuf>,
    /// Write a baseline that accepts all findings of today.
    #[arg(long, value_name = "FILE", help_heading = "Judgement", hide_short_help = true)]
    pub write_baseline: Option<PathBuf>,
    #[command(flatten)]
    pub policy: PolicyArgs,
    /// Print findings from this consequence on; those below are counted.
    #[arg(
        long,
        value_enum,
        value_name = "CONSEQUENCE",
        hide_possible_values = true,
        help_heading = "Output",
        hide_short_help = true
    )]
    pub min: Option<FailOn>,
    /// One line for each host, and sums of each role.
    #[arg(long, help_heading = "Output")]
    pub summary: bool,
    /// List the sound hosts of many too.
    #[arg(long, help_heading = "Output", hide_short_help = true)]
    pub all: bool,
    /// Write what differs from the forecast to this file, to report it.
    #[arg(long, value_name = "FILE", help_heading = "Output", requires = "rehearse", hide_short_help = true)]
    pub case: Option<PathBuf>,
    /// Write a page for each host into this directory, and index.html with all of
    /// them.
    #[arg(long, value_name = "DIRECTORY", conflicts_with_all = ["format", "summary", "output"], help_heading = "Output", hide_short_help = true)]
    pub pages: Option<PathBuf>,
    /// Write hosts, entries, devices and findings into this directory too, as files
    /// of columns (Parquet) for query engines.
    #[cfg(feature = "parquet")]
    #[arg(long, value_name = "DIRECTORY", help_heading = "Output", hide_short_help = true)]
    pub columns: Option<PathBuf>,
    /// text, json, jsonl, sarif, junit, prometheus, csv or html.
    #[arg(long, value_enum, default_value_t = AuditFormat::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: AuditFormat,
    #[command(flatten)]
    pub out: ToArgs,
}

/// Which policy tables are held against.
#[derive(Args, Debug, Default)]
#[command(next_help_heading = "Judgement")]
pub struct PolicyArgs {
    /// Apply this policy [default: bradawl-policy.toml here or above, else
    /// /etc/bradawl/policy.toml].
    #[arg(long, value_name = "FILE", hide_short_help = true)]
    pub policy: Option<PathBuf>,
    /// Apply no policy file.
    #[arg(long, conflicts_with = "policy", hide_short_help = true)]
    pub no_policy: bool,
    /// Add a shipped profile: unattended (servers without a console) or
    /// hardened; repeatable.
    #[arg(long, value_name = "NAME", hide_short_help = true)]
    pub profile: Vec<String>,
}

/// How an audit is written.
#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum AuditFormat {
    /// For reading in a terminal.
    Text,
    /// One document, for programs.
    Json,
    /// A document a line, one for each host.
    Jsonl,
    /// For code scanning (SARIF 2.1.0).
    Sarif,
    /// For test reports.
    Junit,
    /// For the textfile collector of Prometheus.
    Prometheus,
    /// A line for each host, for spreadsheets.
    Csv,
    /// One page that needs nothing else, for a browser.
    Html,
}

fn parse_age(text: &str) -> Result<f64, String> {
    let time = bradawl_facts::timespan::parse_timespan(text).flatten();
    time.ok_or_else(|| "expected a length of time, such as 36h, 7d or 2w".to_owned())
}
