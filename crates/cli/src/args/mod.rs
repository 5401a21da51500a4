//! The command line.

mod adopt;
mod audit;
mod compare;
mod draft;
mod mend;
mod rehearse;
mod survey;
mod swap;

pub use adopt::AdoptArgs;
pub use audit::{AuditArgs, AuditFormat, PolicyArgs};
pub use compare::CompareArgs;
pub use draft::DraftArgs;
pub use mend::{MendArgs, MendFormat};
pub use rehearse::RehearseArgs;
pub use survey::SurveyArgs;
pub use swap::SwapArgs;

use bradawl_change::edit::EditError;
use bradawl_change::what_if::Supposed;
use bradawl_facts::Consequence;
use bradawl_facts::record::{Init, InitKind};
use bradawl_judgement::status::Status;
use clap::{Args, Parser, Subcommand, ValueEnum};
use std::path::PathBuf;

/// Says what a host's mounts and swap will do at the next boot, and what is
/// wrong with its table (fstab), before the reboot.
#[derive(Parser, Debug)]
#[command(name = "bradawl", version, max_term_width = 80, disable_help_subcommand = true)]
pub struct Cli {
    #[command(subcommand)]
    pub command: Command,
    /// When to colour the text.
    #[arg(long, global = true, value_enum, default_value_t = Color::Auto, value_name = "WHEN")]
    pub color: Color,
}

#[derive(Subcommand, Debug)]
pub enum Command {
    Audit(AuditArgs),
    Compare(CompareArgs),
    Forecast(ForecastArgs),
    Devices(DevicesArgs),
    Resolve(ResolveArgs),
    Survey(SurveyArgs),
    Explain(ExplainArgs),
    Options(OptionsArgs),
    Draft(DraftArgs),
    Adopt(AdoptArgs),
    Mend(MendArgs),
    Rehearse(RehearseArgs),
    Swap(SwapArgs),
    /// Show what Bradawl does, on the hosts of a made-up observatory.
    ///
    /// Needs nothing and changes nothing.
    Demo,
}

/// Say all about a rule: why it matters, what happens at boot, what to do, how
/// it was verified, and how to silence it.
#[derive(Args, Debug)]
pub struct ExplainArgs {
    /// Names of rules, as the audit gives them; nothing: all are listed.
    #[arg(value_name = "RULE")]
    pub rules: Vec<String>,
    /// One line for each rule.
    #[arg(long)]
    pub list: bool,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}

