use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{EntryForecast, EntryState};
use bradawl_catalogue::directories::Role;
use bradawl_facts::Consequence;

/// The boot may go on without what the system lives on.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "nofail-on-vital",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "nofail on what the system itself lives on",
    matters: "With nofail nothing waits for the mount either: services may start before it is there, write into \
              the empty directory below it, or not start at all. On root it has no effect.",
    at_boot: "While the device is there, the mount may come after services that need it. When it is not, the \
              system comes up without a part of itself.",
    fix: "Take nofail out of the entry.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with nofail; systemd.mount(5): such a mount is not ordered before local-fs.target.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| r.source.wants_device()) {
        let target = request.target.as_deref().unwrap_or_default();
        let options = &request.entry.options;
        let at = options.iter().rposition(|o| o.name == "nofail");
        // Where nofail itself ends the boot, the rule for /usr says so.
        let halts = |f: &&EntryForecast| f.consequence == Some(Consequence::Halt);
        let told = target == "/usr" && case.fate(request).filter(halts).is_some();
        let tried = !told && case.fate(request).is_none_or(|f| f.state != EntryState::Ignored);
        let Some(at) = at.filter(|_| Role::NeededFirst.is_of(target) && tried) else { continue };
        let mut finding = option_finding(case, &RULE, request, &options[at]);
        finding.consequence = finding.consequence.min(Consequence::Risk);
        let root = target == "/";
        finding.message = match root {
            true => "nofail has no effect on root.".to_owned(),
            false => format!("The boot may go on without {target}, which the system lives on."),
        };
        finding.why = match root {
            true => "The init system leaves it out of the entry for root.".to_owned(),
            false => "Nothing waits for it: services may start before it is there.".to_owned(),
        };
        finding.remedy = "Take nofail out.".to_owned();
        finding.fixes.extend(removal(case, request, at));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_where_the_system_lives() {
        for (target, list, fires) in
            [("/var", "nofail", true), ("/usr", "defaults", false), ("/srv/gauges", "nofail", false)]
        {
            let line = format!("LABEL=gauges {target} xfs {list} 0 0\n");
            assert_lines("nofail-on-vital", &line, if fires { &[2] } else { &[] });
        }
    }
}
