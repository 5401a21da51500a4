use super::{Format, WithArgs};
use bradawl_boot::swap::{Priority, switch_priority};
use bradawl_change::swap_plan::{SwapWishes, Wanted};
use bradawl_facts::size::Said;
use clap::Args;

/// Say how much swap there is, from where, in what order, and whether it is
/// sound; plan more; make a swap file.
#[derive(Args, Debug)]
pub struct SwapArgs {
    /// A record, a disk image, or a directory that is a host's root; nothing:
    /// this host; `-`: a record from standard input.
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Look at this table in place of the host's own (`-`: standard input).
    #[arg(long, value_name = "FILE")]
    pub table: Option<String>,
    /// Plan for so much swap in all: bytes, "8G", "512 MiB", or auto for what
    /// is sensible.
    #[arg(long, value_name = "SIZE", value_parser = parse_want)]
    pub want: Option<Wanted>,
    /// Where the new area goes: a file, a directory, a device.
    #[arg(long, value_name = "PLACE", requires = "want")]
    pub on: Option<String>,
    /// Plan for putting the host to sleep on disk.
    #[arg(long, requires = "want")]
    pub hibernate: bool,
    /// The area that the new one replaces.
    #[arg(long, value_name = "PATH", requires = "want")]
    pub replace: Option<String>,
    /// The priority of the new area, to 32767.
    #[arg(long, value_name = "NUMBER", requires = "want", value_parser = parse_priority, allow_hyphen_values = true)]
    pub priority: Option<i32>,
    /// Make a swap file here, of the size that is wanted; --write does it.
    #[arg(long, value_name = "PATH", requires = "want", conflicts_with_all = ["host", "table", "on", "replace", "hibernate"])]
    pub file: Option<String>,
    /// Write the file.
    #[arg(long, requires = "file")]
    pub write: bool,
    /// Put its entry into this table too, in the same step: both are judged
    /// before anything is written.
    #[arg(long, value_name = "TABLE", requires = "write")]
    pub into: Option<String>,
    /// Its label.
    #[arg(long, value_name = "LABEL", requires = "file", default_value = "")]
    pub label: String,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
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
