use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::directories::Role;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A device over a directory the system itself needs.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-hides",
    family: Family::Target,
    default: Consequence::Risk,
    what: "a device is mounted over a directory that the running system needs as it is",
    matters: "Programs, libraries, settings and the kernel's own file systems lie in these directories. A device \
              mounted over one hides them in the middle of the boot.",
    at_boot: "Over /proc, /sys, /dev and /run systemd ignores the entry. Over the others the mount works, and \
              what boot needs next is gone.",
    fix: "Choose a directory of its own, such as one below /srv.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a disk on /proc: the entry is ignored (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| r.source.wants_device()) {
        let Some(target) = request.target.as_deref() else { continue };
        if !Role::PartOfRoot.is_of(target) && !Role::Kernel.covers(target) {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        case.judge(&mut finding, request);
        finding.message = format!("{} would hide what the system needs there.", visible(target));
        finding.remedy = "Choose a directory of its own, such as one below /srv.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_over_what_the_system_needs() {
        let rule = "target-hides";
        for (target, fires) in
            [("/etc", true), ("/proc", true), ("/usr", false), ("/var", false), ("/etc/tides", false)]
        {
            let line = format!("LABEL=gauges {target} xfs nofail 0 0\n");
            assert_lines(rule, &line, if fires { &[2] } else { &[] });
        }
        assert_lines(rule, "proc /proc proc defaults 0 0\ntmpfs /dev/shm tmpfs nosuid 0 0\n", &[]);
        assert_eq!(only(rule, "LABEL=gauges /proc xfs nofail 0 0\n").consequence, Consequence::Missing);
    }
}
