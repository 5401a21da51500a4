use super::option_unknown::take_out;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::About;
use bradawl_facts::Consequence;

/// The kernel is too new for the option, or too old.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-retired",
    family: Family::Options,
    default: Consequence::Missing,
    what: "this kernel does not take the option any more, or does not take it yet",
    matters: "Kernels drop options from one release to the next, and take on others. The entry worked until \
              the kernel was upgraded, or works on the host it was copied from.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode. For root the remount \
              fails and root stays read-only.",
    fix: "Remove the option, or write its replacement.",
    rests_on: Basis::Recording,
    verified: "28,012 recorded answers of kernels 5.10, 6.1, 6.12 and 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    take_out(case, &RULE, |checked| checked.about == About::Kernel, findings);
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};
    use bradawl_facts::Consequence;

    #[test]
    fn fires_on_other_kernels_options() {
        let rule = "option-retired";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nobarrier 0 0\n", &[2]);
        assert_lines(rule, "tmpfs /srv/t tmpfs noswap,nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs noatme 0 0\n", &[]);
        let found = only(rule, "LABEL=gauges /srv/gauges xfs noatime,nobarrier 0 0\n");
        assert_eq!((found.consequence, found.fixes[0].edits[0].text.as_str()), (Consequence::Halt, ""));
    }
}
