use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A swap entry with a target.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-target-field",
    family: Family::Swap,
    default: Consequence::Note,
    what: "the target of a swap entry is a path, or another word than none",
    matters: "Swap is not mounted anywhere; the field says so with none. A path there is passed over, and \
          misleads the next reader.",
    at_boot: "It is passed over.",
    fix: "Write none.",
    rests_on: Basis::Recording,
    verified: "swapon(8), fstab(5); recorded boots with none and swap there.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let usual = |t: &str| matches!(t, "none" | "swap" | "");
    for request in case.requests.iter().filter(|r| r.entry.is_swap() && !usual(&r.entry.target)) {
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        finding.message = format!("The target of swap is {}; swap has none.", visible(&request.entry.target));
        finding.why = "It is passed over.".to_owned();
        finding.remedy = "Write none.".to_owned();
        findings.push(finding.with_fix("write none", "none", true));
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_paths() {
        assert_lines("swap-target-field", "LABEL=reserve /swap swap sw 0 0\n", &[2]);
        assert_lines("swap-target-field", "LABEL=reserve none swap sw 0 0\n", &[]);
        assert_lines("swap-target-field", "LABEL=reserve swap swap sw 0 0\n", &[]);
    }
}
