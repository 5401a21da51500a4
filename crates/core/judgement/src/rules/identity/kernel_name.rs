use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Need;
use bradawl_facts::Consequence;
use bradawl_facts::record::DeviceKind;
use bradawl_facts::table::FieldName;
use bradawl_resolve::{Resolution, Source, best_identity, is_kernel_name};

/// A name that follows the order in which the kernel finds its disks.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "kernel-name",
    family: Family::Identity,
    default: Consequence::Risk,
    what: "the source is a kernel name, which another boot may give to another disk",
    matters: "Names such as /dev/sdb1 are given in the order in which disks are found. A disk added, \
          removed or moved shifts them, and so may the timing of two controllers.",
    at_boot: "It works as long as the order stays. The day it does not, another disk is mounted here, or \
          none.",
    fix: "Write the UUID of the content, or the PARTUUID where there is none.",
    rests_on: Basis::Recording,
    verified: "The kernel's documentation of device names; recorded boots with kernel names work (systemd \
          252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Source::Device(path) = &request.source else { continue };
        let Need::Present(devices) = &request.need else { continue };
        let optical = devices.iter().any(|d| d.kind == DeviceKind::Optical);
        // The name of a member is another matter: its own UUID would not do.
        let member = devices.iter().any(|d| d.content.as_ref().is_some_and(|c| c.kind.is_member()));
        if !is_kernel_name(path) || request.passing || optical || member || is_fixed(case, path) {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message = format!("{path} is named by the order in which disks are found.");
        finding.why =
            "After a disk is added, removed or moved, another one may have this name at the next boot."
                .to_owned();
        let name = devices.first().and_then(|d| best_identity(d));
        finding.remedy = match &name {
            Some(name) => format!("Write {name}, which stays with what the device holds."),
            None => "Give the device a file system or a partition with a UUID, and write that.".to_owned(),
        };
        if let Some(name) = name {
            let alone =
                matches!(case.index.resolve(&Source::parse(&name)), Resolution::Found(d) if d.len() == 1);
            finding = finding.with_fix(format!("write {name}"), name, alone);
        }
        findings.push(finding);
    }
}

/// Whether the board or the bus fixes the name: card slots that a device tree
/// numbers, and the drives of the old IDE driver.
fn is_fixed(case: &Case<'_>, path: &str) -> bool {
    let name = path.strip_prefix("/dev/").unwrap_or_default();
    let architecture = case.record.host.architecture.as_deref().unwrap_or_default();
    let board = ["arm", "aarch64", "riscv"].iter().any(|a| architecture.starts_with(a));
    let ide = name.strip_prefix("hd").is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_lowercase()));
    (board && name.starts_with("mmcblk")) || ide
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, findings_on, only};
    use bradawl_facts::record::Record;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_kernel_names_of_devices_that_are_there() {
        assert_lines("kernel-name", "/dev/vdb /srv/gauges xfs nofail 0 0\n", &[2]);
        assert_lines("kernel-name", "/dev/mapper/hold-cargo /srv/gauges xfs nofail 0 0\n", &[]);
        assert_lines("kernel-name", "/dev/vdz /srv/gauges xfs nofail 0 0\n", &[]);
        assert_lines(
            "kernel-name",
            "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges xfs nofail 0 0\n",
            &[],
        );
    }

    #[test]
    fn a_slot_that_the_board_numbers_is_no_order_of_discovery() {
        let mut record = host();
        record.devices.as_mut().unwrap()[1].path = "/dev/mmcblk0p1".into();
        let fires = |record: &Record| {
            let found = findings_on(record, &format!("{ROOT}/dev/mmcblk0p1 /srv/gauges xfs nofail 0 0\n"));
            found.iter().any(|f| f.rule == "kernel-name")
        };
        assert!(fires(&record));
        record.host.architecture = Some("aarch64".into());
        assert!(!fires(&record));
    }

    #[test]
    fn offers_the_uuid() {
        let finding = only("kernel-name", "/dev/sdb1 /media/field vfat nofail 0 0\n");
        assert_eq!(finding.fixes[0].edits[0].text, "UUID=4B1D-7E20");
        assert!(finding.fixes[0].safe);
    }
}
