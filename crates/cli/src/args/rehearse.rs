use super::{Format, ToArgs, examples};
use clap::Args;
use std::ffi::OsString;
use std::path::PathBuf;

/// The monitor of this processor's machines.
#[cfg(target_arch = "x86_64")]
const MONITOR: &str = "qemu-system-x86_64";
#[cfg(not(target_arch = "x86_64"))]
const MONITOR: &str = "qemu-system-aarch64";

/// Mount the entries as the boot would, in a private namespace
///
/// Needs root. Entries are stacked in the namespace as the boot would, and all
/// of it ends with the command.
/// Devices are mounted read-only and without replaying their journals; what is
/// in use is shown from where it is mounted, and only its options are checked.
#[derive(Args, Debug)]
#[command(after_help = examples::REHEARSE)]
pub struct RehearseArgs {
    /// Try this table, not the host's (`-`: standard input).
    #[arg(long, value_name = "FILE", help_heading = "Input")]
    pub table: Option<String>,
    /// Only the entry on this line; repeatable.
    #[arg(long, value_name = "LINE", help_heading = "Input")]
    pub line: Vec<usize>,
    /// Mount devices exactly as the entry says, so that journals are replayed:
    /// under a layer that takes what is written and is thrown away.
    ///
    /// Only devices that are not in use. The layer needs the kernel's device
    /// mapper; without one such entries are not tried.
    #[arg(long, help_heading = "Attempt")]
    pub exact: bool,
    /// Have the system's mount program mount every entry, and not only those
    /// with words that are its own.
    #[arg(long, help_heading = "Attempt", hide_short_help = true)]
    pub mount_program: bool,
    /// Try entries with noauto too.
    #[arg(long, help_heading = "Attempt")]
    pub noauto: bool,
    /// Try network file systems too.
    #[arg(long, help_heading = "Attempt", hide_short_help = true)]
    pub network: bool,
    /// Try entries that name a program, which then runs as root: only for a
    /// table that you trust.
    ///
    /// These are the fuse types, helper= and ssh_command=.
    #[arg(long, help_heading = "Attempt", hide_short_help = true)]
    pub run_programs: bool,
    /// Boot this disk image in a guest, with the table in place, and report how the
    /// boot ends.
    ///
    /// The image is only read; what the guest writes is thrown away. Needs a
    /// machine monitor (QEMU), and no root.
    #[arg(long, value_name = "IMAGE", help_heading = "Guest", conflicts_with_all = ["line", "exact", "mount_program", "noauto", "network", "run_programs", "case"])]
    pub guest: Option<PathBuf>,
    /// Image of one more disk of the guest; repeatable.
    #[arg(long, value_name = "IMAGE", help_heading = "Guest", requires = "guest", hide_short_help = true)]
    pub disk: Vec<PathBuf>,
    /// The host's record: disks that its table names and no image is given for get
    /// empty stand-ins with their names.
    #[arg(long, value_name = "RECORD", help_heading = "Guest", requires = "guest", hide_short_help = true)]
    pub host: Option<String>,
    /// The machine monitor's program.
    #[arg(long, value_name = "PROGRAM", help_heading = "Guest", default_value = MONITOR, hide_short_help = true)]
    pub monitor: String,
    /// Run the guest without the processor's help, where that hangs or is not
    /// allowed; much slower.
    #[arg(long, help_heading = "Guest", requires = "guest", hide_short_help = true)]
    pub emulate: bool,
    /// Time limit for each entry.
    #[arg(long, help_heading = "Attempt", default_value_t = 20, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..=3600), hide_short_help = true)]
    pub limit: u64,
    /// Time limit for the whole rehearsal; a guest may need more.
    #[arg(long, help_heading = "Attempt", default_value_t = 300, value_name = "SECONDS", value_parser = clap::value_parser!(u64).range(1..=86400), hide_short_help = true)]
    pub limit_all: u64,
    /// The process that tries one entry; not for people.
    #[arg(long, hide = true)]
    pub one: bool,
    /// The process that owns the namespace; not for people.
    #[arg(long, hide = true)]
    pub stage: bool,
    /// Becomes a program that ends with its parent; not for people.
    #[arg(long, hide = true)]
    pub machine: bool,
    /// The program and its arguments.
    #[arg(last = true, hide = true)]
    pub words: Vec<OsString>,
    /// Write what differs from the forecast to this file, to report it.
    #[arg(long, value_name = "FILE", help_heading = "Output", hide_short_help = true)]
    pub case: Option<PathBuf>,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output", hide_short_help = true)]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}