/// Say what the next boot will do: when, and why.
#[derive(Args, Debug)]
pub struct ForecastArgs {
    /// A record, a disk image, or a directory that is a host's root; nothing:
    /// this host; `-`: a record from standard input. A directory of records, or a
    /// file with a record a line: a line for each host.
    #[arg(value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    #[command(flatten)]
    pub judge: JudgeArgs,
    /// Also forecast the boot with this change, without making it: "line 4:
    /// +nofail -discard", "without line 4", "without /dev/sdb"; repeatable,
    /// all together.
    #[arg(long, value_name = "CHANGE", value_parser = parse_change)]
    pub what_if: Vec<(String, Supposed)>,
    /// How to write the forecast; html is one page that needs nothing else.
    #[arg(long, value_enum, default_value_t = ForecastFormat::Text)]
    pub format: ForecastFormat,
    /// Write the units that the init system makes of the table, and their
    /// ties, in place of the forecast.
    #[arg(long, value_enum, value_name = "FORM", conflicts_with_all = ["format", "what_if"])]
    pub units: Option<UnitsForm>,
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

/// Say which disk is which, what it holds, whether it is free, and which
/// entries use it.
#[derive(Args, Debug)]
pub struct DevicesArgs {
    /// A record, a directory that is a host's root, or the disk images of one
    /// host; default: this host; `-`: a record from standard input.
    #[arg(value_name = "HOST")]
    pub hosts: Vec<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// Mark what appeared, changed or went since this record was taken.
    #[arg(long, value_name = "RECORD")]
    pub since: Option<String>,
    /// Show only what is free.
    #[arg(long)]
    pub free: bool,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}

/// Say what a name points at, what other names it has, which is best to
/// write, and what was meant when nothing answers.
#[derive(Args, Debug)]
pub struct ResolveArgs {
    /// Names as they stand in a table: UUID=…, LABEL=…, a path, or a bare
    /// value.
    #[arg(value_name = "NAME", required = true)]
    pub names: Vec<String>,
    /// Whose devices to ask: a record, a disk image, or a directory that is a
    /// host's root; default: this host's; `-`: a record from standard input.
    #[arg(long, value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// How to write the result.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}

/// Say which mount options a file system type takes on a kernel, and what a
/// list of them really means.
#[derive(Args, Debug)]
pub struct OptionsArgs {
    /// A file system type; `common`: what every type takes; nothing: all
    /// types are listed.
    #[arg(value_name = "TYPE")]
    pub fstype: Option<String>,
    /// One of its options, to be told all about.
    #[arg(value_name = "OPTION")]
    pub option: Option<String>,
    /// Judge a list of options as the mount would end (`-`: one list a line
    /// from standard input); repeatable.
    #[arg(long, value_name = "LIST", requires = "fstype")]
    pub check: Vec<String>,
    /// Offer each option of the lists to the running kernel as well, and say
    /// where it and the catalogue differ. Mounts nothing; needs root.
    #[arg(long, requires = "check", conflicts_with_all = ["kernel", "host"])]
    pub ask_kernel: bool,
    /// Say what a list really means, in a normal form.
    #[arg(long, value_name = "LIST", requires = "fstype")]
    pub effective: Option<String>,
    /// Options with this word in their name or meaning.
    #[arg(long, value_name = "WORD")]
    pub search: Option<String>,
    /// The kernel; else the host's.
    #[arg(long, value_name = "VERSION")]
    pub kernel: Option<String>,
    /// The mount program (util-linux); else the host's, or that of the
    /// kernel's time.
    #[arg(long, value_name = "VERSION")]
    pub mount_program: Option<String>,
    /// The host whose kernel counts: a record, a disk image, or a directory that
    /// is a host's root; default: this host.
    #[arg(long, value_name = "HOST")]
    pub host: Option<String>,
    #[command(flatten)]
    pub with: WithArgs,
    /// How to write what is said.
    #[arg(long, value_enum, default_value_t = Format::Text)]
    pub format: Format,
}

/// What belongs to a host beside its argument.
#[derive(Args, Debug, Default)]
pub struct WithArgs {
    /// One more disk of the same host, as an image; repeatable.
    #[arg(long, value_name = "IMAGE")]
    pub disk: Vec<PathBuf>,
    /// Judge a directory that is a host's root by the disks of this machine.
    #[arg(long)]
    pub live_devices: bool,
}

/// What audit and forecast share.
#[derive(Args, Debug)]
pub struct JudgeArgs {
    /// Judge this table in place of the host's own (`-`: standard input).
    #[arg(long, value_name = "FILE")]
    pub table: Option<String>,
    /// Exit with status 1 when something is as bad as this, or worse.
    #[arg(long, value_enum, default_value_t = FailOn::Missing, value_name = "CONSEQUENCE")]
    pub fail_on: FailOn,
    /// What the exit status is when nothing is so bad as far as is known, and
    /// facts are missing that may make it so: 3, or as if it were fine.
    #[arg(long, value_enum, default_value_t = NotKnownAs::Three, value_name = "STATUS")]
    pub not_known: NotKnownAs,
    /// Boot with this init system in place of the host's: systemd,
    /// systemd-252, sysvinit, openrc, busybox.
    #[arg(long, value_name = "NAME[-VERSION]", value_parser = parse_init)]
    pub init: Option<Init>,
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
    let (name, version) = text.split_once('-').map_or((text, None), |(n, v)| (n, Some(v)));
    let kind = match name {
        "systemd" => InitKind::Systemd,
        "sysvinit" => InitKind::Sysvinit,
        "openrc" => InitKind::Openrc,
        "busybox" => InitKind::Busybox,
        _ => {
            return Err(
                "one of systemd, sysvinit, openrc, busybox, with a version behind a hyphen".to_owned()
            );
        }
    };
    let sound = version.is_none_or(|v| v.starts_with(|c: char| c.is_ascii_digit()));
    if sound { Ok(Init::new(kind, version)) } else { Err("a version begins with a number".to_owned()) }
}

#[derive(ValueEnum, Debug, Clone, Copy, PartialEq, Eq)]
pub enum Format {
    /// For reading.
    Text,
    /// For programs.
    Json,
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
