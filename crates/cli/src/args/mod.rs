//! The command line.

mod adopt;
mod audit;
mod compare;
#[cfg(test)]
mod documented;
mod draft;
mod edit;
mod examples;
mod hindsight;
mod install;
mod layout;
mod lsp;
mod mend;
mod rehearse;
mod short;
mod survey;
mod swap;
mod trend;

pub use adopt::AdoptArgs;
pub use audit::{AuditArgs, AuditFormat, PolicyArgs};
pub use compare::CompareArgs;
pub use draft::DraftArgs;
pub use edit::EditArgs;
pub use hindsight::HindsightArgs;
pub use install::{InstallArgs, RootArgs, UninstallArgs};
pub use layout::{LayoutArgs, OtherForm};
pub use lsp::LspArgs;
pub use mend::{MendArgs, MendFormat};
pub use rehearse::RehearseArgs;
pub use survey::SurveyArgs;
pub use swap::SwapArgs;
pub use trend::TrendArgs;

use bradawl_change::edit::EditError;
use bradawl_change::what_if::Supposed;
use bradawl_facts::Consequence;
use bradawl_facts::record::Init;
use bradawl_judgement::status::Status;
use clap::{Args, Parser, Subcommand, ValueEnum};
use std::path::PathBuf;

/// Forecasts what a host's mounts and swap will do at the next boot, and finds
/// and repairs what is wrong with its table (fstab) before the reboot
#[derive(Parser, Debug)]
#[command(
    name = "bradawl",
    version,
    long_version = crate::version::LONG,
    max_term_width = 80,
    after_help = examples::BRADAWL
)]
pub struct Cli {
    #[command(subcommand)]
    pub command: Command,
    #[command(flatten)]
    pub show: ShowArgs,
}

/// How results are shown, whatever the command.
#[derive(Args, Debug, Clone, Default)]
#[command(next_help_heading = "Display")]
pub struct ShowArgs {
    /// Colour: auto, always or never [default: auto].
    ///
    /// auto: on a terminal, unless NO_COLOR is set.
    #[arg(
        long,
        global = true,
        value_enum,
        value_name = "WHEN",
        hide_possible_values = true,
        hide_short_help = true
    )]
    pub color: Option<Color>,
    /// Do not page long text on a terminal.
    ///
    /// Text longer than the screen goes to $BRADAWL_PAGER, $PAGER or less.
    #[arg(long, global = true, hide_short_help = true)]
    pub no_pager: bool,
    /// Print the first line of the text only.
    #[arg(short, long, global = true, conflicts_with = "verbose", hide_short_help = true)]
    pub quiet: bool,
    /// Print every detail.
    #[arg(short, long, global = true, hide_short_help = true)]
    pub verbose: bool,
}

/// Where the result goes.
#[derive(Args, Debug, Clone, Default)]
pub struct ToArgs {
    /// Write the result to FILE, whole or not at all.
    #[arg(short, long, value_name = "FILE", help_heading = "Output", hide_short_help = true)]
    pub output: Option<PathBuf>,
}

#[derive(Subcommand, Debug)]
pub enum Command {
    Audit(AuditArgs),
    Forecast(ForecastArgs),
    Mend(MendArgs),
    Edit(EditArgs),
    Layout(LayoutArgs),
    Draft(DraftArgs),
    Adopt(AdoptArgs),
    Rehearse(RehearseArgs),
    Devices(DevicesArgs),
    Resolve(ResolveArgs),
    Swap(SwapArgs),
    Options(OptionsArgs),
    Survey(SurveyArgs),
    Compare(CompareArgs),
    Trend(TrendArgs),
    Hindsight(HindsightArgs),
    Explain(ExplainArgs),
    Lsp(LspArgs),
    Config(ConfigArgs),
    Completions(CompletionsArgs),
    Manual(ManualArgs),
    Install(InstallArgs),
    Uninstall(UninstallArgs),
    /// Show what Bradawl does, on made-up hosts
    ///
    /// Needs nothing and changes nothing.
    Demo,
}

