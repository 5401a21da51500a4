use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::fstypes::known;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A check is asked for, and nobody can make it.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "checker-missing",
    family: Family::Content,
    default: Consequence::Risk,
    what: "a check at boot is asked for, but the program fsck.TYPE is not installed",
    matters: "The pass number says that the file system is to be checked. Without its checker it never is, \
              and errors grow unnoticed.",
    at_boot: "systemd says that there is no checker and mounts the file system unchecked.",
    fix: "Install the package that brings fsck.TYPE, or write 0 in the sixth field.",
    rests_on: Basis::Documentation,
    verified: "systemd-fsck(8): types without a checker are passed over.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(programs) = &case.record.programs else { return };
    for request in case.requests.iter().filter(|r| r.entry.pass > 0 && r.source.wants_device()) {
        let held = request.content().and_then(|c| c.fstype.as_deref());
        let fstype = if request.entry.fstype == "auto" { held } else { Some(request.entry.fstype.as_str()) };
        let Some(fstype) = fstype.filter(|t| known(t).is_some_and(|t| t.checked)) else { continue };
        if programs.checkers.iter().any(|c| c == fstype) {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Pass);
        finding.message = format!("There is no fsck.{} on this host.", visible(fstype));
        finding.why = "The file system is mounted unchecked, at this boot and every other.".to_owned();
        finding.remedy = "Install its checker, or write 0 in the sixth field.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::Programs;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_where_a_check_is_asked_for() {
        let mut record = host();
        record.programs = Some(Programs { checkers: vec!["ext4".into()], ..Programs::default() });
        for (line, fires) in [
            ("LABEL=FIELD /srv/field vfat nofail 0 2\n", true),
            ("LABEL=FIELD /srv/field auto nofail 0 2\n", true),
            ("LABEL=FIELD /srv/field vfat nofail 0 0\n", false),
            ("LABEL=gauges /srv/gauges xfs nofail 0 2\n", false),
        ] {
            let found = findings_on(&record, &format!("{ROOT}{line}"));
            assert_eq!(found.iter().any(|f| f.rule == "checker-missing"), fires, "{line}");
        }
        assert!(findings_on(&record, ROOT).iter().all(|f| f.rule != "checker-missing"));
    }
}
