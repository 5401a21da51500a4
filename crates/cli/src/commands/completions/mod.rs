use crate::args::{Cli, CompletedShell, CompletionsArgs};
use crate::outcome::{CommandError, Status};
use crate::ui::Ui;
use bradawl_catalogue::fstypes::all_names;
use bradawl_catalogue::options::types as all_types;
use bradawl_documents::rows_of;
use bradawl_judgement::rules::RULES;
use clap::builder::PossibleValuesParser;
use clap::{Command, CommandFactory as _, ValueHint};
use clap_complete::{Shell, generate};
use std::collections::BTreeSet;

pub fn run(ui: &Ui, args: &CompletionsArgs) -> Result<Status, CommandError> {
    ui.put(&script(args.shell))?;
    Ok(Status::Fine)
}

/// The completions of a shell.
pub fn script(shell: CompletedShell) -> String {
    let shell = match shell {
        CompletedShell::Bash => Shell::Bash,
        CompletedShell::Zsh => Shell::Zsh,
        CompletedShell::Fish => Shell::Fish,
    };
    let mut out = Vec::new();
    generate(shell, &mut completed(), "bradawl", &mut out);
    with_devices(shell, &String::from_utf8_lossy(&out))
}

/// The script with the names of this host's devices, which only the shell can
/// know when it completes.
fn with_devices(shell: Shell, script: &str) -> String {
    match shell {
        Shell::Bash => format!("{script}{}", include_str!("devices.bash")),
        Shell::Fish => format!("{script}{}", include_str!("devices.fish")),
        _ => {
            // The first line tells zsh which command the file is for.
            let (head, rest) = script.split_once('\n').unwrap_or((script, ""));
            let rest = rest.replace(MARKED, "_bradawl_devices");
            format!("{head}\n{}{rest}", include_str!("devices.zsh"))
        }
    }
}

/// What a place for a device's name completes in zsh until it is replaced: no
/// argument of the program takes an e-mail address.
const MARKED: &str = "_email_addresses";
const DEVICE: ValueHint = ValueHint::EmailAddress;

/// The command line with the values that are offered: names that are known
/// beforehand, files for the rest. The program itself accepts more.
fn completed() -> Command {
    let rules: Vec<&'static str> = RULES.iter().map(|r| r.slug).collect();
    let types: Vec<&'static str> = all_names().collect();
    let rows = all_types().flat_map(rows_of).chain(rows_of("common"));
    let options: BTreeSet<&'static str> = rows.map(|row| row.name).collect();
    let sorts = ["uuid", "label", "partuuid", "partlabel", "id", "path"];
    let mut command = Cli::command();
    let names: Vec<String> = command.get_subcommands().map(|c| c.get_name().to_owned()).collect();
    for name in names {
        command = command.mut_subcommand(name.clone(), |sub| {
            sub.mut_args(|arg| match arg.get_id().as_str() {
                _ if !arg.get_action().takes_values() => arg,
                // Parts, which the command line itself lists.
                "only" if name == "install" => arg,
                "only" | "rules" => arg.value_parser(PossibleValuesParser::new(&rules)),
                "fstype" => arg.value_parser(PossibleValuesParser::new(&types)),
                "option" | "options" => arg.value_parser(PossibleValuesParser::new(&options)),
                "by" => arg.value_parser(PossibleValuesParser::new(sorts)),
                "names" | "source" => arg.value_hint(DEVICE),
                "tree" | "from_collected" | "all" | "surveys" => arg.value_hint(ValueHint::DirPath),
                "host" | "hosts" | "table" | "disk" | "since" | "policy" | "baseline" | "output" | "into"
                | "file" | "replace" | "on" | "ssh_config" | "write_baseline" => {
                    arg.value_hint(ValueHint::AnyPath)
                }
                "target" => arg.value_hint(ValueHint::DirPath),
                _ => arg,
            })
        });
    }
    command
}
