use super::files;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::ContentKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{quoted, visible};

/// What was never made into swap.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-no-signature",
    family: Family::Swap,
    default: Consequence::Missing,
    what: "there is no swap area: mkswap was never run on it, or it was overwritten",
    matters: "A file or device becomes swap by a header that mkswap writes. Without it swapon fails.",
    at_boot: "Login comes, but this swap is not there: with little memory programs are killed.",
    fix: "Run mkswap on it, after making sure that it is the right one.",
    rests_on: Basis::Recording,
    verified: "Recorded swapon runs on kernels 5.10 to 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let nothing = |kind: ContentKind| matches!(kind, ContentKind::Empty | ContentKind::Unknown);
    for (request, facts) in files(case) {
        if !facts.content.as_ref().is_some_and(|c| nothing(c.kind)) {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!("{} holds no swap area.", visible(&facts.path));
        finding.remedy = format!("Make it one: mkswap {}.", quoted(&facts.path));
        findings.push(finding);
    }
    // An empty device is said to be so by another rule.
    for request in case.requests.iter().filter(|r| r.entry.is_swap()) {
        let Some(device) =
            request.device().filter(|_| request.content().is_some_and(|c| c.kind == ContentKind::Unknown))
        else {
            continue;
        };
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!("{} holds no swap area.", device.path);
        finding.remedy = format!("If it is the right device, make it one: mkswap {}.", device.path);
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{file, fires_on};

    #[test]
    fn fires_on_what_has_no_header() {
        let mut facts = file();
        assert!(!fires_on("swap-no-signature", &facts));
        facts.content =
            Some(bradawl_facts::record::Content::new(bradawl_facts::record::ContentKind::Unknown, None));
        assert!(fires_on("swap-no-signature", &facts));
    }
}
