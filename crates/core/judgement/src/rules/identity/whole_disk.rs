use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, Request};
use bradawl_facts::Consequence;
use bradawl_facts::record::{ContentKind, Device};
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;
use bradawl_resolve::best_identity;

/// A whole disk with partitions: nothing to mount.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "whole-disk-vs-partition",
    family: Family::Identity,
    default: Consequence::Missing,
    what: "the source is a whole disk, where one of its partitions is meant",
    matters: "The disk has partitions, and the file system is in one of them. The disk itself holds only \
          the table of partitions.",
    at_boot: "There is no file system where the entry looks: the mount fails at once, and without nofail \
          boot stops.",
    fix: "Name the partition.",
    rests_on: Basis::Recording,
    verified: "Follows from the content found; recorded boots of other unmountable content end alike (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, device) in divided(case).filter(|(_, d)| d.partition.is_none()) {
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        let source = visible(&request.entry.source);
        finding.message =
            format!("{source} is a whole disk with partitions: there is nothing on it to mount.");
        findings.push(offer_parts(case, finding, device));
    }
}

/// The entries whose device is only divided into others.
pub(in crate::rules) fn divided<'c, 'a>(
    case: &'c Case<'a>,
) -> impl Iterator<Item = (&'c Request<'a>, &'a Device)> + use<'c, 'a> {
    case.requests.iter().filter_map(|request| {
        let Need::Present(devices) = &request.need else { return None };
        let device = *devices.first()?;
        let divided = device.content.as_ref().is_some_and(|c| c.kind == ContentKind::PartitionTable);
        divided.then_some((request, device))
    })
}

/// Offers the names of a device's parts.
pub(in crate::rules) fn offer_parts(case: &Case<'_>, mut finding: Finding, device: &Device) -> Finding {
    finding.remedy = "Name the partition that is meant.".to_owned();
    for path in &device.children {
        if let Some(name) = case.index.device(path).and_then(best_identity) {
            finding = finding.with_fix(format!("write {name}, {path}"), name, device.children.len() == 1);
        }
    }
    finding
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Content, ContentKind};
    use bradawl_facts::testing::{ROOT, host};

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
