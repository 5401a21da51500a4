//! From the HOST arguments to records, and from `--table` to a table.

use crate::outcome::CommandError;
use bradawl_core::record::{MAX_BYTES, RawBytes, Record, TableFile};
use bradawl_core::table::{self, Table};
use bradawl_survey::Survey;
use std::fs::File;
use std::io::{self, Read};
use std::path::{Path, PathBuf};

/// A record and the name it was asked for by.
pub struct Host {
    pub record: Record,
}

/// Reads one host: this one, a record, or standard input.
pub fn host(arg: Option<&str>, table: Option<&TableFile>) -> Result<Host, CommandError> {
    match arg {
        None => {
            let survey = Survey { tables: table.cloned().into_iter().collect(), ..Survey::default() };
            Ok(Host { record: survey.live()? })
        }
        Some("-") => record("standard input", io::stdin().lock()),
        Some(path) => {
            let file = open(Path::new(path))?;
            record(path, file)
        }
    }
}

/// The records an argument stands for: a folder stands for all in it.
pub fn spread(arg: &str) -> Result<Vec<String>, CommandError> {
    let path = Path::new(arg);
    if arg == "-" || !path.is_dir() {
        return Ok(vec![arg.to_owned()]);
    }
    if path.join("etc/fstab").exists() {
        return Err(CommandError::input(
            arg,
            "this is a host's tree; only records and folders of records can be read so far",
        ));
    }
    let entries = std::fs::read_dir(path).map_err(|e| CommandError::input(arg, plain(&e)))?;
    let mut records: Vec<PathBuf> =
        entries.flatten().map(|e| e.path()).filter(|p| p.extension().is_some_and(|e| e == "json")).collect();
    records.sort();
    if records.is_empty() {
        return Err(CommandError::input(arg, "the folder holds no record (*.json)"));
    }
    Ok(records.into_iter().map(|p| p.to_string_lossy().into_owned()).collect())
}

fn record(name: &str, reader: impl Read) -> Result<Host, CommandError> {
    let bytes = bounded(name, reader, MAX_BYTES)?;
    let record = Record::from_json(&bytes).map_err(|e| CommandError::input(name, e))?;
    Ok(Host { record })
}

/// Reads the table given with `--table`.
pub fn table(arg: &str) -> Result<TableFile, CommandError> {
    let limit = table::MAX_BYTES as u64;
    let (name, bytes) = match arg {
        "-" => ("standard input", bounded("standard input", io::stdin().lock(), limit)?),
        path => (path, bounded(path, open(Path::new(path))?, limit)?),
    };
    Ok(TableFile { path: name.to_owned(), bytes: RawBytes::new(bytes), mode: None, uid: None, gid: None })
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

fn open(path: &Path) -> Result<File, CommandError> {
    let name = path.display().to_string();
    let file = File::open(path).map_err(|e| CommandError::input(&name, plain(&e)))?;
    match file.metadata() {
        Ok(meta) if meta.is_dir() => Err(CommandError::input(&name, "is a folder, not a file")),
        _ => Ok(file),
    }
}

fn bounded(name: &str, reader: impl Read, limit: u64) -> Result<Vec<u8>, CommandError> {
    let mut bytes = Vec::new();
    reader.take(limit + 1).read_to_end(&mut bytes).map_err(|e| CommandError::input(name, plain(&e)))?;
    if bytes.len() as u64 > limit {
        let size = bradawl_core::size::binary(limit);
        return Err(CommandError::input(name, format!("is larger than {size}, more than any real one")));
    }
    Ok(bytes)
}

/// The operating system's words without its error number.
fn plain(error: &io::Error) -> String {
    let text = error.to_string();
    text.split(" (os error").next().unwrap_or(&text).to_owned()
}
