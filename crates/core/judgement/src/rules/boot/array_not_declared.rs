use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Device, DeviceKind};
use bradawl_facts::table::FieldName;

/// An array by a number that nothing holds fast.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "array-not-declared",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "an array is named by its number, and mdadm.conf does not declare it",
    matters: "An array that is not declared gets a number as it is found, mostly from 127 downwards. After a change \
              of disks, or with an initramfs made elsewhere, it has another.",
    at_boot: "While the number stays, nothing. When it changes, the device is not there, or it is another array.",
    fix: "Name it by the UUID of its file system, or declare it in mdadm.conf and rebuild the initramfs.",
    rests_on: Basis::Documentation,
    verified: "mdadm.conf(5).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(declared) = case.record.early.as_ref().and_then(|e| e.arrays.as_ref()) else { return };
    for request in case.requests.iter().filter(|r| r.path.starts_with("/dev/md")) {
        let array = request.device().filter(|d| d.kind == DeviceKind::Raid);
        let Some(uuid) = array.and_then(|device| set_uuid(case, device)) else { continue };
        if declared.contains(&uuid) {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message = format!("mdadm.conf does not declare the array {uuid}: its number may change.");
        finding.why = "While the number stays, boot is not affected.".to_owned();
        finding.remedy = "Name it by the UUID of its file system, or declare the array.".to_owned();
        findings.push(finding);
    }
}

/// The array's own UUID, which its members hold.
fn set_uuid(case: &Case<'_>, array: &Device) -> Option<String> {
    let members = case.record.devices.iter().flatten().filter(|d| array.parents.contains(&d.path));
    members.filter_map(|d| d.content.as_ref()?.uuid.clone()).next()
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, Early};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_numbers_that_nothing_holds_fast() {
        let uuid = "00112233-4455-6677-8899-aabbccddeeff";
        let mut record = host();
        let mut member = Device::new("/dev/vdr", DeviceKind::Disk);
        member.content = Some(Content {
            uuid: Some(uuid.into()),
            ..Content::new(ContentKind::RaidMember, Some("Linux RAID"))
        });
        let mut array = Device::new("/dev/md127", DeviceKind::Raid);
        array.parents = vec!["/dev/vdr".into()];
        array.content = Some(Content::new(ContentKind::Filesystem, Some("ext4")));
        record.devices.as_mut().unwrap().extend([member, array]);
        for (declared, fires) in [(vec![], true), (vec![uuid.to_owned()], false)] {
            record.early = Some(Early { arrays: Some(declared), ..Early::default() });
            let found = findings_on(&record, &format!("{ROOT}/dev/md127 /srv/raid ext4 nofail 0 2\n"));
            assert_eq!(found.iter().any(|f| f.rule == "array-not-declared"), fires);
        }
    }
}
