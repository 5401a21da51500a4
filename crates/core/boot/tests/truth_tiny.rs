//! What tiny-initramfs does with root and /usr (`lab/record-tiny.py`, version 0.1 of Debian 12, kernel 6.1 in user
//! mode). The first program on root only says what is mounted.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

mod disk;

use bradawl_boot::{Forecast, Outcome, forecast, requests};
use bradawl_facts::record::{Early, Initramfs, PathFacts, PathKind, Record};
use bradawl_facts::table::Table;
use bradawl_resolve::Index;

#[derive(serde::Deserialize)]
struct Recorded {
    id: String,
    cmdline: String,
    table: String,
    #[serde(default)]
    without: Option<String>,
    ending: Ending,
    /// The options of /usr in force, where the initramfs has mounted it.
    usr: Option<String>,
    wall: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, serde::Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Ending {
    Init,
    Panic,
    Waits,
}

/// Seconds that the message about the end is shown, and the machine takes to start.
const SHOWN_S: f64 = 11.0;
/// How long a machine that is busy with others may take besides.
const BUSY_S: f64 = 6.0;

fn machine(recorded: &Recorded) -> Record {
    let mut record = disk::of_six();
    record.command_line = Some(recorded.cmdline.clone());
    record.early = Some(Early { initramfs: Some(Initramfs::TinyInitramfs), ..Early::default() });
    record.paths.extend(recorded.without.iter().map(|path| PathFacts::new(path.as_str(), PathKind::Absent)));
    record
}

/// What was forecast of the end, and seconds of waiting before it.
fn ours(recorded: &Recorded) -> (Ending, f64, Forecast) {
    let record = machine(recorded);
    let index = Index::new(&record);
    let table = Table::parse(recorded.table.as_bytes());
    let forecast = forecast(&record, &index, &requests(&record, &index, &table));
    let ending = match forecast.outcome {
        Outcome::NoRoot => Ending::Panic,
        // The init system may wait later on.
        Outcome::Never if forecast.ended_by.as_deref().is_some_and(|by| by.starts_with("the initramfs")) => {
            Ending::Waits
        }
        _ => Ending::Init,
    };
    let stall_s = if ending == Ending::Panic { forecast.stall_s.unwrap() } else { forecast.before_init_s };
    (ending, stall_s, forecast)
}

fn agrees(recorded: &Recorded, ours: &(Ending, f64, Forecast)) -> bool {
    let (ending, stall_s, _) = ours;
    let shown = if *ending == Ending::Panic { SHOWN_S } else { 1.0 };
    let late = recorded.wall - stall_s - shown;
    *ending == recorded.ending && (*ending == Ending::Waits || (-1.0..BUSY_S).contains(&late))
}

#[test]
fn root_and_usr_are_mounted_or_the_kernel_panics() {
    let recorded: Vec<Recorded> =
        include_str!("fixtures/tiny.jsonl").lines().map(|line| serde_json::from_str(line).unwrap()).collect();
    let misses: Vec<String> = recorded
        .iter()
        .map(|r| (r, ours(r)))
        .filter(|(r, ours)| !agrees(r, ours))
        .map(|(r, (_, _, forecast))| {
            format!("{}: recorded {:?} after {} s, said {}", r.id, r.ending, r.wall, forecast.verdict)
        })
        .collect();
    println!("| tiny-initramfs | {} | {} |", recorded.len(), recorded.len() - misses.len());
    assert!(recorded.len() > 300 && misses.is_empty(), "{misses:#?}");
    // docs/model/boot-model.md has this figure, the rule initramfs-usr that of the lists.
    let options = recorded.iter().filter(|r| r.id.starts_with("usr-opt") || r.id.contains("word-"));
    let lists: std::collections::BTreeSet<_> =
        options.clone().filter_map(|r| r.table.split_whitespace().nth(3)).collect();
    assert_eq!((options.count(), lists.len()), (168, 158));
    assert!(recorded.iter().filter(|r| r.usr.is_some()).count() > 100, "/usr is mounted in many of them");
}
