//! What was put in place, or taken away.

use crate::ui::wrapped;
use bradawl_documents::{Done, InstallReport, InstalledFile, Part};
use bradawl_facts::text::{count, visible};
use std::collections::BTreeMap;

pub fn text(report: &InstallReport, width: usize) -> String {
    let mut out = head(report);
    for part in Part::ALL {
        let files: Vec<&InstalledFile> = report.files.iter().filter(|f| f.part == part).collect();
        // Files of a directory to which the same was done stand together.
        let mut groups: BTreeMap<(&str, Done), Vec<&str>> = BTreeMap::new();
        for file in &files {
            let (folder, name) = file.path.rsplit_once('/').unwrap_or(("", &file.path));
            groups.entry((folder, file.done)).or_default().push(name);
        }
        for ((folder, done), names) in groups {
            let names = match (names.as_slice(), part) {
                ([first, .., last], Part::Man) => {
                    format!("{first} to {last}, {}", count(names.len(), "page"))
                }
                _ => names.join(", "),
            };
            let told = format!("{}/  {}: {names}", visible(folder), done.words());
            for (n, line) in wrapped(&told, width.saturating_sub(4)).iter().enumerate() {
                out.push_str(&format!("{}{line}\n", if n == 0 { "  " } else { "      " }));
            }
        }
    }
    if !report.next.is_empty() {
        out.push_str(if report.uninstalled { "\nThen:\n" } else { "\nThen, as you like:\n" });
        let longest = report.next.iter().map(|n| n.command.len()).max().unwrap_or(0);
        for next in &report.next {
            let line = format!("  {:longest$}  {}", next.command, next.what);
            // A command is never broken.
            match line.len() <= width {
                true => out.push_str(&line),
                false => out.push_str(&format!("  {}\n      {}", next.command, next.what)),
            }
            out.push('\n');
        }
    }
    out
}

fn head(report: &InstallReport) -> String {
    let of = |done: Done| report.files.iter().filter(|f| f.done == done).count();
    let (written, removed) = (count(of(Done::Written), "file"), count(of(Done::Removed), "file"));
    let kept = match of(Done::Kept) {
        0 => String::new(),
        1 => "; 1 file stays, changed since".to_owned(),
        n => format!("; {n} files stay, changed since"),
    };
    let hooks = report.files.iter().any(|f| f.part == Part::Hooks);
    let told = match (report.uninstalled, report.dry_run) {
        (false, false) if hooks => {
            format!("{written} put in place; the hook is in force, no unit is enabled.")
        }
        (false, false) => format!("{written} put in place; nothing is enabled."),
        (false, true) => format!("{written} would be put in place; nothing was written."),
        (true, false) => format!("{removed} removed{kept}."),
        (true, true) => format!("{removed} would be removed{kept}; nothing was done."),
    };
    wrapped(&told, 80).join("\n") + "\n\n"
}
