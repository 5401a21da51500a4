use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A logical volume's path with its hyphens not doubled.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "lv-hyphens",
    family: Family::Identity,
    default: Consequence::Missing,
    what: "hyphens inside the names of a volume group or volume are doubled under /dev/mapper",
    matters: "Under /dev/mapper a volume is called GROUP-VOLUME, and hyphens that belong to either name \
          are doubled. Written with single ones, it is another name.",
    at_boot: "No device matches the name: the boot waits 90 s for it and then stops, unless the entry has \
          nofail.",
    fix: "Double the hyphens inside the names, or write /dev/GROUP/VOLUME, where they stay single.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with both spellings (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        if !request.entry.source.starts_with("/dev/") {
            continue;
        }
        let near = request.look_alikes();
        let Some(volume) = near.iter().find(|n| n.name.starts_with("/dev/mapper/")) else { continue };
        // The name is right where the volume has it too: something else keeps it from coming.
        if volume.device.links.iter().flatten().any(|link| *link == request.entry.source) {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!(
            "No device matches {}; the volume is {}.",
            visible(&request.entry.source),
            visible(&volume.name)
        );
        finding.remedy = format!("Write {}: a hyphen inside a name is doubled there.", visible(&volume.name));
        findings.push(finding.with_fix(format!("write {}", volume.name), volume.name.clone(), true));
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn offers_the_doubled_form() {
        let mut record = host();
        record.devices.as_mut().unwrap()[1].links = Some(vec!["/dev/mapper/hold--a-cargo".into()]);
        let found = |line: &str| {
            let all = findings_on(&record, &format!("{ROOT}{line}"));
            let rules: Vec<_> = all.iter().map(|f| f.rule).collect();
            (rules.contains(&"lv-hyphens"), rules.contains(&"device-unknown"))
        };
        assert_eq!(found("/dev/mapper/hold-a-cargo /srv/gauges xfs nofail 0 0\n"), (true, false));
        assert_eq!(found("/dev/mapper/hold--a-cargo /srv/gauges xfs nofail 0 0\n"), (false, false));
        assert_eq!(found("/dev/mapper/other-a /srv/gauges xfs nofail 0 0\n"), (false, true));
    }
}
