use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::directories::Role;
use bradawl_facts::Consequence;

/// The system itself is only mounted when somebody touches it.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "automount-vital",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "x-systemd.automount on what the system itself lives on",
    matters: "The first service that looks there waits until it is mounted, and fails when that fails; on directories \
              that everything uses this is all of them, in an order nobody foresees. On root it has no effect.",
    at_boot: "The directory is there at once, and each use of it waits for the device.",
    fix: "Take x-systemd.automount out of the entry.",
    rests_on: Basis::Recording,
    verified: "systemd.automount(5); recorded boots with automounts of data (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| r.automount) {
        let Some(target) = request.target.as_deref().filter(|t| Role::TouchedByAll.is_of(t)) else {
            continue;
        };
        let options = &request.entry.options;
        let Some(at) = options.iter().rposition(|o| o.name == "x-systemd.automount") else { continue };
        let mut finding = option_finding(case, &RULE, request, &options[at]);
        finding.consequence = finding.consequence.min(Consequence::Risk);
        finding.message = format!("{target} is only mounted when something touches it.");
        finding.why = "Each service that needs it waits for it, and fails with it.".to_owned();
        finding.remedy = "Take x-systemd.automount out.".to_owned();
        finding.fixes.extend(removal(case, request, at));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_where_everything_looks() {
        for (target, fires) in [("/var", true), ("/srv/gauges", false)] {
            let line = format!("LABEL=gauges {target} xfs x-systemd.automount 0 0\n");
            assert_lines("automount-vital", &line, if fires { &[2] } else { &[] });
        }
    }
}
