//! Hosts, entries, devices and findings of a run as four files of columns (Apache
//! Parquet), for query engines. They are written as the hosts come: what is held is
//! one group of rows.

use crate::outcome::CommandError;
use bradawl_boot::Forecast;
use bradawl_documents::HostAudit;
use bradawl_facts::Consequence;
use bradawl_facts::record::{Device, Record};
use bradawl_facts::table::{FieldName, Table};
use parquet::basic::Compression;
use parquet::errors::ParquetError;
use parquet::file::properties::WriterProperties;
use parquet::file::writer::SerializedFileWriter;
use parquet::record::RecordWriter;
use parquet_derive::ParquetRecordWriter;
use serde::Serialize;
use std::fs::File;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use tempfile::NamedTempFile;

/// Rows of a group: what a reader skips or reads at once.
const GROUP: usize = 20_000;

/// A host and its boot.
#[derive(ParquetRecordWriter)]
pub struct HostRow {
    host: String,
    /// Its roles, with a blank between.
    roles: String,
    kernel: Option<String>,
    init: Option<String>,
    init_version: Option<String>,
    table_path: String,
    outcome: Option<String>,
    reaches_login: Option<bool>,
    /// Seconds; null: without end.
    wait_s: Option<f64>,
    verdict: String,
    at_worst: Option<String>,
    halt: u32,
    stall: u32,
    missing: u32,
    risk: u32,
    note: u32,
    silenced: u32,
    /// Seconds since 1970, UTC.
    taken_at_s: Option<u64>,
}

/// A line of a table, and what becomes of it at boot.
#[derive(ParquetRecordWriter)]
pub struct EntryRow {
    host: String,
    line: u32,
    source: String,
    target: String,
    fstype: String,
    options: String,
    dump: i64,
    pass: i64,
    state: String,
    unit: Option<String>,
    /// Seconds; null: without end.
    wait_s: Option<f64>,
    why: String,
}

/// A block device and what it holds.
#[derive(ParquetRecordWriter)]
pub struct DeviceRow {
    host: String,
    path: String,
    kind: String,
    size: Option<u64>,
    model: Option<String>,
    serial: Option<String>,
    /// Devices it is made of, with a blank between.
    parents: String,
    content: Option<String>,
    fstype: Option<String>,
    uuid: Option<String>,
    label: Option<String>,
}

/// A finding.
#[derive(ParquetRecordWriter)]
pub struct FindingRow {
    host: String,
    rule: String,
    consequence: String,
    line: Option<u32>,
    target: Option<String>,
    message: String,
    why: String,
    remedy: String,
}

/// What one host gives to the files.
pub struct Rows {
    host: HostRow,
    entries: Vec<EntryRow>,
    devices: Vec<DeviceRow>,
    findings: Vec<FindingRow>,
}

fn small(n: impl TryInto<u32>) -> u32 {
    n.try_into().unwrap_or(u32::MAX)
}