/// Explain a rule: why it matters, and what to do
///
/// Also tells how the rule was verified and how to accept its findings.
/// Without a name all rules are listed.
#[derive(Args, Debug)]
#[command(after_help = examples::EXPLAIN)]
pub struct ExplainArgs {
    /// Name of a rule, as the audit prints it; repeatable.
    #[arg(value_name = "RULE")]
    pub rules: Vec<String>,
    /// One line for each rule.
    #[arg(long)]
    pub list: bool,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}

/// Forecast the next boot: how it ends, when, and why
#[derive(Args, Debug)]
#[command(after_help = examples::FORECAST)]
pub struct ForecastArgs {
    /// Record, disk image, root directory or tar, or `-` [default: this host].
    ///
    /// A record is what `bradawl survey` writes; `-` reads one from standard
    /// input. A
    /// directory of records gives one line for each host.
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    #[command(flatten)]
    pub judge: JudgeArgs,
    /// Forecast the boot with a hypothetical change beside it; repeatable.
    ///
    /// "line 4: +nofail -discard", "without line 4", "without /dev/sdb", "kernel
    /// 6.12", "init systemd-257", "mount-program 2.41", "initramfs dracut",
    /// "release debian-13", "server nas down", "disk sdb lost", "nobody at the
    /// console", "usb disks in other order"; several apply together.
    #[arg(long, value_name = "CHANGE", value_parser = parse_change, help_heading = "Judgement")]
    pub what_if: Vec<(String, Supposed)>,
    /// text, json, or html (one page without outside resources).
    #[arg(long, value_enum, default_value_t = ForecastFormat::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: ForecastFormat,
    /// Print the units that the init system makes of the table, and their
    /// ties: dot or json.
    #[arg(long, value_enum, value_name = "FORM", conflicts_with_all = ["format", "what_if"], hide_possible_values = true, help_heading = "Output", hide_short_help = true)]
    pub units: Option<UnitsForm>,
    #[command(flatten)]
    pub out: ToArgs,
}

/// How a forecast is written.
#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum ForecastFormat {
    /// For reading in a terminal.
    Text,
    /// For programs.
    Json,
    /// For reading in a browser.
    Html,
}

/// How units are written.
#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum UnitsForm {
    /// For drawing graphs.
    Dot,
    /// For programs.
    Json,
}

fn parse_change(text: &str) -> Result<(String, Supposed), String> {
    text.parse().map(|change| (text.to_owned(), change)).map_err(|e: EditError| e.to_string())
}

/// List disks: what they hold, and whether they are free
///
/// With partitions, arrays and volumes, and the entries that use each.
#[derive(Args, Debug)]
#[command(after_help = examples::DEVICES)]
pub struct DevicesArgs {
    /// Record, root directory, the disk images of one host, or `-` [default:
    /// this host].
    #[arg(value_name = "HOST")]
    pub hosts: Vec<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Mark what appeared, changed or went since this record was taken.
    #[arg(long, value_name = "RECORD", help_heading = "Input")]
    pub since: Option<String>,
    /// Print only what is free.
    #[arg(long, help_heading = "Output")]
    pub free: bool,
    /// text, json, svg (the stack as a picture), html (the same as a page), or
    /// dot (a graph to be drawn by others).
    #[arg(long, value_enum, default_value_t = DevicesFormat::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: DevicesFormat,
    #[command(flatten)]
    pub out: ToArgs,
}

