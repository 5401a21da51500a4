//! From the HOST arguments to records, and from `--table` to a table.

use crate::args::{Asking, JudgeArgs, WithArgs};
use crate::outcome::CommandError;
pub use crate::outcome::plain;
use bradawl_facts::record::{CommandLine, Init, MAX_BYTES, Origin, Record, TableFile};
use bradawl_facts::table;
use bradawl_facts::table::Table;
use bradawl_survey::Survey;
use std::fs::File;
use std::io::{self, Read};
use std::path::{Path, PathBuf};
use std::time::Duration;

/// Room for most records: they are read in one piece.
const USUAL_BYTES: usize = 16 << 10;

/// A record and the name it was asked for by.
pub struct Host {
    pub record: Record,
}

/// Reads one host: this one, a record, a tree, an image, standard input.
pub fn host(arg: Option<&str>, with: &WithArgs, table: Option<&TableFile>) -> Result<Host, CommandError> {
    host_with(arg, with, table.cloned().into_iter().collect())
}

/// The same, with facts about what several tables name.
pub fn host_with(arg: Option<&str>, with: &WithArgs, tables: Vec<TableFile>) -> Result<Host, CommandError> {
    let survey = survey(tables);
    let record = match arg {
        None if with.disk.is_empty() => survey.live()?,
        None => survey.images(&with.disk)?,
        Some("-") => record("standard input", io::stdin().lock())?,
        Some(path) if is_tree(path) => survey.tree(Path::new(path), with.live_devices, &with.disk)?,
        Some(path) => match record_in(path)? {
            Some(reader) => record(path, reader)?,
            None => {
                let images: Vec<PathBuf> =
                    std::iter::once(PathBuf::from(path)).chain(with.disk.clone()).collect();
                survey.images(&images)?
            }
        },
    };
    Ok(Host { record })
}

/// A survey by this program, with these tables beside the host's own.
pub fn survey(tables: Vec<TableFile>) -> Survey {
    let arguments = ["survey", "--look"].map(str::to_owned).to_vec();
    let helper = this_program(arguments);
    Survey { tables, helper: Some(helper), ..Survey::default() }
}

/// This program as a process of its own.
fn this_program(arguments: Vec<String>) -> bradawl_survey::Helper {
    bradawl_survey::Helper { program: "/proc/self/exe".into(), arguments }
}

/// Puts another init system in place of the host's own; its time limits stay
/// when it is of the same kind.
pub fn boot_with(record: &mut Record, init: Option<&Init>) {
    let Some(given) = init else { return };
    let own = record.host.init.take().filter(|own| own.kind == given.kind);
    let version = given.version.clone().or(own.as_ref().and_then(|o| o.version.clone()));
    record.host.init = Some(Init { version, ..own.unwrap_or_else(|| given.clone()) });
}

/// The time that the host's own generator gets: unasked for, and asked for.
const UNASKED: Duration = Duration::from_millis(100);
const ASKED: Duration = Duration::from_secs(5);

/// Has this host's own generator say what it makes of the table that is judged; that
/// of a root directory only when it is asked for. `arg` is what the host was asked
/// for by.
pub fn ask_generator(
    host: &mut Host,
    arg: Option<&String>,
    given: Option<&TableFile>,
    judge: &JudgeArgs,
) -> Result<(), CommandError> {
    let facts = &host.record.host;
    let live = arg.is_none() && facts.origin == Some(Origin::Live);
    let usual = live
        && facts.runs_systemd()
        && facts.container != Some(true)
        && facts.privileges.is_some_and(|p| p.uid == 0)
        && judge.init.is_none();
    let asked = judge.ask_generator == Asking::Always;
    let tree = arg.filter(|path| asked && is_tree(path)).map(Path::new);
    let limit = match judge.ask_generator {
        Asking::Always if !live && tree.is_none() => {
            let why = "only this host's own generator is asked, or that of a root directory";
            return Err(CommandError::input("--ask-generator", why));
        }
        Asking::Always => ASKED,
        Asking::Auto if usual => UNASKED,
        Asking::Auto | Asking::Never => return Ok(()),
    };
    let Some(table) = given.or(host.record.tables.first()).and_then(|t| t.bytes.bytes()) else {
        return Ok(());
    };
    let said = match tree {
        None => bradawl_survey::ask_generator(&table, limit),
        Some(tree) => {
            let helper = this_program(["survey", "--generate"].map(str::to_owned).to_vec());
            let line = CommandLine::of(&host.record).text().to_owned();
            bradawl_survey::ask_generator_of(tree, &table, &line, limit, &helper)
        }
    };
    match said {
        Ok(generated) => host.record.generated = Some(generated),
        Err(e) if asked => {
            return Err(CommandError::input("--ask-generator", e));
        }
        Err(_) => {}
    }
    Ok(())
}

