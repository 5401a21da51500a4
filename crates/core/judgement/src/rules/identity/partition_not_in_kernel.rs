use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The partition is on the disk, but the kernel has not read the table anew.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "partition-not-in-kernel",
    family: Family::Identity,
    default: Consequence::Note,
    what: "the partition is in the disk's table, but the kernel does not know it yet",
    matters: "A partition that was made while the disk was in use may not be known to the kernel until it \
          reads the table of partitions again. The name works after a reboot and not before.",
    at_boot: "A reboot reads the partitions again, so boot is not affected by this alone.",
    fix: "Have the kernel read the partitions again, or wait for the reboot.",
    rests_on: Basis::Recording,
    verified: "Real GPT disks on loop devices, the partition table changed under the kernel.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some((disk, entry)) = case.index.unread_partition(&request.source) else { continue };
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message = format!(
            "{} is partition {} of {}, which the running kernel does not know yet.",
            visible(&request.entry.source),
            entry.number,
            disk.path
        );
        finding.why =
            "The next boot reads the disk again and finds it; until then it cannot be mounted.".to_owned();
        finding.remedy = "Let the kernel read the partition table again, or reboot.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, Origin, PartitionEntry};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_for_what_the_disk_has_and_the_kernel_has_not() {
        let mut record = host();
        let mut table = Content::new(ContentKind::PartitionTable, Some("gpt"));
        table.partitions = vec![PartitionEntry {
            number: 2,
            start: 4096,
            size: 4096,
            uuid: Some("ef-02".into()),
            label: None,
            type_id: "x".into(),
            extended: false,
            out_of_range: false,
            no_auto: false,
        }];
        let disk = Device { content: Some(table), ..Device::new("/dev/vde", DeviceKind::Disk) };
        record.devices.as_mut().unwrap().push(disk);
        record.host.origin = Some(Origin::Live);
        let fires = |line: &str| {
            findings_on(&record, &format!("{ROOT}{line}")).iter().any(|f| f.rule == "partition-not-in-kernel")
        };
        assert!(fires("PARTUUID=ef-02 /srv/x ext4 nofail 0 2\n"));
        assert!(!fires("PARTUUID=ef-03 /srv/x ext4 nofail 0 2\n"));
    }
}
