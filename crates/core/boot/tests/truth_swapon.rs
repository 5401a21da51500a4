//! What swapon did, held against what is said of it. Prints the agreement.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_boot::swap::{
    Activation, Area, Fate, Place, Priority, Warning, activate, switch_discard, switch_priority,
};
use bradawl_facts::Version;
use bradawl_facts::record::{Content, ContentKind, PathFacts, PathKind};
use bradawl_facts::table::Table;
use serde_json::Value;
use std::io::Read as _;
use std::path::Path;

const KERNELS: [&str; 4] = ["5.10", "6.1", "6.12", "6.18"];

fn rows(kernel: &str) -> Vec<Value> {
    let path = Path::new(env!("CARGO_MANIFEST_DIR"))
        .join(format!("tests/fixtures/swapon/swapon-{kernel}.jsonl.zst"));
    let mut text = String::new();
    let file = std::fs::File::open(path).unwrap();
    ruzstd::decoding::StreamingDecoder::new(file).unwrap().read_to_string(&mut text).unwrap();
    let all = text.lines().map(|l| serde_json::from_str::<Value>(l).unwrap());
    // The rest tells how the others were recorded, or what could not be tried.
    all.filter(|row| row["accepted"].is_boolean()).collect()
}

fn text<'r>(row: &'r Value, name: &str) -> &'r str {
    row[name].as_str().unwrap_or_default()
}

/// The file of a row, as its kind and note tell.
fn facts(row: &Value) -> PathFacts {
    let note = text(row, "note");
    let kind = match text(row, "kind") {
        "missing" => PathKind::Absent,
        "directory" => PathKind::Directory,
        _ => PathKind::File,
    };
    let words: Vec<&str> = note.split([' ', ',', ':']).filter(|w| !w.is_empty()).collect();
    let after = |name: &str| words.iter().position(|w| *w == name).and_then(|n| words.get(n + 1));
    let fat = matches!(text(row, "kind"), "file-vfat" | "file-exfat");
    let mut facts = PathFacts::new("/swap/f", kind);
    let mode = after("mode").map(|m| u32::from_str_radix(m, 8).unwrap());
    facts.mode = Some(mode.unwrap_or(if fat { 0o755 } else { 0o600 }));
    facts.uid = Some(after("owner").map_or(0, |u| u.parse().unwrap()));
    facts.size = Some(8 << 20);
    // These have no holes: what was not written has room all the same.
    facts.allocated = Some(if words.contains(&"holes") && !fat { 4096 } else { 8 << 20 });
    facts.nocow = Some(note.contains("+C"));
    let signed = !note.contains("no swap signature");
    let held = if signed { ContentKind::Swap } else { ContentKind::Unknown };
    facts.content = Some(Content::new(held, signed.then_some("swap")));
    facts
}

/// What is said of a row: whether it is taken, with which priority, and
/// whether there is a warning.
fn said(row: &Value) -> (bool, Option<Priority>, bool) {
    let (how, options) = (text(row, "how"), text(row, "options"));
    match how {
        "pri" if switch_priority(options).is_none() => return (false, None, false),
        "pri" => return (true, switch_priority(options), false),
        "discard" => return (switch_discard(options), Some(Priority::Automatic), false),
        _ => {}
    }
    let list = if options.is_empty() { "sw" } else { options };
    // An empty element, or one of blanks, is passed over by all.
    let table = Table::parse(format!("/swap/f none swap {}", list.replace(' ', "\\040")));
    let entry = table.entries().remove(0);
    if how == "fstab" && entry.switched("noauto", "auto") {
        return (false, None, false);
    }
    let facts = facts(row);
    let fstype = text(row, "kind").strip_prefix("file-");
    let file = fstype.is_some() || matches!(facts.kind, PathKind::Absent | PathKind::Directory);
    let place = if file { Place::File(&facts, fstype) } else { Place::Device(Some(8 << 20)) };
    let area = Area {
        place,
        content: facts.content.as_ref(),
        page_size: Some(4096),
        program: Version::parse(text(row, "util_linux")),
    };
    let Activation { fate, priority, warnings } = activate(&area, &entry.options);
    let warned = warnings.iter().any(|w| matches!(w, Warning::Mode(_) | Warning::Owner(_)));
    (fate == Fate::Taken, Some(priority), warned && fate == Fate::Taken)
}

#[test]
fn every_recorded_swapon_is_foreseen() {
    let mut wrong = Vec::new();
    for kernel in KERNELS {
        let rows = rows(kernel);
        let mut right = 0;
        for row in &rows {
            let (taken, priority, warned) = said(row);
            let accepted = row["accepted"].as_bool().unwrap();
            let priority_right = match row["priority"].as_i64() {
                Some(number) if accepted => match priority {
                    Some(Priority::Given(given)) => i64::from(given) == number,
                    Some(Priority::Automatic) => number < 0,
                    None => false,
                },
                _ => true,
            };
            let warns = accepted && text(row, "stderr").contains("insecure");
            match taken == accepted && priority_right && warned == warns {
                true => right += 1,
                false => wrong.push(format!("{kernel}: {row}")),
            }
        }
        println!("kernel {kernel}: {right} of {} rows right", rows.len());
        assert!(rows.len() > 100, "{kernel}");
    }
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong.join("\n"));
}
