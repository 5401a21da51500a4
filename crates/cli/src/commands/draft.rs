use crate::args::{DraftArgs, Format};
use crate::input::{self, Host};
use crate::outcome::{CommandError, Status};
use crate::store::Target;
use crate::ui::Ui;
use crate::views;
use crate::written;
use bradawl_change::draft::{draft, once_made};
use bradawl_change::edit::{Fresh, insert};
use bradawl_change::mend::worse;
use bradawl_documents::DraftReport;
use bradawl_facts::path::tidy;
use bradawl_facts::record::{RawBytes, TableFile};
use bradawl_facts::table::Table;
use bradawl_facts::text::visible;
use bradawl_judgement::judge;

pub fn run(ui: &Ui, args: &DraftArgs) -> Result<Status, CommandError> {
    let mut wishes = args.wishes();
    let sound = wishes.target.starts_with('/') || matches!(wishes.target.as_str(), "none" | "swap");
    if !sound {
        let why = "is no target: give the directory from /, or none for swap";
        return Err(CommandError::input(visible(&wishes.target).into_owned(), why));
    }
    // `/usr/` is /usr, wherever it is looked up.
    if wishes.target.starts_with('/') {
        wishes.target = tidy(&wishes.target).to_string();
    }
    let given = args.into.as_deref().map(input::table).transpose()?;
    let failed = |e: bradawl_change::draft::DraftError| CommandError::input(args.source.clone(), e);
    let host = input::host(args.host.as_deref(), &args.with, given.as_ref())?;
    if args.host.is_none() {
        let targets: Vec<&str> = host.record.mounts.iter().flatten().map(|m| m.target.as_str()).collect();
        wishes.held_by = bradawl_survey::holders(&targets);
    }
    let first = draft(&host.record, &wishes).map_err(failed)?;
    let (file, old) = table(&host, given.as_ref())?;
    if let Some(there) = already(&old, &first.entry) {
        return Err(CommandError::input(file.path, there));
    }
    // With the entry in the table, the survey looks at its target too.
    let (new, line) = insert(&old, &first.entry);
    let host = match args.host.as_deref() {
        Some("-") => host,
        again => {
            let with = TableFile { bytes: RawBytes::new(new.bytes()), ..file.clone() };
            input::host(again, &args.with, Some(&with))?
        }
    };
    let draft = draft(&host.record, &wishes).map_err(failed)?;
    // What the survey found at the source may make another entry of it.
    let (new, line) = if draft.entry == first.entry { (new, line) } else { insert(&old, &draft.entry) };
    let (before, with) = (judge(&host.record, &old), judge(&once_made(&host.record, &draft), &new));
    let worse = worse(&before, &with);
    let place = (line, new.line_text(line));
    let mut report =
        DraftReport::new(&host.record.host.name, &file.path, place, draft, (&before, with), worse);
    let refused = !report.worse.is_empty() && !args.even_if_worse;
    if let (Some(path), false) = (&args.into, refused) {
        report.written = Some(written::replace(Target::File(path.as_ref()), &old, &new, Vec::new())?);
    }
    match args.format {
        Format::Text => ui.print(&views::draft::text(&report, ui.width()))?,
        Format::Json => views::json(ui, &report)?,
    }
    match (&args.into, refused) {
        (Some(path), true) => Err(CommandError::input(
            path.as_str(),
            "not written: something gets worse (--even-if-worse writes it)",
        )),
        _ => Ok(Status::Fine),
    }
}

/// The table that the entry goes into; an empty one for a host without.
fn table(host: &Host, given: Option<&TableFile>) -> Result<(TableFile, Table), CommandError> {
    match given.or(host.record.tables.first()) {
        Some(file) => Ok((file.clone(), input::parsed(file)?)),
        None => Ok((TableFile::new("/etc/fstab", Vec::new()), Table::parse(""))),
    }
}

/// Why the entry is not put there: it is there.
fn already(table: &Table, fresh: &Fresh) -> Option<String> {
    let same = |e: &bradawl_facts::table::Entry| match fresh.fstype == "swap" {
        true => e.is_swap() && e.source == fresh.source,
        false => e.target.starts_with('/') && tidy(&e.target) == tidy(&fresh.target),
    };
    let there = table.entries().into_iter().find(same)?;
    let what = if fresh.fstype == "swap" {
        visible(&there.source).into_owned()
    } else {
        format!("{} is a target there", visible(&there.target))
    };
    Some(format!("line {}: {what} already; change that entry with \"bradawl mend --edit\"", there.line))
}