/// Whether a directory is some host's root: it has an etc/fstab of whatever
/// kind, also by links that lead elsewhere from here.
pub fn is_tree(path: &str) -> bool {
    bradawl_survey::is_tree(Path::new(path))
}

/// The bytes of a record, from its beginning; `None`: it is an image. A record
/// is called one, or begins as JSON does. Opened once: a pipe is read once.
fn record_in(path: &str) -> Result<Option<impl Read>, CommandError> {
    let mut file = open(Path::new(path))?;
    let mut start = Vec::new();
    let read = file.by_ref().take(64).read_to_end(&mut start);
    let read = read.map_err(|e| CommandError::input(path, plain(&e)))?;
    let first = start.iter().find(|b| !b.is_ascii_whitespace());
    let is_record = path.ends_with(".json") || first == Some(&b'{') || read == 0;
    Ok(is_record.then(|| io::Cursor::new(start).chain(file)))
}

/// The requests of a host's own table; none when it has no table.
pub fn own_table(record: &Record) -> Result<Table, CommandError> {
    record.tables.first().map_or_else(|| Ok(Table::parse("")), parsed)
}

/// Reads a record.
pub fn record(name: &str, reader: impl Read) -> Result<Record, CommandError> {
    of_bytes(name, &bounded(name, reader, MAX_BYTES)?)
}

/// The record that bytes hold.
pub fn of_bytes(name: &str, bytes: &[u8]) -> Result<Record, CommandError> {
    Record::from_json(bytes).map_err(|e| CommandError::input(name, e))
}

/// Reads the record in a file.
pub fn record_file(path: &str) -> Result<Record, CommandError> {
    of_bytes(path, &file(Path::new(path), MAX_BYTES)?)
}

/// Reads the table given with `--table`.
pub fn table(arg: &str) -> Result<TableFile, CommandError> {
    let limit = table::MAX_BYTES as u64;
    let (name, bytes) = match arg {
        "-" => ("standard input", bounded("standard input", io::stdin().lock(), limit)?),
        path => (path, bounded(path, open(Path::new(path))?, limit)?),
    };
    Ok(TableFile::new(name, bytes))
}

/// The table to judge: the one given, else the host's own.
pub fn chosen<'a>(host: &'a Host, given: Option<&'a TableFile>) -> Result<&'a TableFile, CommandError> {
    let name = &host.record.host.name;
    given.or(host.record.tables.first()).ok_or_else(|| {
        let why = host.record.unread.iter().find(|u| u.what == "/etc/fstab");
        let why = why.map(|u| format!(": {}", u.why)).unwrap_or_default();
        CommandError::input(
            name.clone(),
            format!("there is no table to judge{why}; give one with --table FILE"),
        )
    })
}

/// The table in a file, if it is within what can be judged.
pub fn parsed(file: &TableFile) -> Result<Table, CommandError> {
    let bytes = file.bytes.bytes();
    let bytes = bytes.ok_or_else(|| CommandError::input(file.path.clone(), "its base64 is malformed"))?;
    let table = Table::parse(bytes);
    table.check_size().map_err(|e| CommandError::input(file.path.clone(), e))?;
    Ok(table)
}

/// The bytes of a file of bounded size.
pub fn file(path: &Path, limit: u64) -> Result<Vec<u8>, CommandError> {
    bounded(&path.display().to_string(), open(path)?, limit)
}

fn open(path: &Path) -> Result<File, CommandError> {
    let name = path.display().to_string();
    let file = File::open(path).map_err(|e| CommandError::input(&name, plain(&e)))?;
    match file.metadata() {
        Ok(meta) if meta.is_dir() => Err(CommandError::input(&name, "is a directory, not a file")),
        _ => Ok(file),
    }
}

fn bounded(name: &str, reader: impl Read, limit: u64) -> Result<Vec<u8>, CommandError> {
    let mut bytes = Vec::with_capacity(USUAL_BYTES);
    reader.take(limit + 1).read_to_end(&mut bytes).map_err(|e| CommandError::input(name, plain(&e)))?;
    if bytes.len() as u64 > limit {
        let size = bradawl_facts::size::binary(limit);
        return Err(CommandError::input(name, format!("is larger than {size}, more than any real one")));
    }
    Ok(bytes)
}
