use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::Verdict;
use bradawl_facts::Consequence;

/// Quotas that nothing switches on.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "quota-without-tools",
    family: Family::Options,
    default: Consequence::Risk,
    what: "quotas are asked for, and the programs that switch them on are not installed",
    matters: "File systems that keep quotas in files only note the option when they are mounted; quotacheck and \
              quotaon count and switch the limits on. Without them nobody is limited, and nothing says so.",
    at_boot: "The mount works. No limit is enforced.",
    fix: "Install the quota programs, or keep quotas inside the file system (the feature quota of ext4), or \
          remove the option.",
    rests_on: Basis::Recording,
    verified: "quotaon(8), ext4(5); recorded mounts with quota options and without the feature.",
    check,
};

/// Types that keep quotas in files; others switch them on while mounting.
const IN_FILES: [&str; 6] = ["ext2", "ext3", "ext4", "jfs", "reiserfs", "f2fs"];
const OPTIONS: [&str; 6] = ["quota", "usrquota", "grpquota", "prjquota", "usrjquota", "grpjquota"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(tools) = case.record.programs.as_ref().and_then(|p| p.quota.as_ref()) else { return };
    if tools.iter().any(|t| t == "quotaon") {
        return;
    }
    for request in case.requests.iter().filter(|r| IN_FILES.contains(&r.entry.fstype.as_str())) {
        let inside = request.content().is_some_and(|c| c.features.iter().any(|f| f == "quota"));
        let asked = request.entry.options.iter().zip(&request.options).find(|(option, checked)| {
            OPTIONS.contains(&option.name.as_str())
                && checked.verdict == Verdict::Accepted
                && option.value.as_deref() != Some("")
        });
        let Some((option, _)) = asked.filter(|_| !inside) else { continue };
        let mut finding = option_finding(case, &RULE, request, option);
        finding.consequence = Consequence::Risk;
        finding.stall_s = Some(0.0);
        finding.message = "Quotas are asked for, and nothing on this host switches them on.".to_owned();
        finding.why = "The mount works; no limit is enforced.".to_owned();
        finding.remedy = "Install the quota programs, or remove the option.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::Programs;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_without_the_programs() {
        let line = "LABEL=hull /srv/hull ext4 nofail,usrquota 0 2";
        for (tools, line, fires) in [
            (Some(vec![]), line, true),
            (Some(vec!["quotaon".to_owned()]), line, false),
            (None, line, false),
            (Some(vec![]), "LABEL=gauges /srv/gauges xfs nofail,usrquota 0 0", false),
        ] {
            let mut record = host();
            record.programs = Some(Programs { quota: tools, ..Programs::default() });
            let found = findings_on(&record, &format!("{ROOT}{line}\n"));
            assert_eq!(found.iter().any(|f| f.rule == "quota-without-tools"), fires, "{line}");
        }
    }
}
