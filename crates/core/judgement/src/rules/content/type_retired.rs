use super::failing;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Cause;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A type that this kernel no longer has.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "type-retired",
    family: Family::Content,
    default: Consequence::Missing,
    what: "kernels had this file system type once, and this one has it no more",
    matters: "Kernels drop file systems nobody looks after. The entry worked until the kernel was upgraded.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Boot the older kernel once more, copy the data to another file system, and change the entry.",
    rests_on: Basis::Documentation,
    verified: "The kernel's own history of fs/: reiserfs left with 6.13, sysv with 6.15, bcachefs with 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, why) in failing(case, Cause::Retired) {
        let mut finding = case.failure(&RULE, request, FieldName::Type);
        finding.message = format!("{} is gone: {why}.", visible(&request.entry.fstype));
        finding.remedy = "Copy the data to another file system under an older kernel.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_from_the_kernel_that_dropped_it() {
        let table = format!("{ROOT}LABEL=elsewhere /srv/old reiserfs nofail 0 0\n");
        let mut record = host();
        for (kernel, fires) in [("6.1.0", false), ("6.12.5", false), ("6.13.0", true), ("6.18.1", true)] {
            record.host.kernel = Some(kernel.into());
            let found = findings_on(&record, &table);
            assert_eq!(found.iter().any(|f| f.rule == "type-retired"), fires, "{kernel}");
        }
    }
}
