use super::pass_useless::needs_no_check;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::fstypes::known;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;

/// A file system that is never checked.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "pass-missing",
    family: Family::Check,
    default: Consequence::Note,
    what: "a file system that is made to be checked at boot has pass 0",
    matters: "With pass 0 nobody looks, not even when the file system itself has recorded errors. Many leave \
              it so on purpose, to come up faster; then errors have to be watched for by other means.",
    at_boot: "The boot is not affected; the file system is mounted with its errors.",
    fix: "Write 2 in the sixth field.",
    rests_on: Basis::Documentation,
    verified: "systemd-fstab-generator(8) and fsck(8): 0 means no check.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let entry = &request.entry;
        let kept = request.content().filter(|_| entry.fstype == "auto").and_then(|c| c.fstype.as_deref());
        let fstype = kept.unwrap_or(entry.fstype.as_str());
        let checked =
            known(fstype).is_some_and(|t| t.checked) && !matches!(fstype, "vfat" | "msdos" | "exfat");
        if entry.pass != 0 || !checked || needs_no_check(request) || request.is_root() || request.noauto {
            continue;
        }
        let errors = request.content().is_some_and(|c| c.state.as_deref() == Some("errors"));
        let mut finding = case.finding(&RULE, request, FieldName::Pass);
        finding.message = format!("{fstype} with pass 0 is never checked at boot.");
        finding.why = "Errors go unnoticed until they hurt.".to_owned();
        finding.remedy = "Write 2 in the sixth field, unless it is left out on purpose.".to_owned();
        if errors {
            finding.consequence = Consequence::Risk;
            finding.why = "The file system has recorded errors, and is mounted with them.".to_owned();
            // A check at boot that cannot mend it ends in emergency mode (recorded).
            finding.remedy = "Check it by hand while it is not mounted. Write 2 only when it is clean: with \
                              errors recorded, the check at boot may give up and stop the boot."
                .to_owned();
        } else if entry.span(FieldName::Pass).is_some() {
            finding = finding.with_fix("write 2", "2", true);
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, findings_on};
    use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_types_that_are_checked() {
        let rule = "pass-missing";
        assert_lines(rule, "LABEL=hull /srv/hull ext4 nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=hull /srv/hull ext4 nofail 0 2\n", &[]);
        assert_lines(rule, "LABEL=hull /srv/hull ext4 noauto 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail 0 0\n", &[]);
        assert_lines(rule, "LABEL=FIELD /srv/field vfat nofail 0 0\n", &[]);
    }

    #[test]
    fn recorded_errors_make_it_a_risk() {
        let mut record = host();
        let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
        (content.label, content.state) = (Some("worn".into()), Some("errors".into()));
        let device = Device { content: Some(content), ..Device::new("/dev/vdd", DeviceKind::Disk) };
        record.devices.as_mut().unwrap().push(device);
        let found = findings_on(&record, &format!("{ROOT}LABEL=worn /srv/worn ext4 nofail 0 0\n"));
        let found = found.iter().find(|f| f.rule == "pass-missing").unwrap();
        assert_eq!(found.consequence, Consequence::Risk);
        assert!(found.fixes.is_empty(), "a check that may stop the boot is nobody's repair");
    }
}
