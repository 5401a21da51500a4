use super::{asked, breach};
use crate::rules::fixing::add_options;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::{in_force, program_on, weakens};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::list;

/// Options that the policy asks for, or forbids.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "policy-options",
    family: Family::Policy,
    default: Consequence::Risk,
    what: "the policy asks for options that are not in force, or forbids some that are",
    matters: "Your policy says so; the finding gives its reason.",
    at_boot: "The boot is not affected.",
    fix: "Add the options, or remove them. For a host that is different on purpose write an exception.",
    rests_on: Basis::Documentation,
    verified: "Which of several options is in force follows mount(8): the last one, and what user, users, \
               owner and group bring.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let program = program_on(case.record);
    for (requirement, request) in asked(case) {
        let options = &request.entry.options;
        let lacking: Vec<String> =
            requirement.options.iter().filter(|o| !in_force(options, o, program)).cloned().collect();
        let forbidden: Vec<String> =
            requirement.without.iter().filter(|o| in_force(options, o, program)).cloned().collect();
        if lacking.is_empty() && forbidden.is_empty() {
            continue;
        }
        let mut finding = breach(case, &RULE, requirement, request, FieldName::Options);
        if !lacking.is_empty() {
            finding.message = format!("The policy asks for {}.", list(&lacking));
            finding.remedy = format!("Add {} to the options.", list(&lacking));
            // Nobody is made less safe by a file that was found lying about.
            let safe = !lacking.iter().any(|o| weakens(o, options));
            finding.fixes.extend(add_options(case, request, &lacking, safe));
        }
        if !forbidden.is_empty() {
            finding.message = format!("{} The policy forbids {}.", finding.message, list(&forbidden));
            finding.remedy = format!("{} Remove {}.", finding.remedy, list(&forbidden));
        }
        finding.message = finding.message.trim().to_owned();
        finding.remedy = finding.remedy.trim().to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::under_policy;

    const ASKS: &str = "[[require]]\ntarget = \"/srv/*\"\noptions = [\"nofail\", \"nosuid\"]\n\
                        without = [\"ro\"]\nreason = \"the tide waits for nobody\"\n";

    #[test]
    fn fires_on_what_is_not_in_force() {
        let found = |line: &str| {
            let all = under_policy(ASKS, &format!("LABEL=gauges {line} 0 0\n"));
            all.into_iter().find(|f| f.rule == "policy-options")
        };
        assert!(found("/srv/gauges xfs nofail,nosuid").is_none());
        assert!(found("/srv/gauges xfs nofail,user").is_none());
        assert!(found("/opt/gauges xfs defaults").is_none());
        let lacking = found("/srv/gauges xfs nofail").unwrap();
        assert!(lacking.why.contains("the tide waits") && lacking.message.contains("nosuid"));
        assert_eq!(lacking.fixes[0].edits[0].text, "nofail,nosuid");
        assert!(found("/srv/gauges xfs nofail,nosuid,ro").unwrap().message.contains("forbids ro"));
    }
}
