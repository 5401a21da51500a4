//! What the kernel itself does with `root=` where no initramfs is before it
//! (`lab/record-kernel-root.py`, kernel 6.1 in user mode).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_boot::{Outcome, forecast, requests};
use bradawl_facts::record::{
    Content, ContentKind, Device, DeviceKind, Early, Init, InitKind, NextBoot, PartitionFacts, PathFacts,
    PathKind, Record,
};
use bradawl_facts::table::Table;
use bradawl_resolve::Index;

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

/// The disk that it was recorded with: a table of four partitions.
fn machine(command_line: &str) -> Record {
    let mut record = Record::new("sounding");
    record.host.kernel = Some("6.1.176".to_owned());
    record.host.init = Some(Init::new(InitKind::Systemd, Some("252")));
    record.early = Some(Early {
        next: Some(NextBoot {
            kernel: Some("/vmlinuz".to_owned()),
            command_line: command_line.to_owned(),
            ..NextBoot::default()
        }),
        ..Early::default()
    });
    let held = |fstype: &str, label: &str, uuid: &str| {
        let kind = if fstype == "swap" { ContentKind::Swap } else { ContentKind::Filesystem };
        let mut content = Content::new(kind, Some(fstype));
        (content.label, content.uuid) = (Some(label.to_owned()), Some(uuid.to_owned()));
        content
    };
    let disk = Device {
        major: Some(98),
        minor: Some(0),
        content: Some(Content::new(ContentKind::PartitionTable, None)),
        ..Device::new("/dev/ubda", DeviceKind::Disk)
    };
    let contents = [
        ("hull", held("ext4", "hull", "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001")),
        ("reserve", held("swap", "reserve", "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0002")),
        ("bare", Content::new(ContentKind::Empty, None)),
        ("silo", held("xfs", "silo", "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0004")),
    ];
    let partition = |(n, (name, content)): (u32, (&str, Content))| Device {
        major: Some(98),
        minor: Some(n),
        partition: Some(PartitionFacts {
            number: Some(n),
            uuid: Some(format!("a1f0c3d2-5b6e-4c7d-8e9f-00112233440{n}")),
            label: Some(name.to_owned()),
            ..PartitionFacts::default()
        }),
        parents: vec!["/dev/ubda".to_owned()],
        content: Some(content),
        ..Device::new(format!("/dev/ubda{n}"), DeviceKind::Partition)
    };
    record.devices = Some([disk].into_iter().chain((1..).zip(contents).map(partition)).collect());
    record.paths = ["/bin/absent", "/relative"].map(|path| PathFacts::new(path, PathKind::Absent)).to_vec();
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
