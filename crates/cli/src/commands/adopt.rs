use crate::args::{AdoptArgs, Format, WithArgs};
use crate::atomic;
use crate::input;
use crate::outcome::{CommandError, Done};
use crate::store;
use crate::ui::Ui;
use crate::views;
use bradawl_core::adopt::{Adoption, Wishes, adopt};
use bradawl_core::boot::Consequence;
use bradawl_core::edit::align;
use bradawl_core::judgement::judge;
use bradawl_core::record::{Record, TableFile};
use bradawl_core::report::{AdoptReport, WrittenFile};
use bradawl_core::table::Table;
use std::path::Path;

pub fn run(ui: &Ui, args: &AdoptArgs) -> Result<Done, CommandError> {
    let tree = args.tree.as_deref().map(real_folder).transpose()?;
    let record = input::host(args.host.as_deref(), &args.with, None)?.record;
    let path = place(args, tree.as_deref());
    let old = existing(args, &record, &path)?;
    let have = if args.merge { Table::parse(old.clone().unwrap_or_default()) } else { Table::parse("") };
    let wishes = Wishes { tree: tree.clone(), by: args.by };
    let adoption = adopt(&record, &have, &wishes);
    // A table of our own is laid out whole; one that was there keeps its looks.
    let table = if have.bytes().is_empty() { align(&adoption.table) } else { adoption.table };
    let adoption = Adoption { table: Table::parse(table.bytes()), ..adoption };
    let judged = judge(&judging(args, tree.as_deref(), &path, &table, record.clone())?, &table);
    let mut report = AdoptReport::new(&record.host.name, &path, adoption, judged);
    if args.write {
        report.written = write(args, &path, old.as_deref(), table.bytes())?;
    }
    match args.format {
        Format::Json => views::json(&report)?,
        Format::Text => {
            if !args.write {
                ui.print(&views::adopt::table(&table))?;
            }
            anstream::eprint!("{}", views::adopt::remarks(&report, ui.width()));
        }
    }
    let worst = report.findings.iter().map(|f| f.consequence).min();
    Ok(if worst.is_some_and(|w| w <= Consequence::Missing) { Done::Found } else { Done::Fine })
}

fn real_folder(path: &str) -> Result<String, CommandError> {
    let real = std::fs::canonicalize(path).map_err(|e| CommandError::input(path, e))?;
    match real.is_dir() {
        true => Ok(real.display().to_string()),
        false => Err(CommandError::input(path, "is no folder")),
    }
}

fn place(args: &AdoptArgs, tree: Option<&str>) -> String {
    args.table
        .clone()
        .unwrap_or_else(|| format!("{}/etc/fstab", tree.unwrap_or_default().trim_end_matches('/')))
}

/// The table that is there; `None`: none is.
fn existing(args: &AdoptArgs, record: &Record, path: &str) -> Result<Option<Vec<u8>>, CommandError> {
    let elsewhere = args.host.is_some() && args.table.is_none() && args.tree.is_none();
    if elsewhere {
        return Ok(record.tables.first().and_then(|t| t.bytes.bytes()));
    }
    match Path::new(path).exists() {
        true => Ok(input::table(path)?.bytes.bytes()),
        false => Ok(None),
    }
}

/// The record by which the table is judged: that of the tree with this
/// machine's disks, or the host's own with facts about the new targets.
fn judging(
    args: &AdoptArgs,
    tree: Option<&str>,
    path: &str,
    table: &Table,
    own: Record,
) -> Result<Record, CommandError> {
    let file = TableFile::new(path, table.bytes());
    match (tree, args.host.as_deref()) {
        (Some(tree), None) => {
            let with = WithArgs { disk: Vec::new(), live_devices: true };
            let survey = bradawl_survey::Survey { tables: vec![file], ..Default::default() };
            Ok(survey.tree(Path::new(tree), with.live_devices)?)
        }
        (None, None) => Ok(input::host(None, &args.with, Some(&file))?.record),
        _ => Ok(own),
    }
}

fn write(
    args: &AdoptArgs,
    path: &str,
    old: Option<&[u8]>,
    new: &[u8],
) -> Result<Option<WrittenFile>, CommandError> {
    if args.host.is_some() && args.table.is_none() {
        return Err(CommandError::input(
            "--write",
            "a record has no file to write; give one with --table FILE",
        ));
    }
    let Some(old) = old else {
        atomic::write_for_all(Path::new(path), new)?;
        return Ok(Some(WrittenFile { file: path.to_owned(), backup: String::new() }));
    };
    if old == new {
        return Ok(None);
    }
    let holds_entries = !Table::parse(old).entries().is_empty();
    if holds_entries && !args.merge {
        return Err(CommandError::input(path, "it has entries; --merge keeps them and adds what is missing"));
    }
    let written = store::replace(Path::new(path), old, new).map_err(|e| CommandError::input(path, e))?;
    let shown = |p: &Path| p.display().to_string();
    Ok(Some(WrittenFile { file: shown(&written.file), backup: shown(&written.backup) }))
}
