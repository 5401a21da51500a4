use super::{Format, WithArgs};
use clap::Args;

/// Say what differs, and matters: between two records of one host, between two
/// hosts, between table and running state, or within a role.
///
/// Entries are compared by what they ask for, not by how they are spelled.
/// Between hosts UUIDs and names of disks do not count.
#[derive(Args, Debug)]
pub struct CompareArgs {
    /// Two hosts: the earlier or usual one first. One host: its table against
    /// what runs on it. With --group any number, and directories of records.
    #[arg(value_name = "HOST", required = true)]
    pub hosts: Vec<String>,
    /// Within each role: what most hosts have in common, then every host that
    /// departs from it, the oddest and most harmful first.
    #[arg(long)]
    pub group: bool,
    /// Take both for the same host even if their names differ.
    #[arg(long, conflicts_with_all = ["group", "as_kind"])]
    pub as_same: bool,
    /// Take both for two hosts of a kind even if their names are the same.
    #[arg(long, conflicts_with = "group")]
    pub as_kind: bool,
    #[command(flatten)]
    pub with: WithArgs,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}
