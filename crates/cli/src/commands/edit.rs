//! A table in the user's editor, judged before it is written.

use crate::args::EditArgs;
use crate::input::{self, Host};
use crate::outcome::{CommandError, Status};
use crate::policy::{self, InForce};
use crate::rehearsed::{objections, of_change};
use crate::settings::Settings;
use crate::store::Target;
use crate::ui::Ui;
use crate::views;
use crate::views::edit::Answer;
use crate::written;
use bradawl_boot::Forecast;
use bradawl_change::aftermath::aftermath;
use bradawl_change::mend::{Wish, mend, worse};
use bradawl_documents::RehearseReport;
use bradawl_facts::Consequence;
use bradawl_facts::record::TableFile;
use bradawl_facts::table::Table;
use bradawl_judgement::{Against, Judgement, judge_against};
use std::ffi::OsString;
use std::io::{self, BufRead as _, IsTerminal as _, Write as _};
use std::os::unix::fs::{OpenOptionsExt as _, PermissionsExt as _};
use std::path::{Path, PathBuf};
use std::process::Command;

/// Editors that begin on a line that is given as `+LINE`.
const BY_PLUS: [&str; 9] = ["vi", "vim", "nvim", "nano", "emacs", "joe", "mcedit", "micro", "vim.basic"];
/// No table is larger.
const MAX_BYTES: u64 = 16 << 20;

/// What is edited, and by what it is judged.
struct Work<'a> {
    args: &'a EditArgs,
    force: InForce,
    target: Target<'a>,
    old: Table,
    copy: PathBuf,
}

/// The text as it came out of the editor, judged.
struct Tried {
    host: Host,
    new: Table,
    before: Judgement,
    after: Judgement,
    /// What mounting the changed lines came to, where they are this host's own.
    rehearsal: Option<RehearseReport>,
}

pub fn run(ui: &Ui, args: &EditArgs, settings: &Settings) -> Result<Status, CommandError> {
    let terminal = io::stdin().is_terminal() && io::stderr().is_terminal();
    if !args.answers && !terminal {
        let why = "needs a terminal; without one judge with \"bradawl audit --table\", and change with \"bradawl mend --edit\"";
        return Err(CommandError::input("edit", why));
    }
    let path = args.table.clone().unwrap_or_else(|| "/etc/fstab".into());
    let tree = path.is_dir();
    let target = if tree { Target::Tree(&path) } else { Target::File(&path) };
    let real = if tree { path.join("etc/fstab") } else { path.clone() };
    let bytes = input::file(&real, MAX_BYTES)?;
    // Where only its owner may read it, others learn nothing from the copy either.
    let folder = tempfile::Builder::new().prefix("bradawl.").tempdir();
    let folder = folder.map_err(|e| CommandError::input("edit", e))?;
    let copy = folder.path().join("fstab");
    put(&copy, &bytes)?;
    let work = Work {
        args,
        force: policy::in_force(&args.policy, settings)?,
        target,
        old: Table::parse(bytes),
        copy,
    };
    let ended = work.rounds(ui);
    // What was typed and could not be written is not thrown away.
    if ended.is_err() && std::fs::read(&work.copy).is_ok_and(|now| now != work.old.bytes()) {
        let kept = folder.keep().join("fstab");
        crate::ui::remark(&format!("your text is kept in {}\n", kept.display()));
    }
    ended
}