/// Resolve a name to its device, and to the best name
///
/// For a name that no device matches, the names that nearly match are given.
#[derive(Args, Debug)]
#[command(after_help = examples::RESOLVE)]
pub struct ResolveArgs {
    /// A name as in a table: UUID=…, LABEL=…, a path, or a bare value;
    /// repeatable.
    #[arg(value_name = "NAME", required = true)]
    pub names: Vec<String>,
    /// Record, disk image, root directory or tar, or `-` [default: this host].
    #[arg(long, value_name = "HOST", help_heading = "Input")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}

/// Look up mount options, or judge a list of them
///
/// Which options a file system type accepts depends on kernel and mount program;
/// the host's count unless others are named.
#[derive(Args, Debug)]
#[command(after_help = examples::OPTIONS)]
pub struct OptionsArgs {
    /// File system type, or `common` for what every type accepts [default: list
    /// the types].
    #[arg(value_name = "TYPE")]
    pub fstype: Option<String>,
    /// One of its options, explained in full.
    #[arg(value_name = "OPTION")]
    pub option: Option<String>,
    /// Judge a list of options; repeatable.
    ///
    /// `-` reads lists from standard input, one a line.
    #[arg(long, value_name = "LIST", requires = "fstype", help_heading = "Judgement")]
    pub check: Vec<String>,
    /// Offer each option of the lists to the running kernel too, and report
    /// where it and the catalogue differ.
    ///
    /// Mounts nothing; needs root.
    #[arg(long, requires = "check", conflicts_with_all = ["kernel", "host"], help_heading = "Judgement", hide_short_help = true)]
    pub ask_kernel: bool,
    /// Print which options a list has in force, in a normal form.
    #[arg(
        long,
        value_name = "LIST",
        requires = "fstype",
        help_heading = "Judgement",
        hide_short_help = true
    )]
    pub effective: Option<String>,
    /// List options for a purpose, or with a word.
    ///
    /// "less wear", "faster", "private", "evidence"; the word is looked for in names
    /// and meanings too.
    #[arg(long, value_name = "WORD", help_heading = "Judgement")]
    pub search: Option<String>,
    /// Kernel version [default: the host's].
    #[arg(long, value_name = "VERSION", help_heading = "Input")]
    pub kernel: Option<String>,
    /// Version of the mount program (util-linux) [default: the host's, or that
    /// of the kernel's time].
    #[arg(long, value_name = "VERSION", help_heading = "Input", hide_short_help = true)]
    pub mount_program: Option<String>,
    /// Record, disk image, or root directory of the host whose kernel counts
    /// [default: this host].
    #[arg(long, value_name = "HOST", help_heading = "Input")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output", hide_short_help = true)]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}

/// Show the settings in force, and where they come from
///
/// Settings are read from /etc/bradawl/config.toml and then from
/// bradawl/config.toml under $XDG_CONFIG_HOME or ~/.config. A file that others
/// may write is not read.
#[derive(Args, Debug)]
#[command(after_help = examples::CONFIG)]
pub struct ConfigArgs {
    /// text or json.
    #[arg(long, value_enum, default_value_t = Format::Text, hide_possible_values = true, help_heading = "Output")]
    pub format: Format,
    #[command(flatten)]
    pub out: ToArgs,
}

/// Print the completions for a shell
#[derive(Args, Debug)]
#[command(after_help = examples::COMPLETIONS)]
pub struct CompletionsArgs {
    /// bash, zsh or fish.
    #[arg(value_name = "SHELL", value_enum, hide_possible_values = true)]
    pub shell: CompletedShell,
    #[command(flatten)]
    pub out: ToArgs,
}

/// The shells that are completed.
#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum CompletedShell {
    Bash,
    Zsh,
    Fish,
}

/// Print a manual page, or write all of them
#[derive(Args, Debug)]
#[command(after_help = examples::MANUAL)]
pub struct ManualArgs {
    /// A command, or a format: policy, hosts, record [default: bradawl].
    #[arg(value_name = "PAGE")]
    pub page: Option<String>,
    /// Write all pages into this directory, in man1 and man5.
    #[arg(long, value_name = "DIRECTORY", conflicts_with_all = ["page", "output"])]
    pub all: Option<PathBuf>,
    #[command(flatten)]
    pub out: ToArgs,
}

/// What belongs to a host beside its argument.
#[derive(Args, Debug, Default)]
#[command(next_help_heading = "Input")]
pub struct WithArgs {
    /// Image of one more disk of the host; repeatable.
    #[arg(long, value_name = "IMAGE", hide_short_help = true)]
    pub disk: Vec<PathBuf>,
    /// Judge a root directory by the disks of this machine.
    #[arg(long, hide_short_help = true)]
    pub live_devices: bool,
}

