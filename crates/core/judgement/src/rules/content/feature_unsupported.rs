use super::failing;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Cause;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The file system is newer than the kernel.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "feature-unsupported",
    family: Family::Content,
    default: Consequence::Missing,
    what: "the file system has a feature that this kernel is too old for",
    matters: "A file system made on a newer system has features an older kernel refuses. It happens when a \
              disk moves to an older host, or when the kernel goes back a release.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Boot a newer kernel, or make the file system again without the feature.",
    rests_on: Basis::Documentation,
    verified: "The kernel's documentation of each feature; the features are read from the device itself.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, why) in failing(case, Cause::Feature) {
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        let kernel = case.record.host.kernel.as_deref().unwrap_or_default();
        let path = request.device().map(|d| d.path.as_str()).unwrap_or_default();
        finding.message = format!("This kernel ({}) cannot mount {path}: {why}.", visible(kernel));
        finding.remedy = "Boot a newer kernel, or make the file system again without the feature.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_a_kernel_that_is_too_old() {
        let table = format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail 0 0\n");
        let mut record = host();
        record.devices.as_mut().unwrap()[1].content.as_mut().unwrap().features = vec!["nrext64".into()];
        for (kernel, fires) in [("5.10.0", true), ("5.19.0", false), ("6.1.0", false)] {
            record.host.kernel = Some(kernel.into());
            let found = findings_on(&record, &table);
            assert_eq!(found.iter().any(|f| f.rule == "feature-unsupported"), fires, "{kernel}");
        }
    }
}
