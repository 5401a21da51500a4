use super::{Format, PolicyArgs, ToArgs, WithArgs, examples};
use clap::Args;
use std::path::PathBuf;

/// Other forms of entries.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum OtherForm {
    /// Unit files of systemd.
    Units,
    /// A cloud-config.
    CloudInit,
}

/// Build the tables of many hosts from one description
///
/// A layout says once what the hosts of a role should have: targets, how their
/// devices are found, options. For each host the new table, what changes, the
/// boot with it, and what has to be done there first. A host whose boot would get
/// worse is left alone and listed.
#[derive(Args, Debug)]
#[command(after_help = examples::LAYOUT)]
pub struct LayoutArgs {
    /// The layout: a TOML file.
    #[arg(value_name = "FILE", required_unless_present = "from")]
    pub file: Option<PathBuf>,
    /// Derive a layout from what the hosts of each role in these records have in
    /// common.
    #[arg(long, value_name = "RECORDS", conflicts_with_all = ["file", "hosts", "into"], help_heading = "Input")]
    pub from: Option<String>,
    /// Record, directory of records, root directory, or disk image
    /// [default: this host]; repeatable.
    #[arg(value_name = "HOST")]
    pub hosts: Vec<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Write the new tables below this directory.
    ///
    /// For each host that changes a directory: fstab, fstab.before, fstab.patch,
    /// steps.txt, roll-out.json and layout.json.
    #[arg(long, value_name = "DIRECTORY", help_heading = "Output")]
    pub into: Option<PathBuf>,
    /// Write the layout's entries in another form too: units or cloud-init;
    /// repeatable.
    ///
    /// units: unit files of systemd in place of the lines. cloud-init: a
    /// cloud-config with the lines as its mounts.
    #[arg(
        long,
        value_enum,
        value_name = "FORM",
        requires = "into",
        hide_possible_values = true,
        help_heading = "Output",
        hide_short_help = true
    )]
    pub also: Vec<OtherForm>,
    #[command(flatten)]
    pub policy: PolicyArgs,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}
