use crate::args::{AdoptArgs, Format, WithArgs};
use crate::input;
use crate::outcome::{CommandError, Status};
use crate::store::{self, Target};
use crate::ui::{Ui, remark};
use crate::views;
use crate::written;
use bradawl_change::adopt::{AdoptWishes, Adoption, adopt};
use bradawl_change::edit::align;
use bradawl_documents::{AdoptReport, WrittenFile};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Record, TableFile};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use bradawl_judgement::status::Counted;
use std::path::Path;

pub fn run(ui: &Ui, args: &AdoptArgs) -> Result<Status, CommandError> {
    let tree = args.tree.as_deref().map(real_folder).transpose()?;
    let record = input::host(args.host.as_deref(), &args.with, None)?.record;
    let target = target(args, tree.as_deref());
    let path = target.map_or_else(|| "/etc/fstab".to_owned(), written::shown);
    let old = existing(target, &record)?;
    let have = if args.merge { Table::parse(old.clone().unwrap_or_default()) } else { Table::parse("") };
    let wishes = AdoptWishes { tree: tree.clone(), by: args.by };
    let adoption = adopt(&record, &have, &wishes);
    let nothing = adoption.added.is_empty() && adoption.skipped.is_empty() && have.entries().is_empty();
    if let Some(tree) = tree.as_deref().filter(|_| nothing) {
        return Err(CommandError::input(tree, "nothing is mounted there: nothing is written"));
    }
    // A table of our own is laid out whole; one that was there keeps its looks.
    let table = if have.bytes().is_empty() { align(&adoption.table) } else { adoption.table };
    let adoption = Adoption { table: Table::parse(table.bytes()), ..adoption };
    let judged = judge(&judging(args, tree.as_deref(), &path, &table, record.clone())?, &table);
    let mut counted = Counted::new(&judged.forecast, &judged.applied);
    counted.tell(&judged.findings);
    let status = counted.status(Some(Consequence::Missing));
    let mut report = AdoptReport::new(&record.host.name, &path, adoption, judged);
    if args.write {
        report.written = write(args, target, old.as_deref(), &table)?;
    }
    match args.format {
        Format::Json => views::json(ui, &report)?,
        Format::Text => {
            if !args.write {
                ui.print(&views::adopt::table(&table))?;
            }
            remark(&views::adopt::remarks(&report, ui.width()));
        }
    }
    Ok(status)
}

fn real_folder(path: &str) -> Result<String, CommandError> {
    let real = std::fs::canonicalize(path).map_err(|e| CommandError::input(path, e))?;
    match real.is_dir() {
        true => Ok(real.display().to_string()),
        false => Err(CommandError::input(path, "is no directory")),
    }
}

/// The file that is written; `None`: a record has none.
fn target<'a>(args: &'a AdoptArgs, tree: Option<&'a str>) -> Option<Target<'a>> {
    match (args.table.as_deref(), tree, args.host.as_deref()) {
        (Some(path), ..) => Some(Target::File(path.as_ref())),
        (None, Some(tree), _) => Some(Target::Tree(tree.as_ref())),
        (None, None, None) => Some(Target::File("/etc/fstab".as_ref())),
        (None, None, Some(_)) => None,
    }
}

/// The table that is there; `None`: none is.
fn existing(target: Option<Target<'_>>, record: &Record) -> Result<Option<Vec<u8>>, CommandError> {
    match target {
        None => Ok(record.tables.first().and_then(|t| t.bytes.bytes())),
        Some(target) => store::read(target).map_err(|e| CommandError::input(written::shown(target), e)),
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
            Ok(input::survey(vec![file]).tree(Path::new(tree), with.live_devices, &with.disk)?)
        }
        (None, None) => Ok(input::host(None, &args.with, Some(&file))?.record),
        _ => Ok(own),
    }
}

fn write(
    args: &AdoptArgs,
    target: Option<Target<'_>>,
    old: Option<&[u8]>,
    new: &Table,
) -> Result<Option<WrittenFile>, CommandError> {
    let Some(target) = target else {
        let why = "a record has no file to write; give one with --table FILE";
        return Err(CommandError::input("--write", why));
    };
    let Some(old) = old.map(Table::parse) else {
        return written::create(target, new).map(Some);
    };
    if old == *new {
        return Ok(None);
    }
    if !old.entries().is_empty() && !args.merge {
        let why = "it has entries; --merge keeps them and adds what is missing";
        return Err(CommandError::input(written::shown(target), why));
    }
    written::replace(target, &old, new, Vec::new()).map(Some)
}
