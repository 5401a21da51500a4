//! Compressed memory that systemd's generator makes at every boot: its units come
//! whatever the table says, and take the place of those of entries with the same name
//! (zram-generator 1.1.2, run beside the table's generator: it writes over a unit that is
//! there, and the other fails where one is).

use super::unit_name::mount_unit;
use bradawl_facts::record::{CommandLine, Record, ZramDevice};

/// The devices that are made at the next boot; `None`: the generator has no settings,
/// and may not be there.
pub fn compressed(record: &Record) -> Option<Vec<ZramDevice>> {
    if !record.host.boots_with().is_systemd() {
        return Some(Vec::new());
    }
    let told = record.swapping.as_ref().and_then(|s| s.compressed())?;
    let line = CommandLine::of(record);
    if line.denies("systemd.zram") {
        return Some(Vec::new());
    }
    let mut made = told.into_owned();
    // A yes asks for the first one, whatever is set.
    if line.names("systemd.zram") && made.iter().all(|d| d.name != ZramDevice::FIRST) {
        made.insert(0, ZramDevice::first());
    }
    Some(made)
}

/// Whether the unit of this name is that generator's.
pub(super) fn is_made(record: &Record, unit: &str) -> bool {
    let is_it = |device: &ZramDevice| match &device.mount_point {
        Some(target) => mount_unit(target) == unit,
        None => device.priority.is_some() && unit == format!("dev-{}.swap", device.name),
    };
    compressed(record).is_some_and(|all| all.iter().any(is_it))
}

#[cfg(test)]
mod tests {
    use crate::{EntryState, Outcome, forecast, requests};
    use bradawl_facts::record::{Swapping, ZramDevice};
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host};
    use bradawl_resolve::Index;

    #[test]
    fn entries_of_what_is_made_wait_for_nothing() {
        let device = |name: &str, priority, mount_point: Option<&str>| ZramDevice {
            name: name.to_owned(),
            priority,
            mount_point: mount_point.map(str::to_owned),
        };
        let mut record = host();
        let table = Table::parse(format!(
            "{ROOT}/dev/zram0 none swap defaults 0 0\n/dev/zram1 /var/tmp ext4 defaults 0 0\n"
        ));
        let states = |record: &bradawl_facts::record::Record| {
            let index = Index::new(record);
            let boot = forecast(record, &index, &requests(record, &index, &table));
            (boot.outcome, boot.entries.iter().map(|e| e.state).skip(1).collect::<Vec<_>>())
        };
        assert_eq!(states(&record).0, Outcome::Emergency);
        let made = vec![device("zram0", Some(100), None), device("zram1", None, Some("/var/tmp"))];
        record.swapping = Some(Swapping { zram_devices: Some(made), ..Swapping::default() });
        assert_eq!(states(&record), (Outcome::Up, vec![EntryState::Active, EntryState::Mounted]));
        record.swapping = Some(Swapping { zram_devices: Some(Vec::new()), ..Swapping::default() });
        assert_eq!(states(&record).0, Outcome::Emergency);
        let swap = Table::parse(format!("{ROOT}/dev/zram0 none swap defaults 0 0\n"));
        record.command_line = Some("ro systemd.zram".to_owned());
        let index = Index::new(&record);
        let asked = forecast(&record, &index, &requests(&record, &index, &swap));
        assert_eq!(asked.entries[1].state, EntryState::Active, "asked for by the command line alone");
        record.command_line = Some("ro systemd.zram=0".to_owned());
        assert_eq!(states(&record).0, Outcome::Emergency);
    }
}
