use super::{Format, ToArgs, WithArgs, examples};
use bradawl_boot::swap::{Priority, switch_priority};
use bradawl_change::swap_plan::{SwapWishes, Wanted};
use bradawl_facts::size::Said;
use clap::Args;

/// Show all swap of a host, plan more, make a swap file
///
/// Shows how much there is, from where, in what order, now and after a reboot.
#[derive(Args, Debug)]
#[command(after_help = examples::SWAP)]
pub struct SwapArgs {
    /// Record, disk image, root directory or tar, or `-` [default: this host].
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Judge this table, not the host's (`-`: standard input).
    #[arg(long, value_name = "FILE", help_heading = "Input", hide_short_help = true)]
    pub table: Option<String>,
    /// Plan for this much swap in all: "8G", "512 MiB", bytes, or auto for what
    /// is sensible.
    #[arg(long, help_heading = "Plan", value_name = "SIZE", value_parser = parse_want)]
    pub want: Option<Wanted>,
    /// Place of the new area: a file, a directory or a device.
    #[arg(long, help_heading = "Plan", value_name = "PLACE", requires = "want")]
    pub on: Option<String>,
    /// Plan for hibernation.
    #[arg(long, help_heading = "Plan", requires = "want")]
    pub hibernate: bool,
    /// Area that the new one replaces.
    #[arg(long, help_heading = "Plan", value_name = "PATH", requires = "want", hide_short_help = true)]
    pub replace: Option<String>,
    /// Priority of the new area, 0 to 32767.
    #[arg(long, help_heading = "Plan", value_name = "NUMBER", requires = "want", value_parser = parse_priority, allow_hyphen_values = true, hide_short_help = true)]
    pub priority: Option<i32>,
    /// Make a swap file of the size of --want; --write makes it.
    #[arg(long, help_heading = "Swap file", value_name = "PATH", requires = "want", conflicts_with_all = ["host", "table", "on", "replace", "hibernate"])]
    pub file: Option<String>,
    /// Write the file.
    #[arg(long, help_heading = "Swap file", requires = "file")]
    pub write: bool,
    /// Write its entry into this table too; both are judged before anything is
    /// written.
    #[arg(
        long,
        help_heading = "Swap file",
        value_name = "TABLE",
        requires = "write",
        hide_short_help = true
    )]
    pub into: Option<String>,
    /// Label of the swap file.
    #[arg(
        long,
        help_heading = "Swap file",
        hide_default_value = true,
        value_name = "LABEL",
        requires = "file",
        default_value = "",
        hide_short_help = true
    )]
    pub label: String,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output", hide_short_help = true)]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}

impl SwapArgs {
    /// What the plan is for.
    pub fn wishes(&self) -> SwapWishes {
        SwapWishes {
            want: self.want,
            on: self.on.clone(),
            hibernate: self.hibernate,
            replace: self.replace.clone(),
            priority: self.priority,
        }
    }
}

/// Units count in steps of 1024, as memory does.
fn parse_want(text: &str) -> Result<Wanted, String> {
    if text == "auto" {
        return Ok(Wanted::Auto);
    }
    let bytes = Said::parse(text).and_then(Said::whole);
    bytes.map(Wanted::Bytes).ok_or_else(|| "a size is a whole number with K, M, G or T, or auto".to_owned())
}

fn parse_priority(text: &str) -> Result<i32, String> {
    match switch_priority(text) {
        Some(Priority::Given(number)) => Ok(number),
        _ => Err("a priority is a number from 0 to 32767".to_owned()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sizes_as_people_write_them() {
        for (text, bytes) in [("8G", 8 << 30), ("512 MiB", 512 << 20), ("4096", 4096), ("2tb", 2 << 40)] {
            assert_eq!(parse_want(text), Ok(Wanted::Bytes(bytes)), "{text}");
        }
        for text in ["", "G", "1.5G", "-1G", "8X", "99999999999999999999G"] {
            assert!(parse_want(text).is_err(), "{text}");
        }
    }
}
