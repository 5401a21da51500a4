use super::requirements;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// An entry that the policy wants, and the table lacks.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "policy-entry",
    family: Family::Policy,
    default: Consequence::Risk,
    what: "the policy asks for an entry that the table does not have",
    matters: "Your policy says so; the finding gives its reason.",
    at_boot: "The boot is not affected: the directory is part of the file system above it.",
    fix: "Add the entry. For a host that is different on purpose write an exception.",
    rests_on: Basis::Facts,
    verified: "Follows from the policy.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for requirement in requirements(case).filter(|r| r.present) {
        let Some(target) = requirement.target.literal() else { continue };
        let swap = target == "swap" && case.requests.iter().any(|r| r.entry.is_swap());
        if swap || case.entry_at(target).is_some() {
            continue;
        }
        findings.push(Finding {
            consequence: requirement.consequence,
            message: format!("The policy asks for an entry for {}.", visible(target)),
            why: format!("The policy says: {}.", visible(&requirement.reason)),
            remedy: format!("Add an entry for {}.", visible(target)),
            evidence: vec![format!("asked by {}", requirement.place)],
            asked_by: Some(requirement.place.clone()),
            ..Finding::of(&RULE)
        });
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::under_policy;

    #[test]
    fn fires_on_what_is_not_there() {
        let asks = "[[require]]\ntarget = \"/tmp\"\npresent = true\nreason = \"it must not fill root\"\n";
        let fires = |table: &str| under_policy(asks, table).iter().any(|f| f.rule == "policy-entry");
        assert!(fires("LABEL=gauges /srv/gauges xfs nofail 0 0\n"));
        assert!(!fires("tmpfs /tmp tmpfs size=1G 0 0\n"));
        let swap = asks.replace("/tmp", "swap");
        assert!(under_policy(&swap, "").iter().any(|f| f.rule == "policy-entry"));
        assert!(
            under_policy(&swap, "LABEL=reserve none swap sw 0 0\n").iter().all(|f| f.rule != "policy-entry")
        );
    }
}
