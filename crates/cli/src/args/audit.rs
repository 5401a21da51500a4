use super::{FailOn, JudgeArgs, WithArgs};
use clap::{Args, ValueEnum};
use std::path::PathBuf;

/// Say what is wrong: each finding with its place, what it does to the boot,
/// and what to do about it.
#[derive(Args, Debug)]
pub struct AuditArgs {
    /// Records, files with a record a line (*.jsonl, also packed: *.jsonl.zst),
    /// directories of these, disk images, or directories that are a host's root;
    /// default: this host; `-`: a record from standard input.
    #[arg(value_name = "HOST")]
    pub hosts: Vec<String>,
    #[command(flatten)]
    pub with: WithArgs,
    #[command(flatten)]
    pub judge: JudgeArgs,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = AuditFormat::Text)]
    pub format: AuditFormat,
    /// Only findings of this rule; repeatable.
    #[arg(long, value_name = "RULE")]
    pub only: Vec<String>,
    /// Only findings as bad as this, or worse.
    #[arg(long, value_enum, value_name = "CONSEQUENCE")]
    pub min: Option<FailOn>,
    /// One line for each host, then what many hosts share, and the sums of
    /// each role.
    #[arg(long)]
    pub summary: bool,
    /// Only findings that are not in this baseline.
    #[arg(long, value_name = "FILE")]
    pub baseline: Option<PathBuf>,
    /// Write a baseline: all that is found now is known from then on.
    #[arg(long, value_name = "FILE")]
    pub write_baseline: Option<PathBuf>,
    /// An earlier record of the same host: names that have changed since are
    /// told apart from names that never were.
    #[arg(long, value_name = "RECORD")]
    pub since: Option<String>,
    /// Offer each option to the running kernel as well, and say where it and
    /// the catalogue differ. Mounts nothing; needs root, and this host.
    #[arg(long, conflicts_with = "hosts")]
    pub ask_kernel: bool,
    #[command(flatten)]
    pub policy: PolicyArgs,
}

/// Which policy tables are held against.
#[derive(Args, Debug, Default)]
pub struct PolicyArgs {
    /// Hold the table against this policy, in place of bradawl-policy.toml in
    /// this directory or one above, or of /etc/bradawl/policy.toml.
    #[arg(long, value_name = "FILE")]
    pub policy: Option<PathBuf>,
    /// Use no policy file.
    #[arg(long, conflicts_with = "policy")]
    pub no_policy: bool,
    /// Add a shipped profile: unattended (servers nobody sits at) or hardened;
    /// repeatable.
    #[arg(long, value_name = "NAME")]
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
