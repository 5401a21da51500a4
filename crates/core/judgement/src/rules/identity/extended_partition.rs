use crate::rules::identity::whole_disk::{divided, offer_parts};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A partition that is only the shell of logical ones.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "extended-partition",
    family: Family::Identity,
    default: Consequence::Missing,
    what: "the source is an extended partition, which only contains logical ones",
    matters: "An extended partition on an MBR disk is a frame around the logical ones. It is two sectors \
          long for most purposes and holds no file system.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Name a logical partition (number 5 and up).",
    rests_on: Basis::Recording,
    verified: "Disk images with chains of logical partitions.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, device) in divided(case).filter(|(_, d)| d.partition.is_some()) {
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        let source = visible(&request.entry.source);
        finding.message = format!("{source} is an extended partition: it only contains logical ones.");
        findings.push(offer_parts(case, finding, device));
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Content, ContentKind, PartitionFacts};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn told_apart_from_a_whole_disk() {
        let mut record = host();
        record.devices.as_mut().unwrap()[1].content =
            Some(Content::new(ContentKind::PartitionTable, Some("dos extended")));
        let rules = |record: &bradawl_facts::record::Record| -> Vec<&str> {
            let found = findings_on(record, &format!("{ROOT}/dev/vdb /srv/gauges xfs noatime 0 0\n"));
            found.iter().map(|f| f.rule).filter(|r| r.contains("partition")).collect()
        };
        assert_eq!(rules(&record), ["whole-disk-vs-partition"]);
        record.devices.as_mut().unwrap()[1].partition = Some(PartitionFacts::default());
        assert_eq!(rules(&record), ["extended-partition"]);
    }
}
