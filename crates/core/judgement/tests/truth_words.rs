//! The forecast against recorded boots about words of the kernel's command
//! line (`lab/boot-scenarios-words.py`, booted by `lab/run-machine.py`).

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files
#![allow(dead_code)] // the guest is shared with other tests

mod guest;

use bradawl_facts::record::{Early, Initramfs, Record};
use bradawl_facts::table::Table;
use bradawl_judgement::judge;
use guest::agreement::agreement;
use guest::{Boot, boots, record};

/// So much later the machine that recorded 257 began its jobs, at most.
const LATE_S: f64 = 20.0;

/// Boots that are not forecast as they went, and why.
const NOT_MODELLED: &[(&str, &str)] = &[];

fn host(boot: &Boot) -> Record {
    let mut record = record(boot);
    let early = record.early.get_or_insert_with(Early::default);
    early.initramfs = Some(Initramfs::InitramfsTools);
    // As the machine numbered them: virtio disks.
    for device in record.devices.iter_mut().flatten().filter(|d| d.path == "/dev/ubda") {
        (device.major, device.minor) = (Some(254), Some(0));
    }
    record
}

#[test]
fn agrees_with_boots_about_the_command_line() {
    let mut misses = Vec::new();
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    let page = std::fs::read_to_string(page).unwrap();
    for set in ["words", "words-257"] {
        let boots = boots(set);
        let before = misses.len();
        for boot in &boots {
            let forecast = judge(&host(boot), &Table::parse(boot.bytes())).forecast;
            let mut good = agreement(boot, &forecast);
            // That machine began its jobs late: a wait is counted from its first target on.
            let late =
                |w: &f64| forecast.stall_s.is_some_and(|s| s > 0.0 && (0.0..LATE_S).contains(&(w - s)));
            good[2] |= set == "words-257" && boot.waits.iter().any(late);
            if good.contains(&false) {
                let told = format!(
                    "{good:?} {}; recorded {} {:?} {:?}",
                    forecast.verdict, boot.outcome, boot.waits, boot.mounted
                );
                misses.push((boot.id.clone(), told));
            }
        }
        let right = boots.len() + before - misses.len();
        println!("{set}: {} boots, {right} right in all", boots.len());
        let version = boots[0].init.strip_prefix("systemd ").unwrap();
        let row = format!(
            "| systemd {version}: words of the kernel's command line (`truth_words.rs`) | {} | {right}",
            boots.len()
        );
        assert!(page.contains(&row), "docs/model/verified.md lacks {row}");
    }
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{} new: {new:#?}", new.len());
    let stale: Vec<_> = NOT_MODELLED.iter().filter(|(id, _)| !misses.iter().any(|(m, _)| m == id)).collect();
    assert!(stale.is_empty(), "modelled now: {stale:?}");
}
