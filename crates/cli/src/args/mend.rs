use super::{PolicyArgs, ToArgs, WithArgs, examples, parse_init};
use bradawl_change::edit::{Change, EditError};
use bradawl_facts::record::Init;
use clap::Args;
use std::path::PathBuf;

/// Repair a table: show the change, and with --write make it
///
/// Without --edit: the safe fixes of all findings, and what else keeps the boot
/// from stopping or waiting. The new table is judged before it is written, and
/// the old one is kept.
#[derive(Args, Debug)]
#[command(after_help = examples::MEND)]
pub struct MendArgs {
    /// Root directory, record, directory of records, disk image, or `-`
    /// [default: this host].
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Repair this table, not the host's (`-`: standard input).
    #[arg(long, value_name = "FILE", help_heading = "Input")]
    pub table: Option<String>,
    /// Make this change: "/srv/b: +nofail"; repeatable.
    ///
    /// "line 4: off", "line 4: on", "line 4: target /srv/b", "line 4: device
    /// /dev/vdb2", "line 4: before line 2", "swap: off", "all: by uuid", "order",
    /// "align", "drop repeats". An entry is named by its line as numbered now,
    /// its target, its source, or swap.
    #[arg(long, value_name = "CHANGE", value_parser = parse_change, help_heading = "Change")]
    pub edit: Vec<Change>,
    /// Mend only findings of this rule; repeatable.
    #[arg(long, value_name = "RULE", help_heading = "Change", hide_short_help = true)]
    pub only: Vec<String>,
    /// Mend only findings on this line; repeatable.
    #[arg(long, value_name = "LINE", help_heading = "Change", hide_short_help = true)]
    pub line: Vec<usize>,
    /// Ask about each fix, also those that are not safe.
    #[arg(long, conflicts_with = "format", help_heading = "Change")]
    pub choose: bool,
    /// Write the new table, unless anything gets worse by it.
    #[arg(long, help_heading = "Change")]
    pub write: bool,
    /// Write the repaired tables of many hosts below this directory.
    ///
    /// For each host that is repaired a directory: fstab, fstab.before,
    /// fstab.patch, steps.txt, roll-out.json and mend.json.
    #[arg(long, value_name = "DIRECTORY", requires = "host", conflicts_with_all = ["write", "choose", "table"], help_heading = "Change", hide_short_help = true)]
    pub into: Option<PathBuf>,
    /// Write it even if something gets worse by it.
    #[arg(long, help_heading = "Change", hide_short_help = true)]
    pub even_if_worse: bool,
    /// Take back the last write.
    ///
    /// The old table is judged like any other.
    #[arg(long, conflicts_with_all = ["edit", "only", "line", "choose", "write"], help_heading = "History")]
    pub undo: bool,
    /// Take back all writes from this number of --history on [default: the last].
    #[arg(long, value_name = "NUMBER", requires = "undo", help_heading = "History", hide_short_help = true)]
    pub to: Option<usize>,
    /// Take back a write although the table was changed since; its present
    /// text is kept.
    #[arg(long, requires = "undo", help_heading = "History", hide_short_help = true)]
    pub even_if_changed: bool,
    /// List the writes: when, by whom, and whether in place.
    #[arg(long, conflicts_with_all = ["edit", "only", "line", "choose", "write", "undo"], help_heading = "History")]
    pub history: bool,
    /// Boot with this init system: systemd, systemd-252, sysvinit, openrc or
    /// busybox [default: the host's].
    #[arg(long, value_name = "NAME[-VERSION]", value_parser = parse_init, help_heading = "Judgement", hide_short_help = true)]
    pub init: Option<Init>,
    #[command(flatten)]
    pub policy: PolicyArgs,
    /// text, json, or diff (the change alone).
    #[arg(long, value_enum, default_value_t = MendFormat::Text, hide_possible_values = true, help_heading = "Output", hide_short_help = true)]
    pub format: MendFormat,
    #[command(flatten)]
    pub out: ToArgs,
}

/// How a repair is shown.
#[derive(clap::ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum MendFormat {
    /// For reading.
    Text,
    /// For programs.
    Json,
    /// The unified difference alone.
    Diff,
}

fn parse_change(text: &str) -> Result<Change, String> {
    text.parse().map_err(|e: EditError| e.to_string())
}
