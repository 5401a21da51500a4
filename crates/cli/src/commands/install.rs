//! `install` and `uninstall`: the same list, written and taken away.

use crate::args::{Format, InstallArgs, RootArgs, UninstallArgs};
use crate::believed::believed;
use crate::install::{Plan, pieces, read_list, uninstall};
use crate::outcome::{CommandError, Status};
use crate::ui::Ui;
use crate::views;
use bradawl_documents::{InstallReport, NextCommand, Part};
use std::path::{Path, PathBuf};

const SCHEMA: &str = "bradawl.install/1";

/// Units that somebody may have enabled.
const ENABLED: [&str; 6] = [
    "bradawl-audit.timer",
    "bradawl-before.service",
    "bradawl-guard.path",
    "bradawl-hindsight.service",
    "bradawl-watch.path",
    "bradawl-watch.service",
];

pub fn install(ui: &Ui, args: &InstallArgs) -> Result<Status, CommandError> {
    let root = root(&args.where_to)?;
    let program = program(args, &root)?;
    let parts: Vec<Part> = match args.only.as_slice() {
        // A hook is in force as soon as it is there.
        [] => vec![Part::Units, Part::Completions, Part::Man],
        some => Part::ALL.into_iter().filter(|part| some.iter().any(|chosen| chosen.0 == *part)).collect(),
    };
    let pieces = pieces(&root, &parts, &program)?;
    if pieces.is_empty() {
        return Err(CommandError::input("--only hooks", "neither apt nor dnf is here to read them"));
    }
    let plan = Plan::new(&root, &pieces)?;
    let files = plan.files();
    if !args.where_to.dry_run {
        plan.write()?;
    }
    let next = if parts.contains(&Part::Units) { next() } else { Vec::new() };
    show(
        ui,
        &args.where_to,
        InstallReport { schema: SCHEMA, uninstalled: false, dry_run: args.where_to.dry_run, files, next },
    )
}

pub fn remove(ui: &Ui, args: &UninstallArgs) -> Result<Status, CommandError> {
    let root = root(&args.where_to)?;
    let none =
        || CommandError::input("/var/lib/bradawl/installed.json", "nothing was put in place by install");
    let list = read_list(&root)?.ok_or_else(none)?;
    if let Some(unit) = enabled(&root) {
        let why = format!("it is enabled: systemctl disable --now {unit}");
        return Err(CommandError::input(unit, why));
    }
    let files = uninstall(&root, &list, args.where_to.dry_run)?;
    let reload = NextCommand { command: "systemctl daemon-reload", what: "has systemd forget the units" };
    let next = if files.iter().any(|f| f.part == Part::Units) { vec![reload] } else { Vec::new() };
    show(
        ui,
        &args.where_to,
        InstallReport { schema: SCHEMA, uninstalled: true, dry_run: args.where_to.dry_run, files, next },
    )
}

fn show(ui: &Ui, args: &RootArgs, report: InstallReport) -> Result<Status, CommandError> {
    match args.format {
        Format::Json => views::json(ui, &report)?,
        Format::Text => ui.print(&views::install::text(&report, ui.width()))?,
    }
    Ok(Status::Fine)
}

fn root(args: &RootArgs) -> Result<PathBuf, CommandError> {
    let real = args.root.canonicalize().ok().filter(|p| p.is_dir());
    real.ok_or_else(|| CommandError::input(args.root.display().to_string(), "it is no directory"))
}

/// The program that root's units run: nobody else may write it.
fn program(args: &InstallArgs, root: &Path) -> Result<String, CommandError> {
    let wrong = |path: &Path, why: String| CommandError::input(path.display().to_string(), why);
    let path = match &args.program {
        Some(path) => path.clone(),
        None if root != Path::new("/") => PathBuf::from("/usr/local/bin/bradawl"),
        None => std::env::current_exe().map_err(|e| wrong(Path::new("/proc/self/exe"), e.to_string()))?,
    };
    let name = path.to_string_lossy().into_owned();
    let plain = |c: char| c.is_ascii_alphanumeric() || "/._-+".contains(c);
    if !path.is_absolute() || !name.chars().all(plain) {
        return Err(wrong(&path, "units need an absolute path of plain letters and digits".to_owned()));
    }
    let run_by_root =
        args.only.is_empty() || args.only.iter().any(|c| matches!(c.0, Part::Units | Part::Hooks));
    if root == Path::new("/") && run_by_root {
        believed(&path).map_err(|why| wrong(&path, format!("root's units must not run it: {why}")))?;
    }
    Ok(name)
}

/// A unit that somebody enabled.
fn enabled(root: &Path) -> Option<&'static str> {
    let folders: Vec<PathBuf> = ["multi-user.target.wants", "timers.target.wants", "local-fs.target.wants"]
        .iter()
        .map(|folder| root.join("etc/systemd/system").join(folder))
        .collect();
    ENABLED.into_iter().find(|unit| folders.iter().any(|f| f.join(unit).symlink_metadata().is_ok()))
}

fn next() -> Vec<NextCommand> {
    [
        ("systemctl daemon-reload", "has systemd see the units"),
        ("systemctl enable --now bradawl-watch.path", "audits when a table changes"),
        ("systemctl enable --now bradawl-guard.path", "holds shutdowns while the next boot would stop"),
        ("systemctl enable --now bradawl-audit.timer", "audits every day"),
        ("systemctl enable --now bradawl-before.service", "keeps the state before a shutdown"),
        ("systemctl enable bradawl-hindsight.service", "holds each boot against its forecast"),
        ("bradawl install --only hooks", "judges the boot after packages changed (apt, dnf)"),
    ]
    .map(|(command, what)| NextCommand { command, what })
    .to_vec()
}
