//! The forecast against recorded boots of inits without systemd and of an
//! initramfs made by dracut (`lab/boot-scenarios-inits.py`,
//! `lab/boot-scenarios-dracut.py`, booted by `lab/run-machine.py`).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_boot::{EntryState, Forecast, Outcome};
use bradawl_facts::record::{
    Early, EarlyMount, Init, InitKind, InitScripts, Initramfs, InitramfsImage, PathFacts, PathKind, Record,
};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::{Boot, boots, record};
use std::collections::BTreeMap;

/// Boots that are not forecast as they went, and why.
const NOT_MODELLED: &[(&str, &str)] = &[(
    "dracut-stack: stack-half-auto",
    "half a minute of rounds was over before what lies on the array was there; another, of three minutes, had not ended in ten",
)];

fn host(boot: &Boot) -> Record {
    let mut record = record(boot);
    record.host.os_id = Some("debian".to_owned());
    let (name, version) = boot.init.split_once(' ').unwrap();
    let kind = match name {
        "openrc" => InitKind::Openrc,
        "runit" => InitKind::Runit,
        "finit" => InitKind::Finit,
        "sysvinit" => InitKind::Sysvinit,
        _ => InitKind::Systemd,
    };
    if kind != InitKind::Systemd {
        let scripts = (kind != InitKind::Finit).then_some(InitScripts::Debian);
        record.host.init = Some(Init { running: Some(true), scripts, ..Init::new(kind, Some(version)) });
        (record.units, record.services) = (None, None);
    }
    // What the scenarios name and the guest does not have.
    for path in ["/srv/absent", "/srv/gone", "/sbin/nosuch"] {
        record.paths.push(PathFacts::new(path, PathKind::Absent));
    }
    let name = boot.maker.as_deref().unwrap_or_default();
    let maker = if name.starts_with("dracut") { Initramfs::Dracut } else { Initramfs::InitramfsTools };
    record.early.get_or_insert_with(Early::default).initramfs = Some(maker);
    if name == "busybox" {
        let mount = Some(EarlyMount::Busybox);
        record.early.as_mut().unwrap().image = Some(InitramfsImage { mount, ..InitramfsImage::default() });
    }
    if matches!(name, "dracut" | "dracut-plain") {
        record.early.as_mut().unwrap().image = Some(InitramfsImage {
            made_by: Some(Initramfs::Dracut),
            systemd: name == "dracut",
            finds: ["arrays", "crypt", "lvm"].map(str::to_owned).to_vec(),
            ..InitramfsImage::default()
        });
    }
    if name.starts_with("dracut-stack") {
        guest::stack::build(&mut record, boot);
    }
    record
}

/// Outcome, entries, root: each by itself.
fn agreement(boot: &Boot, forecast: &Forecast) -> [bool; 3] {
    // What is not known is told as such: the worst of it counts too.
    if let Some(worst) = forecast.not_known.as_ref().filter(|_| boot.outcome != "login") {
        return [!worst.outcome.reaches_login(), true, true];
    }
    let outcome = match boot.outcome.as_str() {
        "login" => forecast.outcome.reaches_login(),
        "emergency" => forecast.outcome == Outcome::Emergency,
        "no-root" => forecast.outcome == Outcome::NoRoot,
        "never" => forecast.outcome == Outcome::Never,
        other => panic!("unknown outcome {other}"),
    };
    let mounted = |target: &str| boot.mounted.iter().any(|m| m.split(' ').nth(1) == Some(target));
    // Only a boot that came to a report tells of its entries.
    let states = boot.outcome != "login"
        || forecast.entries.iter().filter(|e| e.target != "/").all(|e| {
            let there = match e.target.as_str() {
                "none" | "swap" => swapped(boot, &e.source),
                target => mounted(target.trim_end_matches('/')),
            };
            match e.state {
                EntryState::Unknown => true,
                EntryState::Mounted | EntryState::Active => there,
                EntryState::OnAccess => true,
                _ => !there,
            }
        });
    let root = boot.mounted.iter().rfind(|m| m.split(' ').nth(1) == Some("/"));
    let read_only = root.and_then(|m| m.split(' ').nth(3)).map(|o| o.split(',').any(|o| o == "ro"));
    let root = boot.outcome != "login" || read_only.is_none_or(|ro| ro == forecast.root_read_only);
    [outcome, states, root]
}

/// Whether an area is on: by its path, or by the disk that it names.
fn swapped(boot: &Boot, source: &str) -> bool {
    // The disks are told by the end of their UUIDs.
    let end = &source[source.len().saturating_sub(4)..];
    let disk = |path: &String| boot.devices.get(path).is_some_and(|words| words.contains(&format!("…{end}")));
    boot.swapped.iter().any(|path| path == source || (source.contains('=') && disk(path)))
}

#[test]
fn agrees_with_boots_of_other_inits_and_of_dracut() {
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    let page = std::fs::read_to_string(page).unwrap();
    let (mut misses, mut sums) = (Vec::new(), BTreeMap::<String, (usize, usize)>::new());
    for boot in
        ["inits", "dracut", "busybox", "stack"].iter().flat_map(|set| boots(set)).collect::<Vec<_>>().iter()
    {
        let forecast = judge(&host(boot), &Table::parse(boot.bytes())).forecast;
        let good = agreement(boot, &forecast);
        let name = boot.maker.clone().unwrap_or_else(|| boot.init.clone());
        let sum = sums.entry(name.clone()).or_default();
        *sum = (sum.0 + 1, sum.1 + usize::from(!good.contains(&false)));
        if good.contains(&false) {
            let states: Vec<_> =
                forecast.entries.iter().map(|e| (e.target.as_str(), e.state.words())).collect();
            let told = format!(
                "{good:?} {} ro {} {states:?}; recorded {} {:?} {:?}",
                forecast.verdict, forecast.root_read_only, boot.outcome, boot.mounted, boot.swapped
            );
            misses.push((format!("{name}: {}", boot.id), told));
        }
    }
    for (name, (all, right)) in &sums {
        println!("{name}: {all} boots, {right} right in all");
    }
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{} new: {new:#?}", new.len());
    let stale: Vec<_> = NOT_MODELLED.iter().filter(|(id, _)| !misses.iter().any(|(m, _)| m == id)).collect();
    assert!(stale.is_empty(), "modelled now: {stale:?}");
    for (name, (all, right)) in &sums {
        let row = format!("| {name} (`truth_inits.rs`) | {all} | {right}");
        assert!(page.contains(&row), "docs/model/verified.md lacks {row}");
    }
}
