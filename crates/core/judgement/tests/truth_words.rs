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
    for set in ["words"] {
        let boots = boots(set);
        let before = misses.len();
        for boot in &boots {
            let forecast = judge(&host(boot), &Table::parse(boot.bytes())).forecast;
            let good = agreement(boot, &forecast);
            if good.contains(&false) {
                let told = format!(
                    "{good:?} {}; recorded {} {:?} {:?}",
                    forecast.verdict, boot.outcome, boot.waits, boot.mounted
                );
                misses.push((boot.id.clone(), told));
            }
        }
        println!("{set}: {} boots, {} right in all", boots.len(), boots.len() + before - misses.len());
    }
    let known = |id: &str| NOT_MODELLED.iter().any(|(known, _)| *known == id);
    let new: Vec<_> = misses.iter().filter(|(id, _)| !known(id)).collect();
    assert!(new.is_empty(), "{} new: {new:#?}", new.len());
    let stale: Vec<_> = NOT_MODELLED.iter().filter(|(id, _)| !misses.iter().any(|(m, _)| m == id)).collect();
    assert!(stale.is_empty(), "modelled now: {stale:?}");
}
