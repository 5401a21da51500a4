use super::{Case, Finding, Rule};
use crate::boot::{Consequence, Need};
use crate::record::ContentKind;
use crate::table::FieldName;
use crate::text::visible;

/// A whole disk with partitions, or an extended partition: nothing to mount.
pub(super) const RULE: Rule = Rule {
    slug: "whole-disk-vs-partition",
    default: Consequence::Missing,
    what: "the source is a disk or an extended partition that only contains other partitions",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Need::Present(devices) = &request.need else { continue };
        let Some(device) = devices.first() else { continue };
        let divided = device.content.as_ref().is_some_and(|c| c.kind == ContentKind::PartitionTable);
        if !divided {
            continue;
        }
        let extended = device.partition.is_some();
        let what = if extended { "an extended partition" } else { "a whole disk with partitions" };
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message =
            format!("{} is {what}: there is nothing on it to mount.", visible(&request.entry.source));
        finding.remedy = "Name the partition that is meant.".to_owned();
        for path in &device.children {
            let child = case.index.device(path).and_then(crate::resolve::best_identity);
            if let Some(name) = child {
                finding = finding.with_fix(format!("write {name}, {path}"), name, device.children.len() == 1);
            }
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{ROOT, findings_on, host};
    use crate::record::{Content, ContentKind};

    #[test]
    fn offers_the_partitions() {
        let mut record = host();
        let devices = record.devices.as_mut().unwrap();
        devices[1].content = Some(Content::new(ContentKind::PartitionTable, Some("gpt")));
        devices[1].children = vec!["/dev/sdb1".into()];
        let found = |line: &str| {
            let all = findings_on(&record, &format!("{ROOT}{line}"));
            all.into_iter().find(|f| f.rule == "whole-disk-vs-partition")
        };
        let finding = found("/dev/vdb /srv/gauges xfs noatime 0 0\n").unwrap();
        assert_eq!(finding.fixes[0].edits[0].text, "UUID=4B1D-7E20");
        assert!(found("LABEL=FIELD /srv/gauges vfat nofail 0 0\n").is_none());
    }
}
