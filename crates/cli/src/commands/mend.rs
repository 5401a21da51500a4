use super::mend_many;
use crate::args::{MendArgs, MendFormat};
use crate::fleet;
use crate::input::{self, Host};
use crate::outcome::{CommandError, Status};
use crate::policy::{self, InForce};
use crate::rehearsed::{objections, of_change};
use crate::settings::Settings;
use crate::store::{self, Target};
use crate::ui::Ui;
use crate::views;
use crate::written;
use bradawl_change::aftermath::{aftermath, beside};
use bradawl_change::mend::{Choose, Mending, Wish, mend};
use bradawl_documents::{HistoryReport, MendReport, TableWrite};
use bradawl_facts::Consequence;
use bradawl_facts::record::TableFile;
use bradawl_facts::table::Table;
use bradawl_judgement::rules::{Finding, Fix, RULES};
use bradawl_judgement::status::Counted;
use bradawl_judgement::{Against, judge_against};
use std::io::{self, BufRead as _, IsTerminal as _, Write as _};

pub fn run(ui: &Ui, args: &MendArgs, settings: &Settings) -> Result<Status, CommandError> {
    match () {
        () if args.history => return history(ui, args),
        () if args.undo => return undo(ui, args, settings),
        () => {}
    }
    if let Some(unknown) = args.only.iter().find(|name| !RULES.iter().any(|r| r.slug == name.as_str())) {
        return Err(CommandError::input(unknown.as_str(), "there is no rule of this name"));
    }
    if let Some(arg) = args.host.as_ref().filter(|arg| fleet::is_many(arg)) {
        return mend_many::run(ui, args, arg, settings);
    }
    if args.into.is_some() {
        let why = "is of many hosts: give a directory of records; --write writes the table of one";
        return Err(CommandError::input("--into", why));
    }
    let given = args.table.as_deref().map(input::table).transpose()?;
    let mut host = input::host(args.host.as_deref(), &args.with, given.as_ref())?;
    input::boot_with(&mut host.record, args.init.as_ref());
    let file = input::chosen(&host, given.as_ref())?;
    let table = input::parsed(file)?;
    let force = policy::in_force(&args.policy, settings)?;
    let (mut report, new, counted) = repaired(&host, file, &table, args, &force)?;
    if args.write && new != table && args.host.is_none() && is_own(&file.path) {
        report.rehearsal = of_change(&host.record, &file.path, &table, &new);
        report.worse.extend(report.rehearsal.iter().flat_map(objections));
    }
    let refused = !report.worse.is_empty() && !args.even_if_worse;
    if args.write && !refused && new != table {
        report.written = Some(written::replace(target(args)?, &table, &new, Vec::new())?);
    }
    show(ui, args, &report, (&table, &new))?;
    if args.write && refused {
        return Err(CommandError::input(
            report.table,
            "not written: something gets worse (--even-if-worse writes it)",
        ));
    }
    Ok(counted.status(Some(Consequence::Missing)))
}

/// The repair of a host's table, with the new table and what counts for the exit
/// status.
pub(super) fn repaired(
    host: &Host,
    file: &TableFile,
    table: &Table,
    args: &MendArgs,
    force: &InForce,
) -> Result<(MendReport, Table, Counted), CommandError> {
    let mending = mended(host, table, args, force)?;
    let mut counted = Counted::new(&mending.after.forecast, &mending.after.applied);
    counted.tell(&mending.after.findings);
    let new = Table::parse(mending.table.bytes());
    let mut report = MendReport::new(&host.record.host.name, &file.path, table, mending);
    report.ignored.clone_from(&force.ignored);
    finish(&mut report, args, host, (table, &new));
    Ok((report, new, counted))
}

/// What is to be done beside the table, and after it was written.
fn finish(report: &mut MendReport, args: &MendArgs, host: &Host, (old, new): (&Table, &Table)) {
    report.beside = beside(&host.record, new);
    // A table of another place tells the running system nothing.
    if args.table.as_deref().is_none_or(is_own) {
        report.steps = aftermath(&host.record, old, new);
    }
}

fn show(
    ui: &Ui,
    args: &MendArgs,
    report: &MendReport,
    (old, new): (&Table, &Table),
) -> Result<(), CommandError> {
    match args.format {
        MendFormat::Text => ui.print(&views::mend::text(report, old, new, ui.width()))?,
        MendFormat::Diff => ui.print(&views::mend::diff(&report.table, old, new))?,
        MendFormat::Json => views::json(ui, report)?,
    }
    Ok(())
}

