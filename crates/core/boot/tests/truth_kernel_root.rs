//! What the kernel itself does with `root=` where no initramfs is before it
//! (`lab/record-kernel-root.py`, kernel 6.1 in user mode).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

mod disk;

use bradawl_boot::{Outcome, forecast, requests};
use bradawl_facts::record::{Content, ContentKind, Early, NextBoot, Record};
use bradawl_facts::table::Table;
use bradawl_resolve::Index;
use disk::held;

#[derive(serde::Deserialize)]
struct Recorded {
    id: String,
    cmdline: String,
    ending: Ending,
}

#[derive(Debug, Clone, Copy, PartialEq, serde::Deserialize)]
#[serde(rename_all = "kebab-case")]
enum Ending {
    Root,
    Panic,
    Waits,
    NoInit,
    Assumed,
}

/// The machine that it was recorded with, as it starts with this command line.
fn machine(command_line: &str) -> Record {
    let mut record = disk::machine(vec![
        ("hull", held("ext4", "hull", "0001")),
        ("reserve", held("swap", "reserve", "0002")),
        ("bare", Content::new(ContentKind::Empty, None)),
        ("silo", held("xfs", "silo", "0004")),
    ]);
    record.early = Some(Early {
        next: Some(NextBoot {
            kernel: Some("/vmlinuz".to_owned()),
            command_line: command_line.to_owned(),
            ..NextBoot::default()
        }),
        ..Early::default()
    });
    record
}

/// What is behind a verdict that rests on an assumption.
const TOLD: &str = ", which is told as assumed";

fn ours(command_line: &str) -> (Ending, String) {
    let record = machine(command_line);
    let index = Index::new(&record);
    let table = Table::parse(b"PARTLABEL=hull / ext4 defaults 0 1\n");
    let forecast = forecast(&record, &index, &requests(&record, &index, &table));
    let absent = forecast.ended_by.as_deref().is_some_and(|why| why.starts_with("init="));
    let ending = match forecast.outcome {
        Outcome::NoRoot if absent => Ending::NoInit,
        Outcome::NoRoot => Ending::Panic,
        Outcome::Never => Ending::Waits,
        // Told as assumed, which nothing in the record contradicts.
        _ if forecast.assumed.iter().any(|a| a.starts_with("the kernel ")) => Ending::Assumed,
        _ => Ending::Root,
    };
    (ending, forecast.verdict.to_string())
}

#[test]
fn the_kernel_finds_root_or_panics() {
    let recorded: Vec<Recorded> = include_str!("fixtures/kernel-root.jsonl")
        .lines()
        .map(|line| serde_json::from_str(line).unwrap())
        .collect();
    let misses: Vec<String> = recorded
        .iter()
        .filter_map(|r| {
            let (ending, verdict) = ours(&r.cmdline);
            let told = if ending == Ending::Assumed { TOLD } else { "" };
            (ending != r.ending).then(|| format!("{}: recorded {:?}, said {verdict}{told}", r.id, r.ending))
        })
        .collect();
    println!("| the kernel alone | {} | {} |", recorded.len(), recorded.len() - misses.len());
    assert!(recorded.len() == 212 && misses.len() == 4, "{misses:#?}");
    // Of a root that no record tells of, that is said.
    assert!(misses.iter().all(|m| m.ends_with(TOLD)), "{misses:#?}");
}
