use super::{Case, Finding, Rule};
use crate::boot::{Consequence, Need};
use crate::record::ContentKind;
use crate::table::FieldName;

/// Signatures of two formats: one of them is a left-over.
pub(super) const RULE: Rule = Rule {
    slug: "content-ambiguous",
    default: Consequence::Risk,
    what: "the device carries the signatures of several formats, one of them a left-over",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Need::Present(devices) = &request.need else { continue };
        let Some(device) = devices.first() else { continue };
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
    use super::super::testing::{ROOT, findings_on, host};
    use crate::record::{Content, ContentKind};

    #[test]
    fn fires_on_left_overs() {
        let mut record = host();
        let fires = |record: &crate::record::Record| {
            let found = findings_on(record, &format!("{ROOT}/dev/vdb /srv/gauges xfs nofail 0 0\n"));
            found.iter().any(|f| f.rule == "content-ambiguous")
        };
        assert!(!fires(&record));
        record.devices.as_mut().unwrap()[1].content =
            Some(Content::new(ContentKind::Ambiguous, Some("ext4+zfs")));
        assert!(fires(&record));
    }
}
