use super::option_unknown::refused;
use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::About;
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// The option does not go with others, or with what is mounted.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-conflict",
    family: Family::Options,
    default: Consequence::Missing,
    what: "the option does not go with another in the list, or with what the device holds",
    matters: "Each option is fine by itself: together, or on this file system, they are refused. Examples are \
              options of the journal without a journal, and recovery that needs a read-only mount.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Take one of them out, or add what it needs.",
    rests_on: Basis::Recording,
    verified: "28,012 recorded answers of kernels 5.10, 6.1, 6.12 and 6.18, on images with and without the \
               features.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, checked) in refused(case) {
        if checked.about != About::Others {
            continue;
        }
        let option = &request.entry.options[checked.index];
        let mut finding = option_finding(case, &RULE, request, option);
        finding.message = format!("The option {} is rejected: {}.", visible(&option.name), checked.why);
        finding.remedy = "Remove it, or add what it needs.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_what_does_not_go_together() {
        let rule = "option-conflict";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs norecovery,nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs norecovery,ro,nofail 0 0\n", &[]);
        assert_lines(rule, "overlay /srv/o overlay upperdir=/u,lowerdir=/l,nofail 0 0\n", &[2]);
    }
}