/// The word of a sort, as in JSON.
fn word(sort: &impl Serialize) -> String {
    let value = serde_json::to_value(sort).ok();
    value.and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

impl Rows {
    /// The rows of a host that is judged.
    pub fn of(record: &Record, table: &Table, audit: &HostAudit, forecast: &Forecast) -> Self {
        let init = record.host.init.as_ref();
        let totals = Consequence::ALL.map(|c| audit.findings.iter().filter(|f| f.consequence == c).count());
        let [halt, stall, missing, risk, note] = totals.map(small);
        let host = HostRow {
            host: String::new(),
            roles: audit.roles.join(" "),
            kernel: record.host.kernel.clone(),
            init: init.map(|i| i.kind.name().to_owned()),
            init_version: init.and_then(|i| i.version.clone()),
            table_path: audit.table.clone(),
            outcome: audit.outcome.map(|o| o.name().to_owned()),
            reaches_login: audit.outcome.map(|o| o.reaches_login()),
            wait_s: audit.stall_s,
            verdict: audit.verdict.clone(),
            at_worst: audit.at_worst.clone(),
            halt,
            stall,
            missing,
            risk,
            note,
            silenced: small(audit.silenced.len()),
            taken_at_s: audit.taken_at_s,
        };
        let findings = audit.findings.iter().map(|f| FindingRow {
            host: String::new(),
            rule: f.rule.to_owned(),
            consequence: f.consequence.name().to_owned(),
            line: f.line.map(small),
            target: f.entry.as_ref().map(|e| e.target.clone()),
            message: f.message.clone(),
            why: f.why.clone(),
            remedy: f.remedy.clone(),
        });
        Rows {
            host,
            entries: entries(table, forecast),
            devices: record.devices().iter().map(device).collect(),
            findings: findings.collect(),
        }
    }
}

fn entries(table: &Table, forecast: &Forecast) -> Vec<EntryRow> {
    let written = table.entries();
    let row = |boot: &bradawl_boot::EntryForecast| {
        let entry = written.iter().find(|e| e.line == boot.line)?;
        let options = entry.span(FieldName::Options);
        Some(EntryRow {
            host: String::new(),
            line: small(entry.line),
            source: boot.source.clone(),
            target: boot.target.clone(),
            fstype: entry.fstype.clone(),
            options: String::from_utf8_lossy(options.map_or(&[], |span| table.slice(span))).into_owned(),
            dump: entry.dump,
            pass: entry.pass,
            state: boot.state.words().to_owned(),
            unit: boot.unit.clone(),
            wait_s: boot.stall_s,
            why: boot.why.clone(),
        })
    };
    forecast.entries.iter().filter_map(row).collect()
}

fn device(device: &Device) -> DeviceRow {
    let content = device.content.as_ref();
    DeviceRow {
        host: String::new(),
        path: device.path.clone(),
        kind: word(&device.kind),
        size: device.size,
        model: device.model.clone(),
        serial: device.serial.clone(),
        parents: device.parents.join(" "),
        content: content.map(|c| c.words().to_owned()),
        fstype: content.and_then(|c| c.fstype.clone()),
        uuid: content.and_then(|c| c.uuid.clone()),
        label: content.and_then(|c| c.label.clone()),
    }
}

/// One file, written group by group; it has its name when it is whole.
struct Sheet<T> {
    path: PathBuf,
    file: NamedTempFile,
    writer: SerializedFileWriter<File>,
    rows: Vec<T>,
}

impl<T> Sheet<T>
where
    for<'a> &'a [T]: RecordWriter<T>,
{
    fn new(folder: &Path, name: &str) -> Result<Self, CommandError> {
        let path = folder.join(format!("{name}.parquet"));
        let failed = |source| CommandError::Output { name: path.display().to_string(), source };
        let file = NamedTempFile::new_in(folder).map_err(failed)?;
        let schema = (&[] as &[T]).schema().map_err(|e| failed(e.into_io()))?;
        let compressed = WriterProperties::builder().set_compression(Compression::SNAPPY).build();
        let open = file.reopen().map_err(failed)?;
        let writer = SerializedFileWriter::new(open, schema, Arc::new(compressed));
        let writer = writer.map_err(|e| failed(e.into_io()))?;
        Ok(Sheet { path, file, writer, rows: Vec::new() })
    }

    fn failed(&self, source: std::io::Error) -> CommandError {
        CommandError::Output { name: self.path.display().to_string(), source }
    }

    fn add(&mut self, rows: impl IntoIterator<Item = T>) -> Result<(), CommandError> {
        self.rows.extend(rows);
        if self.rows.len() < GROUP { Ok(()) } else { self.group() }
    }

    fn group(&mut self) -> Result<(), CommandError> {
        let written = (|| {
            let mut group = self.writer.next_row_group()?;
            self.rows.as_slice().write_to_row_group(&mut group)?;
            group.close()
        })();
        self.rows.clear();
        written.map(drop).map_err(|e| self.failed(e.into_io()))
    }

    fn end(mut self) -> Result<(), CommandError> {
        if !self.rows.is_empty() {
            self.group()?;
        }
        let ended = self.writer.finish().map(drop);
        ended.map_err(|e| self.failed(e.into_io()))?;
        let Sheet { path, file, .. } = self;
        let failed = |source| CommandError::Output { name: path.display().to_string(), source };
        file.as_file().sync_all().map_err(failed)?;
        file.persist(&path).map(drop).map_err(|e| failed(e.error))
    }
}

/// Errors of the format as errors of output.
trait IntoIo {
    fn into_io(self) -> std::io::Error;
}

impl IntoIo for ParquetError {
    fn into_io(self) -> std::io::Error {
        std::io::Error::other(self)
    }
}

/// The four files.
pub struct Sheets {
    hosts: Sheet<HostRow>,
    entries: Sheet<EntryRow>,
    devices: Sheet<DeviceRow>,
    findings: Sheet<FindingRow>,
}

impl Sheets {
    /// Begins them in this directory, which is made where it is missing.
    pub fn new(folder: &Path) -> Result<Self, CommandError> {
        crate::commands::per_host::make(folder)?;
        Ok(Sheets {
            hosts: Sheet::new(folder, "hosts")?,
            entries: Sheet::new(folder, "entries")?,
            devices: Sheet::new(folder, "devices")?,
            findings: Sheet::new(folder, "findings")?,
        })
    }

    /// Takes in a host under the name it has in this run.
    pub fn add(&mut self, name: &str, rows: Rows) -> Result<(), CommandError> {
        let host = || name.to_owned();
        let Rows { host: row, entries, devices, findings } = rows;
        self.hosts.add([HostRow { host: host(), ..row }])?;
        self.entries.add(entries.into_iter().map(|row| EntryRow { host: host(), ..row }))?;
        self.devices.add(devices.into_iter().map(|row| DeviceRow { host: host(), ..row }))?;
        self.findings.add(findings.into_iter().map(|row| FindingRow { host: host(), ..row }))
    }

    /// Ends them all.
    pub fn end(self) -> Result<(), CommandError> {
        self.hosts.end()?;
        self.entries.end()?;
        self.devices.end()?;
        self.findings.end()
    }
}
