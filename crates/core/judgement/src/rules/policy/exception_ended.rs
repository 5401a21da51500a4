use crate::rules::{Basis, Family, Rule};
use bradawl_facts::Consequence;

/// An exception after its last day; looked for over all hosts of a run, by
/// [`leftovers`](crate::rules::leftovers).
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "exception-ended",
    family: Family::Policy,
    default: Consequence::Risk,
    what: "an exception in the policy has ended",
    matters: "It was granted for a time, and the time is over: its findings count again.",
    at_boot: "The boot is not affected.",
    fix: "Repair what it excused, or grant it again with a reason.",
    rests_on: Basis::Facts,
    verified: "The exception's last day against today's date in UTC.",
    check: |_, _| {},
};
