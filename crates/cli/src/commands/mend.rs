use crate::args::{MendArgs, MendFormat};
use crate::input::{self, Host};
use crate::outcome::{CommandError, Done};
use crate::policy;
use crate::store;
use crate::ui::Ui;
use crate::views;
use bradawl_core::aftermath::{aftermath, beside};
use bradawl_core::boot::Consequence;
use bradawl_core::judgement::Against;
use bradawl_core::mend::{Choose, Mending, Wish, mend};
use bradawl_core::report::{MendReport, WrittenFile};
use bradawl_core::rules::{Finding, Fix, RULES};
use bradawl_core::table::Table;
use std::io::{self, BufRead as _, IsTerminal as _, Write as _};

pub fn run(ui: &Ui, args: &MendArgs) -> Result<Done, CommandError> {
    if args.undo {
        return undo(ui, args);
    }
    if let Some(unknown) = args.only.iter().find(|name| !RULES.iter().any(|r| r.slug == name.as_str())) {
        return Err(CommandError::input(unknown.as_str(), "there is no rule of this name"));
    }
    let given = args.table.as_deref().map(input::table).transpose()?;
    let mut host = input::host(args.host.as_deref(), &args.with, given.as_ref())?;
    input::boot_with(&mut host.record, args.init.as_ref());
    let file = input::chosen(&host, given.as_ref())?;
    let table = input::parsed(file)?;
    let mending = mended(&host, &table, args)?;
    let new = Table::parse(mending.table.bytes());
    let mut report = MendReport::new(&host.record.host.name, &file.path, &table, mending);
    let refused = !report.worse.is_empty() && !args.even_if_worse;
    if args.write && !refused && new != table {
        report.written = Some(write(args, &table, &new)?);
    }
    report.beside = beside(&host.record, &new);
    // A table of another place tells the running system nothing.
    if args.table.as_deref().is_none_or(is_own) {
        report.steps = aftermath(&host.record, &table, &new);
    }
    match args.format {
        MendFormat::Text => ui.print(&views::mend::text(&report, &table, &new, ui.width()))?,
        MendFormat::Diff => ui.print(&views::mend::diff(&report.table, &table, &new))?,
        MendFormat::Json => views::json(&report)?,
    }
    if args.write && refused {
        return Err(CommandError::input(
            report.table,
            "not written: something gets worse (--even-if-worse writes it)",
        ));
    }
    let worst = report.left.iter().map(|f| f.consequence).min();
    Ok(if worst.is_some_and(|w| w <= Consequence::Missing) { Done::Found } else { Done::Fine })
}

/// Whether a file is the table that this host boots with, by whatever path.
fn is_own(file: &str) -> bool {
    let real = std::fs::canonicalize(file).ok();
    real.is_some() && real == std::fs::canonicalize("/etc/fstab").ok()
}

fn mended(host: &Host, table: &Table, args: &MendArgs) -> Result<Mending, CommandError> {
    let policy = policy::in_force(&args.policy)?;
    let against = Against { policy: policy.as_ref(), earlier: None, today: policy::today() };
    let wish = Wish { changes: args.edit.clone(), only: args.only.clone(), lines: args.line.clone() };
    let mut asker = Asker::default();
    let mut choose = |finding: &Finding, fix: &Fix| asker.ask(table, finding, fix);
    let choose: Option<Choose<'_>> = if args.choose { Some(&mut choose) } else { None };
    mend(&host.record, table, &against, &wish, choose).map_err(|e| CommandError::input("--edit", e))
}

/// Asks about fixes on the terminal; the end of the input answers no to all
/// that is left.
#[derive(Default)]
struct Asker {
    done: bool,
}

impl Asker {
    fn ask(&mut self, table: &Table, finding: &Finding, fix: &Fix) -> bool {
        if self.done {
            return false;
        }
        let mut out = io::stderr().lock();
        let question = views::mend::question(table, finding, fix);
        let shown = if io::stderr().is_terminal() {
            question
        } else {
            anstream::adapter::strip_str(&question).to_string()
        };
        let _ = write!(out, "{shown}").and_then(|()| out.flush());
        let mut answer = String::new();
        self.done = io::stdin().lock().read_line(&mut answer).map_or(true, |read| read == 0);
        match answer.trim() {
            "y" | "yes" => true,
            "q" | "quit" => {
                self.done = true;
                false
            }
            _ => false,
        }
    }
}

/// The file that is written: the one given, the host's own.
fn place(args: &MendArgs) -> Result<String, CommandError> {
    let none = |what: &str| {
        CommandError::input("--write", format!("{what} has no file to write; give one with --table FILE"))
    };
    match (args.table.as_deref(), args.host.as_deref()) {
        (Some("-"), _) => Err(none("standard input")),
        (Some(file), _) => Ok(file.to_owned()),
        (None, None) => Ok("/etc/fstab".to_owned()),
        (None, Some(tree)) if input::is_tree(tree) => Ok(format!("{}/etc/fstab", tree.trim_end_matches('/'))),
        (None, Some(other)) => Err(none(other)),
    }
}

fn write(args: &MendArgs, old: &Table, new: &Table) -> Result<WrittenFile, CommandError> {
    let path = place(args)?;
    let written = store::replace(path.as_ref(), old.bytes(), new.bytes());
    let written = written.map_err(|e| CommandError::input(path, e))?;
    let shown = |path: &std::path::Path| path.display().to_string();
    Ok(WrittenFile { file: shown(&written.file), backup: shown(&written.backup) })
}

fn undo(ui: &Ui, args: &MendArgs) -> Result<Done, CommandError> {
    let path = place(args)?;
    let (written, backup) = store::undo(path.as_ref()).map_err(|e| CommandError::input(path, e))?;
    let file = written.file.display().to_string();
    let kept = written.backup.display().to_string();
    match args.format {
        MendFormat::Json => views::json(&WrittenFile { file, backup: kept })?,
        _ => ui.print(&views::mend::undone(&file, &backup.display().to_string(), &kept, ui.width()))?,
    }
    Ok(Done::Fine)
}

/// The repair of a host that is shown and never written.
pub fn shown(ui: &Ui, host: &Host) -> Result<(), CommandError> {
    let file = input::chosen(host, None)?;
    let table = input::parsed(file)?;
    let mending = mend(&host.record, &table, &Against::default(), &Wish::default(), None)
        .map_err(|e| CommandError::input(file.path.clone(), e))?;
    let new = Table::parse(mending.table.bytes());
    let report = MendReport::new(&host.record.host.name, &file.path, &table, mending);
    Ok(ui.print(&views::mend::text(&report, &table, &new, ui.width()))?)
}
