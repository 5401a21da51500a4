use super::option_unknown::verdicts;
use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::{Verdict, is_label};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// The option is taken and does nothing.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-ignored",
    family: Family::Options,
    default: Consequence::Note,
    what: "the kernel accepts the option and ignores it",
    matters: "The option is obsolete: its effect is now built in, or gone. Whoever reads the line believes \
              otherwise, and a later kernel may reject it.",
    at_boot: "The boot is not affected.",
    fix: "Remove the option.",
    rests_on: Basis::Recording,
    verified: "Recorded answers of four kernels: mounted, without trace of the option, and said so by the \
               kernel.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, checked) in verdicts(case, Verdict::Ignored) {
        if request.entry.is_swap() {
            continue;
        }
        let option = &request.entry.options[checked.index];
        let mut finding = option_finding(case, &RULE, request, option);
        finding.consequence = Consequence::Note;
        finding.stall_s = Some(0.0);
        finding.message = format!("The option {} has no effect: {}.", visible(&option.name), checked.why);
        finding.why = "The boot is not affected.".to_owned();
        // A label counts again as soon as its module does: it is not ours to take away.
        if is_label(&option.name) {
            finding.remedy = "Leave it where SELinux is to come; else remove it.".to_owned();
        } else {
            finding.remedy = "Remove it from the list.".to_owned();
            finding.fixes.extend(removal(case, request, checked.index));
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_what_does_nothing() {
        assert_lines("option-ignored", "LABEL=gauges /srv/gauges xfs attr2,nofail 0 0\n", &[2]);
        assert_lines("option-ignored", "LABEL=gauges /srv/gauges xfs noatime,nofail 0 0\n", &[]);
        assert_lines("option-ignored", "LABEL=reserve none swap sw,whatever 0 0\n", &[]);
    }
}