impl Work<'_> {
    fn rounds(&self, ui: &Ui) -> Result<Status, CommandError> {
        let mut line = None;
        loop {
            open_editor(&self.copy, line)?;
            let text = input::file(&self.copy, MAX_BYTES)?;
            if text == self.old.bytes() {
                ui.print(&views::edit::unchanged(&written::shown(self.target)))?;
                return Ok(Status::Fine);
            }
            let mut tried = self.tried(Table::parse(text))?;
            loop {
                self.show(ui, &tried)?;
                match self.answer(&tried)? {
                    Answer::Write => return self.write(ui, &tried),
                    Answer::Leave => return Ok(Status::Found),
                    Answer::Again => break,
                    Answer::Repair => tried = self.repaired(tried)?,
                }
            }
            line = tried
                .after
                .findings
                .iter()
                .filter(|f| f.consequence < Consequence::Note)
                .find_map(|f| f.line);
        }
    }

    fn against(&self) -> Against<'_> {
        Against { policy: self.force.policy.as_ref(), earlier: None, today: policy::today(), fixes: true }
    }

    fn tried(&self, new: Table) -> Result<Tried, CommandError> {
        let name = written::shown(self.target);
        let files =
            vec![TableFile::new(&name, new.bytes().to_vec()), TableFile::new("", self.old.bytes().to_vec())];
        let tree = match self.target {
            Target::Tree(root) => Some(root.display().to_string()),
            Target::File(_) => None,
        };
        let host = input::host_with(self.args.host.as_deref().or(tree.as_deref()), &self.args.with, files)?;
        let judged = |table: &Table| judge_against(&host.record, table, &self.against());
        let (before, after) = (judged(&self.old), judged(&new));
        let own = self.is_own() && self.args.host.is_none();
        let rehearsal = own.then(|| of_change(&host.record, &name, &self.old, &new)).flatten();
        Ok(Tried { host, new, before, after, rehearsal })
    }

    /// Whether the table is the one that this host boots with.
    fn is_own(&self) -> bool {
        matches!(self.target, Target::File(path) if path == Path::new("/etc/fstab"))
    }

    /// With the safe repairs of what was found.
    fn repaired(&self, tried: Tried) -> Result<Tried, CommandError> {
        let mending = mend(&tried.host.record, &tried.new, &self.against(), &Wish::default(), None)
            .map_err(|e| CommandError::input("edit", e))?;
        put(&self.copy, mending.table.bytes())?;
        self.tried(Table::parse(mending.table.bytes()))
    }

    fn show(&self, ui: &Ui, tried: &Tried) -> Result<(), CommandError> {
        let name = written::shown(self.target);
        let file = TableFile::new(&name, tried.new.bytes().to_vec());
        let judged = super::judged::one(&tried.host, Some(&file), &self.against(), true)?;
        let diff = views::mend::diff(&name, &self.old, &tried.new);
        let boots = (&tried.before.forecast, &tried.after.forecast);
        ui.print(&views::edit::tried(&diff, judged.audited, tried.rehearsal.as_ref(), boots, ui))?;
        Ok(())
    }

    /// Asks what to do; the end of the input leaves.
    fn answer(&self, tried: &Tried) -> Result<Answer, CommandError> {
        let contradicted = tried.rehearsal.iter().any(|r| !objections(r).is_empty());
        let stops = contradicted || stops(&tried.before.forecast, &tried.after.forecast);
        let repairs = tried.after.findings.iter().any(|f| f.fixes.iter().any(|fix| fix.safe));
        loop {
            let mut out = anstream::AutoStream::auto(io::stderr().lock());
            write!(out, "{}", views::edit::question(stops, repairs)).and_then(|()| out.flush())?;
            drop(out);
            let mut text = String::new();
            if io::stdin().lock().read_line(&mut text)? == 0 {
                return Ok(Answer::Leave);
            }
            match (text.trim(), stops) {
                ("e" | "edit", _) => return Ok(Answer::Again),
                ("q" | "quit", _) => return Ok(Answer::Leave),
                ("r" | "repair", _) if repairs => return Ok(Answer::Repair),
                ("w" | "write", false) | ("write anyway", true) => return Ok(Answer::Write),
                _ => {}
            }
        }
    }

    fn write(&self, ui: &Ui, tried: &Tried) -> Result<Status, CommandError> {
        let file = written::replace(self.target, &self.old, &tried.new, Vec::new())?;
        // A table of another place tells the running system nothing.
        let steps =
            if self.is_own() { aftermath(&tried.host.record, &self.old, &tried.new) } else { Vec::new() };
        let worse = worse(&tried.before, &tried.after);
        ui.print(&views::edit::written(&file, &worse, &steps, ui.width()))?;
        Ok(Status::Fine)
    }
}

/// Whether the new table stops a boot that the old one did not.
fn stops(before: &Forecast, after: &Forecast) -> bool {
    before.outcome.reaches_login() && !after.outcome.reaches_login()
}

fn put(copy: &Path, bytes: &[u8]) -> Result<(), CommandError> {
    let failed = |e| CommandError::input(copy.display().to_string(), input::plain(&e));
    let mut open = std::fs::OpenOptions::new();
    let file = open.write(true).create(true).truncate(true).mode(0o600).open(copy);
    file.and_then(|mut file| file.write_all(bytes)).map_err(failed)
}

/// Runs the editor until it ends. Its name may come with options, so that a shell
/// reads it, as other programs have it read; the file is no part of that text.
fn open_editor(copy: &Path, line: Option<usize>) -> Result<(), CommandError> {
    let named = |name: &str| std::env::var_os(name).filter(|v| !v.is_empty());
    let editor = named("VISUAL")
        .or_else(|| named("EDITOR"))
        .or_else(installed)
        .ok_or_else(|| CommandError::input("edit", "no editor: set VISUAL or EDITOR"))?;
    let program = editor.to_string_lossy();
    let program =
        program.split_whitespace().next().unwrap_or_default().rsplit('/').next().unwrap_or_default();
    let at = line.filter(|_| BY_PLUS.contains(&program)).map(|line| format!("+{line}"));
    let mut command = Command::new("/bin/sh");
    let mut script = editor.clone();
    script.push(" \"$@\"");
    command.arg("-c").arg(script).arg("sh").args(at).arg(copy);
    let status =
        command.status().map_err(|e| CommandError::input(editor.to_string_lossy(), input::plain(&e)))?;
    if status.success() {
        return Ok(());
    }
    let why = format!("the editor ended with {status}: nothing is written");
    Err(CommandError::input(editor.to_string_lossy(), why))
}

/// The editor that is there where none is set.
fn installed() -> Option<OsString> {
    let found = |name: &&str| {
        let path = Path::new("/usr/bin").join(name);
        std::fs::metadata(path).is_ok_and(|m| m.is_file() && m.permissions().mode() & 0o111 != 0)
    };
    ["editor", "vi", "nano"].into_iter().find(|name| found(name)).map(OsString::from)
}