/// What audit and forecast share.
#[derive(Args, Debug)]
#[command(next_help_heading = "Judgement")]
pub struct JudgeArgs {
    /// Judge this table, not the host's (`-`: standard input).
    #[arg(long, value_name = "FILE", help_heading = "Input")]
    pub table: Option<String>,
    /// Exit status 1 from this consequence on: halt, stall, missing, risk,
    /// note or never.
    #[arg(long, value_enum, default_value_t = FailOn::Missing, value_name = "CONSEQUENCE", hide_possible_values = true, hide_short_help = true)]
    pub fail_on: FailOn,
    /// Exit status when the known facts are fine, but missing ones may not be:
    /// 3 or 0.
    #[arg(long, value_enum, default_value_t = NotKnownAs::Three, value_name = "STATUS", hide_possible_values = true, hide_short_help = true)]
    pub not_known: NotKnownAs,
    /// Boot with this init system: systemd, systemd-252, sysvinit, openrc or
    /// busybox [default: the host's].
    #[arg(long, value_name = "NAME[-VERSION]", value_parser = parse_init, hide_short_help = true)]
    pub init: Option<Init>,
    /// Ask the init system's own generator what it makes of the table: auto,
    /// always or never.
    ///
    /// Runs systemd-fstab-generator of this host with its output into a temporary
    /// directory. auto: as root on a host that runs systemd, for 100 ms at most.
    /// always: also that of a root directory, as nobody, in namespaces of its own
    /// where the directory is read-only.
    #[arg(long, value_enum, default_value_t = Asking::Auto, value_name = "WHEN", hide_possible_values = true, hide_short_help = true)]
    pub ask_generator: Asking,
}

/// When somebody is asked.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum Asking {
    /// Where it costs nothing and is allowed.
    Auto,
    /// Or else it is an error.
    Always,
    /// Not at all.
    Never,
}

/// What missing facts do to the exit status.
#[derive(Debug, Clone, Copy, PartialEq, Eq, ValueEnum)]
pub enum NotKnownAs {
    /// Status 3.
    #[value(name = "3")]
    Three,
    /// They are not asked.
    #[value(name = "0")]
    Zero,
}

impl JudgeArgs {
    /// The exit status over what counts, and over what may.
    pub fn status(&self, worst: Option<Consequence>, at_worst: Option<Consequence>, failed: bool) -> Status {
        let limit = self.fail_on.limit();
        let at_worst = at_worst.filter(|_| self.not_known == NotKnownAs::Three);
        Status::of(worst, limit, failed).or_not_known(at_worst, limit)
    }
}

fn parse_init(text: &str) -> Result<Init, String> {
    text.parse()
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// For reading.
    Text,
    /// For programs.
    Json,
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum DevicesFormat {
    /// For reading.
    Text,
    /// For programs.
    Json,
    /// A picture.
    Svg,
    /// A page with the picture.
    Html,
    /// A graph for drawing.
    Dot,
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum HindsightFormat {
    /// For reading.
    Text,
    /// For programs.
    Json,
    /// A line for each host, for spreadsheets.
    Csv,
    /// For a time series database.
    Prometheus,
    /// One page, for a browser.
    Html,
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum TrendFormat {
    /// For reading.
    Text,
    /// For programs.
    Json,
    /// For a time series database.
    Prometheus,
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum Color {
    /// On a terminal, unless NO_COLOR is set.
    Auto,
    Always,
    Never,
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum FailOn {
    Halt,
    Stall,
    Missing,
    Risk,
    Note,
    /// Never exit with status 1.
    Never,
}

impl FailOn {
    /// The mildest consequence that is bad enough, if any is.
    pub fn limit(self) -> Option<Consequence> {
        match self {
            FailOn::Halt => Some(Consequence::Halt),
            FailOn::Stall => Some(Consequence::Stall),
            FailOn::Missing => Some(Consequence::Missing),
            FailOn::Risk => Some(Consequence::Risk),
            FailOn::Note => Some(Consequence::Note),
            FailOn::Never => None,
        }
    }
}

/// Reads the command line; prints help or usage and exits where clap does.
pub fn parse() -> Cli {
    if short::asked(std::env::args_os()) {
        let matches = short::command().get_matches();
        return <Cli as clap::FromArgMatches>::from_arg_matches(&matches).unwrap_or_else(|e| e.exit());
    }
    Cli::parse()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_command_line_is_sound() {
        <Cli as clap::CommandFactory>::command().debug_assert();
    }
}
