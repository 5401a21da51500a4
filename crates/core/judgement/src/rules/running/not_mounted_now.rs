use super::mounted_at;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::EntryState;
use bradawl_facts::Consequence;
use bradawl_facts::path::is_within;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The next boot mounts it; nobody has so far.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "not-mounted-now",
    family: Family::Running,
    default: Consequence::Note,
    what: "the boot will mount the entry, and it is not mounted now",
    matters: "The line was written after the last boot, or somebody has unmounted it since. What programs \
              write there now goes into the directory below, and is hidden after the reboot.",
    at_boot: "It is mounted.",
    fix: "Mount it now, and see whether it works: mount TARGET.",
    rests_on: Basis::Facts,
    verified: "Follows from the running mounts and the forecast.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.compares_running() {
        return;
    }
    for request in case.requests {
        let boots = case.fate(request).is_some_and(|f| f.state == EntryState::Mounted);
        let own = request.target.as_deref().is_none_or(is_the_systems);
        if own || request.local_unit.is_some() || !boots || mounted_at(case, request).is_some() {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        let target = visible(request.target.as_deref().unwrap_or_default()).into_owned();
        finding.message = format!("Nothing is mounted on {target} now.");
        finding.why = "The boot will mount it; what is written there until then will be hidden.".to_owned();
        finding.remedy = format!("Try it now: mount {target}.");
        findings.push(finding);
    }
}

/// Root, and the directories the init system looks after by itself.
fn is_the_systems(target: &str) -> bool {
    target == "/" || ["/proc", "/sys", "/dev", "/run"].iter().any(|folder| is_within(target, folder))
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host, mounted};

    #[test]
    fn fires_on_what_only_the_boot_mounts() {
        let mut record = host();
        let line = |options: &str| format!("{ROOT}LABEL=gauges /srv/gauges xfs {options} 0 0\n");
        let fires = |record: &bradawl_facts::record::Record, options: &str| {
            findings_on(record, &line(options)).iter().any(|f| f.rule == "not-mounted-now")
        };
        assert!(!fires(&record, "nofail"), "nothing is known of what is mounted");
        record.mounts = Some(vec![mounted("/dev/vda1", "/", "ext4")]);
        assert!(fires(&record, "nofail") && !fires(&record, "noauto"));
        record.mounts.as_mut().unwrap().push(mounted("/dev/vdb", "/srv/gauges", "xfs"));
        assert!(!fires(&record, "nofail"));
    }
}
