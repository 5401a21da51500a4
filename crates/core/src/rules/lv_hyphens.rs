use super::{Case, Finding, Rule};
use crate::boot::{Consequence, Need};
use crate::table::FieldName;
use crate::text::visible;

/// A logical volume's path with its hyphens not doubled.
pub(super) const RULE: Rule = Rule {
    slug: "lv-hyphens",
    default: Consequence::Missing,
    what: "hyphens inside the names of a volume group or volume are doubled under /dev/mapper",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Need::Missing(near) = &request.need else { continue };
        let Some(volume) = near.iter().find(|n| n.name.starts_with("/dev/mapper/")) else { continue };
        if !request.entry.source.starts_with("/dev/") {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!(
            "No device answers to {}; the volume is {}.",
            visible(&request.entry.source),
            visible(&volume.name)
        );
        finding.remedy = format!("Write {}: a hyphen inside a name is doubled there.", visible(&volume.name));
        findings.push(finding.with_fix(format!("write {}", volume.name), volume.name.clone(), true));
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{ROOT, findings_on, host};

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
