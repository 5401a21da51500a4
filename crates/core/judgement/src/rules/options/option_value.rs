use super::option_unknown::refused;
use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_catalogue::options::{About, near_value};
use bradawl_facts::Consequence;
use bradawl_facts::Version;
use bradawl_facts::text::visible;

/// The option exists, but not with this value.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-value",
    family: Family::Options,
    default: Consequence::Missing,
    what: "the file system type does not accept the option's value",
    matters: "The option exists, but its value has a form or range that the file system rejects.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Correct the value, or remove the option.",
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
            "The option {} is rejected with {}: it {}.",
            visible(&option.name),
            visible(value),
            checked.why
        );
        let near = near_value(mounted_as(request), &option.name, value, kernel_of(case));
        finding.remedy = match &near {
            Some(near) => format!("Write {}={near}.", visible(&option.name)),
            None => format!("Correct the value of {}, or remove the option.", visible(&option.name)),
        };
        if let Some(near) = near {
            let text = format!("{}={near}", option.name);
            finding = finding.with_fix(format!("write {text}"), text.clone(), true);
        }
        findings.push(finding);
    }
}

/// The type whose options count: the one written, of several the first.
fn mounted_as<'r>(request: &'r Request<'_>) -> &'r str {
    request.entry.types().next().unwrap_or("auto")
}

fn kernel_of(case: &Case<'_>) -> Option<Version> {
    case.record.host.kernel.as_deref().and_then(Version::parse)
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn offers_the_value_that_was_meant() {
        for (list, text) in [("size=2GG", "size=2G"), ("huge=Always", "huge=always")] {
            let found = only("option-value", &format!("tmpfs /tmp tmpfs {list} 0 0\n"));
            assert_eq!(found.fixes[0].edits[0].text, text);
        }
    }

    #[test]
    fn fires_on_values_out_of_form() {
        assert_lines("option-value", "tmpfs /tmp tmpfs size=lots 0 0\n", &[2]);
        assert_lines("option-value", "tmpfs /tmp tmpfs size=2G 0 0\n", &[]);
        assert_lines("option-unknown", "tmpfs /tmp tmpfs size=lots 0 0\n", &[]);
        assert!(only("option-value", "tmpfs /tmp tmpfs size=lots 0 0\n").message.contains("needs a size"));
    }
}
