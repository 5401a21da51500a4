use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::ContentKind;
use bradawl_facts::table::FieldName;

/// Signatures of two formats: one of them is a left-over.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "content-ambiguous",
    family: Family::Content,
    default: Consequence::Risk,
    what: "the device carries the signatures of several formats, one of them a left-over",
    matters: "Two formats have left valid signatures on one device: an old one was not wiped before the \
          new one was made. Programs differ in which they believe.",
    at_boot: "The device may get no name at all, or be mounted as what it no longer is.",
    fix: "Find out which one is meant, then wipe the other signature.",
    rests_on: Basis::Recording,
    verified: "Disk images made by the formats' own tools, one over the other.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(device) = request.device() else { continue };
        let Some(content) = device.content.as_ref().filter(|c| c.kind == ContentKind::Ambiguous) else {
            continue;
        };
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message = format!("{} may hold any of {}.", device.path, content.words().replace('+', ", "));
        finding.why =
            "The device manager gives no name to what it cannot tell: a UUID or label of it may not exist \
                       at boot."
                .to_owned();
        finding.remedy = "Find out which one is a left-over, and take away its signature alone.".to_owned();
        for candidate in &content.candidates {
            finding =
                finding.with_evidence(format!("{} at byte {}", candidate.content.words(), candidate.offset));
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Content, ContentKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_left_overs() {
        let mut record = host();
        let fires = |record: &bradawl_facts::record::Record| {
            let found = findings_on(record, &format!("{ROOT}/dev/vdb /srv/gauges xfs nofail 0 0\n"));
            found.iter().any(|f| f.rule == "content-ambiguous")
        };
        assert!(!fires(&record));
        record.devices.as_mut().unwrap()[1].content =
            Some(Content::new(ContentKind::Ambiguous, Some("ext4+zfs")));
        assert!(fires(&record));
    }
}