/// Whether a file is the table that this host boots with, by whatever path.
fn is_own(file: &str) -> bool {
    let real = std::fs::canonicalize(file).ok();
    real.is_some() && real == std::fs::canonicalize("/etc/fstab").ok()
}

fn mended(host: &Host, table: &Table, args: &MendArgs, force: &InForce) -> Result<Mending, CommandError> {
    let against =
        Against { policy: force.policy.as_ref(), earlier: None, today: policy::today(), fixes: true };
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

/// The file that is written: the one given, the host's own, a tree's.
fn target(args: &MendArgs) -> Result<Target<'_>, CommandError> {
    let none = |what: &str| {
        CommandError::input("--write", format!("{what} has no file to write; give one with --table FILE"))
    };
    match (args.table.as_deref(), args.host.as_deref()) {
        (Some("-"), _) => Err(none("standard input")),
        (Some(file), _) => Ok(Target::File(file.as_ref())),
        (None, None) => Ok(Target::File("/etc/fstab".as_ref())),
        (None, Some(tree)) if input::is_tree(tree) => Ok(Target::Tree(tree.as_ref())),
        (None, Some(other)) => Err(none(other)),
    }
}

/// The writes of the table, from its history.
fn history(ui: &Ui, args: &MendArgs) -> Result<Status, CommandError> {
    let target = target(args)?;
    let failed = |e| CommandError::input(written::shown(target), e);
    let (entries, changed) = store::history(target).map_err(failed)?;
    let report = HistoryReport {
        schema: "bradawl.history/1",
        table: written::shown(target),
        changed,
        writes: entries.into_iter().map(write_of).collect(),
    };
    match args.format {
        MendFormat::Json => views::json(ui, &report)?,
        _ => ui.print(&views::mend::history(&report, ui.width()))?,
    }
    Ok(Status::Fine)
}

fn write_of(entry: store::Entry) -> TableWrite {
    let store::Entry { at, uid, sudo_uid, command, before, after, backup, undoes } = entry;
    TableWrite { at, uid, sudo_uid, command, before, after, backup, undoes }
}

/// Takes a write back: shown and judged like any other write, then made.
fn undo(ui: &Ui, args: &MendArgs, settings: &Settings) -> Result<Status, CommandError> {
    let target = target(args)?;
    let failed = |e| CommandError::input(written::shown(target), e);
    let past = store::past(target, args.to).map_err(failed)?;
    let (old, new) = (Table::parse(past.now.clone()), Table::parse(past.before.clone()));
    let (file, goal) = (TableFile::new(written::shown(target), past.now), TableFile::new("", past.before));
    let mut host = input::host_with(args.host.as_deref(), &args.with, vec![file.clone(), goal])?;
    input::boot_with(&mut host.record, args.init.as_ref());
    let force = policy::in_force(&args.policy, settings)?;
    let against =
        Against { policy: force.policy.as_ref(), earlier: None, today: policy::today(), fixes: true };
    let judged = |table: &Table| judge_against(&host.record, table, &against);
    let after = judged(&new);
    let mut counted = Counted::new(&after.forecast, &after.applied);
    counted.tell(&after.findings);
    let mut report =
        MendReport::back(&host.record.host.name, &file.path, (&old, judged(&old)), (&new, after));
    report.ignored.clone_from(&force.ignored);
    // What a repair had mended is worse again: that is what was asked for. A boot that stops is not.
    let stops = report.before.outcome.reaches_login() && !report.after.outcome.reaches_login();
    let objection = match () {
        () if past.changed && !args.even_if_changed => Some(
            "it was changed since bradawl wrote it, by hand or by another program (--even-if-changed goes back all the same, and keeps the present text beside it)",
        ),
        () if stops && !args.even_if_worse => {
            Some("the boot will stop by going back (--even-if-worse goes back all the same)")
        }
        () => None,
    };
    if objection.is_none() {
        report.written = Some(written::replace(target, &old, &new, past.undoes)?);
    }
    report.undone = Some(write_of(past.entry));
    finish(&mut report, args, &host, (&old, &new));
    show(ui, args, &report, (&old, &new))?;
    match objection {
        Some(why) => Err(CommandError::input(report.table, format!("not written: {why}"))),
        None => Ok(counted.status(Some(Consequence::Missing))),
    }
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
