use super::{PolicyArgs, WithArgs, parse_init};
use bradawl_change::edit::{Change, EditError};
use bradawl_facts::record::Init;
use clap::Args;

/// Repair a table: show what would be changed, and with --write change it.
///
/// Without --edit the safe fixes of all findings are made, and what else keeps
/// the boot from stopping or waiting. The new text is judged before it is
/// written; it replaces the old one whole, which is kept beside it.
#[derive(Args, Debug)]
pub struct MendArgs {
    /// A directory that is a host's root, a record or a disk image; nothing: this
    /// host; `-`: a record from standard input.
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Repair this table in place of the host's own (`-`: standard input).
    #[arg(long, value_name = "FILE")]
    pub table: Option<String>,
    /// Make this change: "line 4: +nofail -discard", "/srv/b: +nofail", "swap:
    /// off", "line 4: off", "line 4: on", "line 4: target /srv/b", "line 4:
    /// device /dev/vdb2", "line 4: before line 2", "all: by uuid", "order",
    /// "align", "drop repeats"; repeatable. An entry is named by its line,
    /// as it is numbered now, its target, its source, or swap.
    #[arg(long, value_name = "CHANGE", value_parser = parse_change)]
    pub edit: Vec<Change>,
    /// Mend only findings of this rule; repeatable.
    #[arg(long, value_name = "RULE")]
    pub only: Vec<String>,
    /// Mend only findings on this line; repeatable.
    #[arg(long, value_name = "LINE")]
    pub line: Vec<usize>,
    /// Be asked about every fix, those that are not safe too.
    #[arg(long, conflicts_with = "format")]
    pub choose: bool,
    /// Write the new table. Refused when anything gets worse by it.
    #[arg(long)]
    pub write: bool,
    /// Write it even so.
    #[arg(long)]
    pub even_if_worse: bool,
    /// Take back what bradawl wrote last: the table as it was before is judged
    /// and written like any other.
    #[arg(long, conflicts_with_all = ["edit", "only", "line", "choose", "write"])]
    pub undo: bool,
    /// Go back to the table as it was before this write, by its number in
    /// --history [default: the last write].
    #[arg(long, value_name = "NUMBER", requires = "undo")]
    pub to: Option<usize>,
    /// Take back a write although the table was changed since; the present
    /// text is kept beside it.
    #[arg(long, requires = "undo")]
    pub even_if_changed: bool,
    /// List what bradawl wrote: when, who, which command, and whether the
    /// table is still so.
    #[arg(long, conflicts_with_all = ["edit", "only", "line", "choose", "write", "undo"])]
    pub history: bool,
    /// Judge by this init system in place of the host's: systemd, systemd-252,
    /// sysvinit, openrc, busybox.
    #[arg(long, value_name = "NAME[-VERSION]", value_parser = parse_init)]
    pub init: Option<Init>,
    #[command(flatten)]
    pub policy: PolicyArgs,
    /// How to write what is said; diff is the change alone.
    #[arg(long, value_enum, default_value_t = MendFormat::Text)]
    pub format: MendFormat,
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
