use crate::args::{Format, OptionsArgs};
use crate::input;
use crate::kernel::{self, Asking};
use crate::outcome::{CommandError, Status};
use crate::ui::Ui;
use crate::views;
use bradawl_catalogue::options::{Asked, Opt, Verdict, common, of_type};
use bradawl_catalogue::packages::program_version;
use bradawl_documents::{KernelAnswers, ListVerdict, OptionsReport, ReferenceReport};
use bradawl_facts::Version;
use bradawl_facts::record::Record;
use bradawl_facts::table::{Entry, Table, encode};
use std::io::Read as _;

/// Lists from standard input beyond this many are refused.
const MAX_LISTS: usize = 100_000;

pub fn run(ui: &Ui, args: &OptionsArgs) -> Result<Status, CommandError> {
    let facts = Facts::gather(args)?;
    match &args.fstype {
        Some(fstype) if !args.check.is_empty() || args.effective.is_some() => judge(ui, args, fstype, &facts),
        _ => consult(ui, args, &facts),
    }
}

/// Prints the catalogue, or the part that was asked for.
fn consult(ui: &Ui, args: &OptionsArgs, facts: &Facts) -> Result<Status, CommandError> {
    let fstype = args.fstype.as_deref();
    if let Some(fstype) = fstype.filter(|t| *t != "common" && of_type(t).is_none() && args.option.is_none()) {
        return Err(unknown(fstype));
    }
    let word = args.search.as_ref().map(|word| word.to_lowercase());
    let fits = |row: &Opt| match (&args.option, &word) {
        (Some(name), _) => row.name == name,
        (None, Some(word)) => {
            row.name.to_lowercase().contains(word) || row.meaning.to_lowercase().contains(word)
        }
        (None, None) => fstype.is_some(),
    };
    let report = ReferenceReport::of(fstype, facts.kernel, facts.release.clone(), fits);
    let mut report = report.asked(word.as_deref(), fstype);
    if let (Some(fstype), None, None) = (fstype, &args.option, &word) {
        report = report.by_use(fstype);
    }
    if let (Some(fstype), Some(name)) = (fstype, &args.option) {
        report = report.serving(name, fstype);
    }
    let nothing = report.options.is_empty();
    if let (Some(name), Some(fstype), true) = (&args.option, fstype, nothing) {
        return Err(no_such(fstype, name));
    }
    let width = ui.width();
    match (args.format, &word, fstype, &args.option) {
        (Format::Json, ..) => views::json(ui, &report)?,
        (_, Some(word), ..) => ui.print(&views::options::search(&report, word, width))?,
        (_, _, None, _) => ui.print(&views::options::types(&report, width))?,
        (_, _, Some(fstype), None) => {
            ui.print(&views::options::reference(fstype, facts.kernel, &report.recommended, width))?;
        }
        (_, _, Some(fstype), Some(name)) => {
            let page = views::options::page(&report, fstype, facts.kernel, width);
            ui.print(&page.ok_or_else(|| no_such(fstype, name))?)?;
        }
    }
    Ok(Status::Fine)
}

/// For which kernel and mount program the lists are judged.
struct Facts {
    release: Option<String>,
    kernel: Option<Version>,
    program: Option<Version>,
    program_text: Option<String>,
    /// The host that is asked about; none where a kernel was given.
    record: Option<Record>,
}

impl Facts {
    fn gather(args: &OptionsArgs) -> Result<Self, CommandError> {
        let needs_host = args.host.is_some() || args.kernel.is_none();
        let record = match needs_host {
            true => Some(input::host(args.host.as_deref(), &args.with, None)?.record),
            false => None,
        };
        let of_host = |value: fn(&Record) -> Option<String>| record.as_ref().and_then(value);
        let release = args.kernel.clone().or(of_host(|r| r.host.kernel.clone()));
        // Another kernel than the host's has a mount program of its own time.
        let own = if args.kernel.is_none() { of_host(|r| r.host.mount_program.clone()) } else { None };
        let program_text = args.mount_program.clone().or(own);
        Ok(Facts {
            kernel: release.as_deref().map(version).transpose()?,
            program: program_text.as_deref().map(version).transpose()?,
            release,
            program_text,
            // Another kernel than the host's was built in its own way.
            record: record.filter(|_| args.kernel.is_none()),
        })
    }
}

fn version(text: &str) -> Result<Version, CommandError> {
    Version::parse(text).ok_or_else(|| CommandError::input(text, "is no version; one looks like 6.1 or 2.38"))
}

