use super::{asked, breach};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{list, visible};

/// A type that the policy does not allow.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "policy-type",
    family: Family::Policy,
    default: Consequence::Risk,
    what: "the policy does not allow the file system type there",
    matters: "Your policy says so; the finding gives its reason.",
    at_boot: "The boot is not affected.",
    fix: "Use one of the types it allows. For a host that is different on purpose write an exception.",
    rests_on: Basis::Facts,
    verified: "Follows from the policy.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (requirement, request) in asked(case) {
        let held = request.content().and_then(|c| c.fstype.as_deref());
        let written = request.entry.fstype.as_str();
        let fstype = if written == "auto" { held.unwrap_or(written) } else { written };
        if requirement.types.is_empty() || requirement.types.iter().any(|t| t == fstype) {
            continue;
        }
        let mut finding = breach(case, &RULE, requirement, request, FieldName::Type);
        finding.message = format!("The policy does not allow {} here.", visible(fstype));
        finding.remedy = format!("Use {}.", list(&requirement.types));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::under_policy;

    #[test]
    fn fires_on_types_that_are_not_allowed() {
        let asks =
            "[[require]]\ntarget = \"/srv/*\"\ntypes = [\"ext4\", \"xfs\"]\nreason = \"we know them\"\n";
        let fires = |line: &str| {
            under_policy(asks, &format!("{line} nofail 0 0\n")).iter().any(|f| f.rule == "policy-type")
        };
        assert!(!fires("LABEL=gauges /srv/gauges xfs") && !fires("LABEL=gauges /srv/gauges auto"));
        assert!(fires("LABEL=FIELD /srv/field vfat") && !fires("LABEL=FIELD /media/field vfat"));
    }
}
