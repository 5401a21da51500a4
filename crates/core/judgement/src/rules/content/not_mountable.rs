use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::ContentKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A swap area or a journal where a file system is asked for.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "not-mountable",
    family: Family::Content,
    default: Consequence::Missing,
    what: "the device holds swap or a journal, which is not mounted",
    matters: "The device holds swap, or another file system's journal. Neither is mounted.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "For swap write none as target and swap as type; otherwise name the device that is meant.",
    rests_on: Basis::Recording,
    verified: "Recorded boots of content that cannot be mounted (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| !r.entry.is_swap()) {
        let Some(device) = request.device() else { continue };
        let what = match device.content.as_ref().map(|c| c.kind) {
            Some(ContentKind::Swap) => "swap",
            Some(ContentKind::Journal) => "the journal of another file system",
            _ => continue,
        };
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message =
            format!("{} is {}, which holds {what}.", visible(&request.entry.source), device.path);
        finding.remedy = if what == "swap" {
            "Name the file system that is meant; or, if swap is, write none as the target and swap as the type.".to_owned()
        } else {
            "Name the device that holds the file system itself.".to_owned()
        };
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_swap_that_is_mounted() {
        assert_lines("not-mountable", "LABEL=reserve /srv/gauges ext4 nofail 0 0\n", &[2]);
        assert_lines("not-mountable", "LABEL=reserve none swap sw 0 0\n", &[]);
        assert_lines("not-mountable", "LABEL=gauges /srv/gauges xfs nofail 0 0\n", &[]);
    }
}
