use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Cause, Trial};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The check at boot may give up, which stops the boot.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "check-would-fail",
    family: Family::Check,
    default: Consequence::Risk,
    what: "the file system has recorded errors, and the check that boot makes of it may give up",
    matters: "The check at boot mends what is safe to mend without asking, and gives up on the rest. A file \
              system that has recorded errors is checked in full at the next boot, with nobody there to answer.",
    at_boot: "A check that gives up stops boot in emergency mode, unless the entry has nofail. The forecast \
              takes the worse of the two.",
    fix: "Unmount it and check it by hand before the reboot.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with an ext4 whose check gives up: emergency mode with pass 2, login without the \
               entry with nofail (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Trial::Fails(Cause::Check, why) = &request.trial else { continue };
        let mut finding = case.failure(&RULE, request, FieldName::Pass);
        let path = request.device().map(|d| d.path.as_str()).unwrap_or_default();
        finding.message = format!("The check of {path} at boot may give up: {}.", visible(why));
        finding.remedy = "Unmount it and check it by hand, with answers, before the reboot.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_where_errors_meet_a_check() {
        let mut record = host();
        let mut content = Content::new(ContentKind::Filesystem, Some("ext4"));
        (content.label, content.state) = (Some("worn".into()), Some("errors".into()));
        let device = Device { content: Some(content), ..Device::new("/dev/vdd", DeviceKind::Disk) };
        record.devices.as_mut().unwrap().push(device);
        let found = |tail: &str| {
            let all = findings_on(&record, &format!("{ROOT}LABEL=worn /srv/worn ext4 {tail}\n"));
            all.into_iter().find(|f| f.rule == "check-would-fail").map(|f| f.consequence)
        };
        assert_eq!(found("defaults 0 2"), Some(Consequence::Halt));
        assert_eq!(found("nofail 0 2"), Some(Consequence::Missing));
        assert_eq!(found("defaults 0 0"), None);
        assert_eq!(found("noauto 0 2"), None);
    }
}
