use super::option_unknown::{is_others, take_out};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;

/// The option belongs to another type.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-wrong-type",
    family: Family::Options,
    default: Consequence::Missing,
    what: "the option belongs to another file system type",
    matters: "A line copied for another disk brings its options along: errors= of ext4 on XFS, umask= of FAT on \
              ext4. Most types refuse what is not theirs.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Remove the option; look for what the type has instead with bradawl options TYPE.",
    rests_on: Basis::Recording,
    verified: "28,012 recorded answers of kernels 5.10, 6.1, 6.12 and 6.18, among them 5,561 with options of \
               other types.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    take_out(case, &RULE, is_others, findings);
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_options_of_others() {
        let rule = "option-wrong-type";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs errors=remount-ro,nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=FIELD /srv/field vfat errors=remount-ro,nofail 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs noatme,nofail 0 0\n", &[]);
        assert_lines("option-unknown", "LABEL=gauges /srv/gauges xfs umask=022,nofail 0 0\n", &[]);
    }
}
