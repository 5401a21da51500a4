use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, Request};
use bradawl_facts::Consequence;
use bradawl_facts::record::Device;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{some, visible};

/// Several devices answer to one name, and chance decides.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "ambiguous",
    family: Family::Identity,
    default: Consequence::Risk,
    what: "several devices answer to the name: a doubled label, or a copied disk",
    matters: "A doubled label, or a disk copied bit by bit, makes two devices answer to one name. Members \
          of one file system over several devices rightly share theirs.",
    at_boot: "The one found last is used: the right one today, the copy tomorrow.",
    fix: "Give the copy a label or UUID of its own, or name the device by its partition.",
    rests_on: Basis::Documentation,
    verified: "The rule of udev's links: a later device with the same name takes the link over.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Need::Present(devices) = &request.need else { continue };
        if devices.len() < 2 || belong_together(devices) {
            continue;
        }
        findings.push(finding(case, request, devices));
    }
}

fn finding(case: &Case<'_>, request: &Request<'_>, devices: &[&Device]) -> Finding {
    let paths: Vec<String> = devices.iter().map(|d| d.path.clone()).collect();
    let mut finding = case.finding(&RULE, request, FieldName::Source);
    finding.message = format!("{} answer to {}.", some(&paths), visible(&request.entry.source));
    finding.why = "The one found last at boot is used; the next boot may use another.".to_owned();
    finding.remedy =
        "Give each its own: a new label or UUID for the copy, or name the device by its partition's UUID."
            .to_owned();
    for device in devices.iter().take(MAX_FIXES) {
        let own = device.partition.as_ref().and_then(|p| p.uuid.as_ref());
        if let Some(uuid) = own {
            finding = finding.with_fix(
                format!("write PARTUUID={uuid}, {}", device.path),
                format!("PARTUUID={uuid}"),
                false,
            );
        }
    }
    finding
}

/// More ready names are of no help to anybody.
const MAX_FIXES: usize = 8;

/// The devices of one file system, array or pool all answer to its name.
pub(in crate::rules) fn belong_together(devices: &[&Device]) -> bool {
    let ids: Vec<_> = devices.iter().filter_map(|d| d.content.as_ref()?.sub_uuid.as_ref()).collect();
    let distinct = ids.iter().enumerate().all(|(n, id)| !ids[..n].contains(id));
    ids.len() == devices.len() && distinct
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::Record;
    use bradawl_facts::testing::{ROOT, host};

    fn fires(record: &Record) -> bool {
        let table = format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail 0 0\n");
        findings_on(record, &table).iter().any(|f| f.rule == "ambiguous")
    }

    #[test]
    fn a_copy_but_not_a_companion() {
        let mut record = host();
        assert!(!fires(&record));
        let devices = record.devices.as_mut().unwrap();
        let mut copy = devices[1].clone();
        copy.path = "/dev/vdd".into();
        devices.push(copy);
        assert!(fires(&record));
        let devices = record.devices.as_mut().unwrap();
        devices[1].content.as_mut().unwrap().sub_uuid = Some("one".into());
        devices[4].content.as_mut().unwrap().sub_uuid = Some("two".into());
        assert!(!fires(&record));
    }
}