fn judge(ui: &Ui, args: &OptionsArgs, fstype: &str, facts: &Facts) -> Result<Status, CommandError> {
    let mut lists: Vec<String> = Vec::new();
    for list in args.check.iter().chain(&args.effective) {
        match list.as_str() {
            "-" => lists.extend(from_input()?),
            list => lists.push(list.to_owned()),
        }
    }
    let mut verdicts = lists.iter().map(|list| verdict(list, fstype, facts));
    let Some(first) = verdicts.next() else {
        return Err(CommandError::input("standard input", "holds no list of options"));
    };
    let mut report = OptionsReport {
        schema: "bradawl.options/1",
        fstype: fstype.to_owned(),
        kernel: facts.release.clone(),
        mount_program: facts.program_text.clone(),
        first,
        more: verdicts.collect(),
        asked: None,
    };
    report.asked = args.ask_kernel.then(|| ask(&report)).transpose()?;
    match args.format {
        Format::Json => views::json(ui, &report)?,
        Format::Text => {
            let checked = !args.check.is_empty();
            ui.print(&views::options::verdicts(&report, checked, ui.width()))?;
        }
    }
    let refused = |v: &ListVerdict| v.verdict == Verdict::Refused;
    let found = !args.check.is_empty() && (refused(&report.first) || report.more.iter().any(refused));
    Ok(if found { Status::Found } else { Status::Fine })
}

/// What the running kernel says of the options of all lists.
fn ask(report: &OptionsReport) -> Result<KernelAnswers, CommandError> {
    let lists = [&report.first].into_iter().chain(&report.more);
    let each = lists.flat_map(|list| &list.options).map(|option| Asking {
        line: None,
        fstype: &report.fstype,
        name: &option.name,
        value: option.value.as_deref(),
        catalogue: option.verdict,
    });
    kernel::ask(each).map_err(|e| CommandError::input("--ask-kernel", e))
}

fn from_input() -> Result<Vec<String>, CommandError> {
    let mut text = String::new();
    let limit = bradawl_facts::record::MAX_BYTES;
    let read = std::io::stdin().lock().take(limit).read_to_string(&mut text);
    read.map_err(|e| CommandError::input("standard input", e))?;
    let lists: Vec<String> = text.lines().map(str::to_owned).filter(|l| !l.is_empty()).collect();
    match lists.len() > MAX_LISTS {
        true => Err(CommandError::input("standard input", format!("holds more than {MAX_LISTS} lists"))),
        false => Ok(lists),
    }
}

fn verdict(list: &str, fstype: &str, facts: &Facts) -> ListVerdict {
    let entry = as_entry(list, fstype);
    let options = entry.as_ref().map(|e| e.options.as_slice()).unwrap_or_default();
    let host = facts.record.as_ref();
    let versions = host.and_then(|r| r.programs.as_ref()?.versions.as_ref());
    let asked = Asked {
        program: facts.program,
        helper: versions.and_then(|versions| program_version(fstype, versions)),
        typical: true,
        built: host.and_then(|r| r.kernel_build.as_ref()),
        huge_pages: host.and_then(|r| r.host.huge_page_sizes.as_deref()),
        labels: host.and_then(|r| r.host.labels_count()),
        ..Asked::new(fstype, options, facts.kernel)
    };
    ListVerdict::of(list, &asked)
}

/// The list as it would stand in a table.
fn as_entry(list: &str, fstype: &str) -> Option<Entry> {
    let text = |field: &str| String::from_utf8_lossy(&encode(field.as_bytes())).into_owned();
    let field = if list.is_empty() { "defaults".to_owned() } else { text(list) };
    let table = Table::parse(format!("source /target {} {field}", text(fstype)));
    table.entries().pop()
}

fn unknown(fstype: &str) -> CommandError {
    let near = bradawl_catalogue::fstypes::near(fstype);
    let hint = match near.as_slice() {
        [] => "bradawl options names those that it has".to_owned(),
        near => format!("did you mean {}?", near.join(" or ")),
    };
    CommandError::input(fstype, format!("the catalogue has no such type; {hint}"))
}

fn no_such(fstype: &str, name: &str) -> CommandError {
    let near = bradawl_catalogue::options::near_names(fstype, name, None);
    let known = common().iter().any(|row| row.name == name);
    let hint = match near.as_slice() {
        _ if known => "every type accepts it".to_owned(),
        [] => format!("bradawl options {fstype} names them all"),
        near => format!("did you mean {}?", near.join(" or ")),
    };
    CommandError::input(name, format!("{fstype} has no such option; {hint}"))
}
