use crate::args::{Format, SwapArgs, WithArgs};
use crate::input::{self, Host};
use crate::outcome::{CommandError, Status};
use crate::store::Target;
use crate::swap_file;
use crate::ui::Ui;
use crate::views;
use crate::written;
use bradawl_boot::{forecast, requests};
use bradawl_change::edit::{Fresh, insert};
use bradawl_change::mend::worse;
use bradawl_change::swap_plan::{Wanted, plan};
use bradawl_documents::SwapReport;
use bradawl_facts::record::{Content, ContentKind, PathFacts, PathKind, RawBytes, TableFile};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use bradawl_judgement::swap_overview::overview;
use bradawl_resolve::Index;
use std::path::Path;

pub fn run(ui: &Ui, args: &SwapArgs) -> Result<Status, CommandError> {
    if let Some(path) = &args.file {
        return make(ui, args, path);
    }
    let given = args.table.as_deref().map(input::table).transpose()?;
    let host = input::host(args.host.as_deref(), &args.with, given.as_ref())?;
    let mut report = looked_at(&host, given.as_ref())?;
    if args.want.is_some() {
        let (record, index) = (&host.record, Index::new(&host.record));
        let plan = plan(record, &index, &report.overview, &args.wishes());
        report.plan = Some(plan.map_err(|e| CommandError::input(record.host.name.clone(), e))?);
    }
    match args.format {
        Format::Text => ui.print(&views::swap::text(&report, ui.width()))?,
        Format::Json => views::json(ui, &report)?,
    }
    let faulty = report.overview.areas.iter().any(|a| a.line.is_some() && a.after_reboot == Some(false));
    Ok(if faulty { Status::Found } else { Status::Fine })
}

/// All swap of a host, without a plan.
pub fn looked_at(host: &Host, given: Option<&TableFile>) -> Result<SwapReport, CommandError> {
    let record = &host.record;
    // A host without a table has swap all the same.
    let (path, table) = match given.or(record.tables.first()) {
        Some(file) => (file.path.clone(), input::parsed(file)?),
        None => ("/etc/fstab".to_owned(), Table::parse("")),
    };
    let index = Index::new(record);
    let requests = requests(record, &index, &table);
    let forecast = forecast(record, &index, &requests);
    Ok(SwapReport {
        schema: "bradawl.swap/1",
        host: record.host.name.clone(),
        table: path,
        overview: overview(record, &index, &requests, &forecast),
        swappiness: record.swapping.as_ref().and_then(|s| s.swappiness),
        zswap: record.swapping.as_ref().and_then(|s| s.zswap),
        plan: None,
    })
}

/// All swap of a host that is shown.
pub fn shown(ui: &Ui, host: &Host) -> Result<(), CommandError> {
    Ok(ui.print(&views::swap::text(&looked_at(host, None)?, ui.width()))?)
}

/// Makes a swap file, and its entry where a table is given.
fn make(ui: &Ui, args: &SwapArgs, path: &str) -> Result<Status, CommandError> {
    let Some(Wanted::Bytes(size)) = args.want else {
        return Err(CommandError::input("--want", "give the size of the file"));
    };
    // The boot starts from no directory: a name has to be whole.
    let whole = std::path::absolute(path).map_err(|e| CommandError::input(path, e))?;
    let Some(path) = whole.to_str() else {
        return Err(CommandError::input(path, "is no text, and cannot stand in a table as it is"));
    };
    let entry = entry(path, args.priority);
    let table = args.into.as_deref().map(|table| with_entry(table, &entry, size)).transpose()?;
    let file = swap_file::SwapFile { path: Path::new(path), size, label: &args.label };
    let made = if args.write { Some(file.write()?) } else { None };
    let written = match (&args.into, &table) {
        (Some(into), Some((old, new))) => {
            Some(written::replace(Target::File(into.as_ref()), old, new, Vec::new())?.file)
        }
        _ => None,
    };
    ui.print(&views::swap::file(path, size, made.as_deref(), &entry.line(), written.as_deref(), ui.width()))?;
    Ok(Status::Fine)
}

/// The entry of a swap file.
fn entry(path: &str, priority: Option<i32>) -> Fresh {
    let options = priority.map_or_else(|| "sw".to_owned(), |p| format!("pri={p}"));
    Fresh {
        source: path.to_owned(),
        target: "none".to_owned(),
        fstype: "swap".to_owned(),
        options: vec![options],
        dump: 0,
        pass: 0,
        comment: None,
    }
}

/// The table before and with the entry; refused when anything gets worse by it.
fn with_entry(table: &str, entry: &Fresh, size: u64) -> Result<(Table, Table), CommandError> {
    let given = input::table(table)?;
    let old = input::parsed(&given)?;
    if let Some(there) = old.entries().iter().find(|e| e.is_swap() && e.source == entry.source) {
        return Err(CommandError::input(
            table,
            format!("line {} asks for {} already", there.line, entry.source),
        ));
    }
    let (new, _) = insert(&old, entry);
    let with = TableFile { bytes: RawBytes::new(new.bytes()), ..given };
    let mut record = input::host(None, &WithArgs::default(), Some(&with))?.record;
    let before = judge(&record, &old);
    // As it will be once the file is made.
    record.paths.retain(|f| f.path != entry.source);
    record.paths.push(PathFacts {
        size: Some(size),
        allocated: Some(size),
        mode: Some(0o600),
        uid: Some(0),
        content: Some(Content::new(ContentKind::Swap, Some("swap"))),
        ..PathFacts::new(entry.source.clone(), PathKind::File)
    });
    match worse(&before, &judge(&record, &new)).first() {
        Some(worse) => {
            Err(CommandError::input(table, format!("nothing is written, for it gets worse: {worse}")))
        }
        None => Ok((old, new)),
    }
}
