use crate::rules::{Basis, Family, Rule};
use bradawl_facts::Consequence;

/// An exception without a finding; looked for over all hosts of a run, by
/// [`leftovers`](crate::rules::leftovers).
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "exception-unused",
    family: Family::Policy,
    default: Consequence::Note,
    what: "an exception in the policy matched no finding on any of the hosts it is for",
    matters: "What it excused has been mended, or its patterns do not say what they were meant to. Left in \
              place, it will one day hide something new.",
    at_boot: "The boot is not affected.",
    fix: "Remove the exception from the policy, or correct its patterns.",
    rests_on: Basis::Facts,
    verified: "Counted over all hosts of one run; an exception for other hosts is not counted.",
    check: |_, _| {},
};
