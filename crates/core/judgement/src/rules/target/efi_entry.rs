use super::running_only;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The EFI system partition: known to the table, and the right one.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "efi-entry",
    family: Family::Target,
    default: Consequence::Risk,
    what: "the EFI system partition is mounted without an entry, or the entry names another partition",
    matters: "The boot loader lives on the EFI system partition. Updates write to the directory it is mounted \
              on: when something else is there, or nothing, the machine goes on starting the old one.",
    at_boot: "The boot is not affected; the next change of the boot loader is.",
    fix: "Add an entry for it, or name the partition whose type is EFI system.",
    rests_on: Basis::Facts,
    verified: "Follows from the partition types and the running mounts.",
    check,
};

/// Where it is mounted by custom; /boot may be one as well.
const TARGETS: [&str; 2] = ["/boot/efi", "/efi"];
const TYPE: &str = "c12a7328-f81f-11d2-ba4b-00a0c93ec93b";

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if let Some(mount) = TARGETS.iter().find_map(|t| running_only(case, t)) {
        findings.push(Finding {
            message: format!(
                "{} is mounted from {}, and the table has no entry for it.",
                visible(&mount.target),
                visible(&mount.source)
            ),
            why: "After a reboot the boot loader's updates go where the firmware does not look.".to_owned(),
            remedy: format!("Add an entry for {}.", visible(&mount.target)),
            ..Finding::of(&RULE)
        });
    }
    let exists = case.record.devices().iter().any(|d| {
        let part = d.partition.as_ref().and_then(|p| p.type_id.as_deref());
        part.is_some_and(|t| t.eq_ignore_ascii_case(TYPE))
    });
    for request in TARGETS.iter().filter_map(|t| case.entry_at(t)) {
        let part = request.device().and_then(|d| d.partition.as_ref()).and_then(|p| p.type_id.as_deref());
        let other = part.is_some_and(|t| !t.eq_ignore_ascii_case(TYPE) && !t.eq_ignore_ascii_case("0xef"));
        if !other || !exists {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        let path = request.device().map(|d| d.path.as_str()).unwrap_or_default();
        finding.message = format!("{path} is not the EFI system partition of this host.");
        finding.why = "The boot loader's updates go where the firmware does not look.".to_owned();
        finding.remedy = "Name the partition whose type is EFI system.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Device, DeviceKind, PartitionFacts, Record};
    use bradawl_facts::testing::{ROOT, host, mounted};

    fn fires(record: &Record, table: &str) -> bool {
        findings_on(record, table).iter().any(|f| f.rule == "efi-entry")
    }

    #[test]
    fn fires_without_an_entry() {
        let mut record = host();
        record.mounts = Some(vec![mounted("/dev/sdb1", "/boot/efi", "vfat")]);
        assert!(fires(&record, ROOT));
        assert!(!fires(&record, &format!("{ROOT}LABEL=FIELD /boot/efi vfat umask=0077 0 1\n")));
    }

    #[test]
    fn fires_on_another_partition() {
        let mut record = host();
        let table = format!("{ROOT}LABEL=FIELD /boot/efi vfat umask=0077 0 1\n");
        let of_type = |t: &str| Some(PartitionFacts { type_id: Some(t.into()), ..PartitionFacts::default() });
        let devices = record.devices.as_mut().unwrap();
        devices[3].partition = of_type("ebd0a0a2-b9e5-4433-87c0-68b6b72699c7");
        devices.push(Device { partition: of_type(TYPE), ..Device::new("/dev/vda15", DeviceKind::Partition) });
        assert!(fires(&record, &table));
        record.devices.as_mut().unwrap()[3].partition = of_type(TYPE);
        assert!(!fires(&record, &table));
    }
}
