use super::option_unknown::refused;
use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::About;
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// The option exists, but not with this value.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-value",
    family: Family::Options,
    default: Consequence::Missing,
    what: "the option's value is not one the type takes",
    matters: "The option exists, and its value is not of the form or in the range the file system takes.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Correct the value, or take the option out.",
    rests_on: Basis::Recording,
    verified: "More than two thousand recorded option lists on kernels 5.10, 6.1, 6.12 and 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, checked) in refused(case) {
        if checked.about != About::Value {
            continue;
        }
        let option = &request.entry.options[checked.index];
        let mut finding = option_finding(case, &RULE, request, option);
        let value = option.value.as_deref().unwrap_or("no value");
        finding.message = format!(
            "The option {} is refused with {}: it {}.",
            visible(&option.name),
            visible(value),
            checked.why
        );
        finding.remedy = format!("Correct the value of {}, or take the option out.", visible(&option.name));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_values_out_of_form() {
        assert_lines("option-value", "tmpfs /tmp tmpfs size=lots 0 0\n", &[2]);
        assert_lines("option-value", "tmpfs /tmp tmpfs size=2G 0 0\n", &[]);
        assert_lines("option-unknown", "tmpfs /tmp tmpfs size=lots 0 0\n", &[]);
        assert!(only("option-value", "tmpfs /tmp tmpfs size=lots 0 0\n").message.contains("needs a size"));
    }
}
