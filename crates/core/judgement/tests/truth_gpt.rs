//! What the boot takes by the types of partitions, against recorded boots from a GPT
//! (`fixtures/boots-gpt.jsonl`: lab/make-gpt-guest.sh, boot-scenarios-gpt.py).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_boot::{EntryState, by_type, requests};
use bradawl_facts::record::{
    Content, ContentKind, Device, DeviceKind, Init, InitKind, PartitionFacts, PathFacts, PathKind, Record,
};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use bradawl_resolve::Index;
use serde::Deserialize;

const BOOTS: usize = 20;

#[derive(Deserialize)]
struct Boot {
    id: String,
    systemd: String,
    cmdline: String,
    table: String,
    srv_full: bool,
    home: Option<String>,
    srv: Option<String>,
    swaps: Vec<String>,
}

fn device(path: &str, kind: DeviceKind, content: Content) -> Device {
    let mut device = Device::new(path, kind);
    device.content = Some(content);
    device
}

fn fs(label: &str) -> Content {
    Content { label: Some(label.to_owned()), ..Content::new(ContentKind::Filesystem, Some("ext4")) }
}

fn swap(label: &str) -> Content {
    Content { label: Some(label.to_owned()), ..Content::new(ContentKind::Swap, Some("swap")) }
}

fn record(boot: &Boot) -> Record {
    let mut record = Record::new("sounding");
    record.host.init =
        Some(Init { running: Some(true), ..Init::new(InitKind::Systemd, Some(&boot.systemd)) });
    let uuid = "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1a0001";
    record.command_line = Some(format!("root=UUID={uuid} ro {}", boot.cmdline));
    let root = Content { uuid: Some(uuid.to_owned()), ..fs("hull") };
    let parts = [
        (root, "4f68bce3-e8cd-4db1-96e7-fbcaf984b709"),
        (swap("auto-swap"), "0657fd6d-a4ab-43c4-84e5-0933c84b4f4f"),
        (fs("a"), "933ac7e1-2eb4-4f13-b844-0e14e2aef915"),
        (fs("b"), "3b8f8425-20e0-4f3b-907f-1a25a76f98e8"),
        (fs("c"), "4d21b016-b534-45c2-a9fb-5c16e091fd2d"),
        (swap("kept-swap"), "0657fd6d-a4ab-43c4-84e5-0933c84b4f4f"),
    ];
    let mut disk =
        device("/dev/vda", DeviceKind::Disk, Content::new(ContentKind::PartitionTable, Some("gpt")));
    let mut devices = Vec::new();
    for (n, (content, type_id)) in (1..).zip(parts) {
        let mut part = device(&format!("/dev/vda{n}"), DeviceKind::Partition, content);
        part.parents = vec![disk.path.clone()];
        part.partition = Some(PartitionFacts {
            type_id: Some(type_id.to_owned()),
            no_auto: n == 6,
            ..PartitionFacts::default()
        });
        disk.children.push(part.path.clone());
        devices.push(part);
    }
    devices.push(disk);
    devices.push(device("/dev/vdb", DeviceKind::Disk, fs("grain")));
    devices.push(device("/dev/vdc", DeviceKind::Disk, swap("reserve")));
    record.devices = Some(devices);
    record.links_complete = Some(true);
    let empty = |path: &str, entries| PathFacts {
        entries: Some(entries),
        ..PathFacts::new(path, PathKind::Directory)
    };
    record.paths = vec![empty("/home", 0), empty("/srv", u32::from(boot.srv_full))];
    record
}

#[test]
fn partitions_are_taken_by_their_types() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/tests/fixtures/boots-gpt.jsonl");
    let text = std::fs::read_to_string(path).unwrap();
    let boots: Vec<Boot> = text.lines().map(|l| serde_json::from_str(l).unwrap()).collect();
    let mut wrong = Vec::new();
    for boot in &boots {
        let record = record(boot);
        let table = Table::parse(boot.table.clone());
        let index = Index::new(&record);
        let asked = requests(&record, &index, &table);
        let taken = by_type(&record, &index, &asked);
        let forecast = judge(&record, &table).forecast;
        let of_entry = |target: &str| {
            let entry = forecast.entries.iter().find(|e| e.target == target)?;
            let request = asked.iter().find(|r| r.line() == entry.line)?;
            matches!(entry.state, EntryState::Mounted | EntryState::Active)
                .then(|| request.device().unwrap().path.clone())
        };
        let on = |target: &str| {
            let by = taken.iter().find(|t| t.target == Some(target)).map(|t| t.device.path.clone());
            of_entry(target).or(by)
        };
        let swaps: Vec<String> = of_entry("none")
            .into_iter()
            .chain(taken.iter().filter(|t| t.target.is_none()).map(|t| t.device.path.clone()))
            .collect();
        let said = (on("/home"), on("/srv"), swaps);
        let was = (boot.home.clone(), boot.srv.clone(), boot.swaps.clone());
        if said != was {
            wrong.push(format!("{} ({}): said {said:?}, was {was:?}", boot.id, boot.systemd));
        }
    }
    println!(
        "{} of {} boots take what they were seen to take by type",
        boots.len() - wrong.len(),
        boots.len()
    );
    assert_eq!(boots.len(), BOOTS);
    assert!(wrong.is_empty(), "{wrong:#?}");
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    let row = format!("partitions by their types (`truth_gpt.rs`) | {BOOTS} | {}", boots.len() - wrong.len());
    assert!(std::fs::read_to_string(page).unwrap().contains(&row), "docs/model/verified.md lacks {row}");
}
