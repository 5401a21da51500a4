use crate::rules::identity::ambiguous::belong_together;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Need;
use bradawl_facts::Consequence;
use bradawl_facts::record::Device;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{some, visible};
use bradawl_resolve::{Purpose, Resolution, Source, Tag};

/// The entry names its device by UUID, but its label is not its own: whoever
/// goes by label may get the other.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "label-collides",
    family: Family::Identity,
    default: Consequence::Note,
    what: "another device has the same label as the one the entry names",
    matters: "The entry names its device by UUID, so it works; but two devices carry the same label, and \
          whoever uses the label gets either.",
    at_boot: "The boot is not affected.",
    fix: "Give one of them another label.",
    rests_on: Basis::Documentation,
    verified: "The rule of udev's links.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let (Need::Present(devices), Source::Tag(Tag::Uuid | Tag::PartUuid, _)) =
            (&request.need, &request.source)
        else {
            continue;
        };
        let [device] = devices.as_slice() else { continue };
        let Some(label) = device.content.as_ref().and_then(|c| c.label.as_ref()) else { continue };
        let name = Source::Tag(Tag::Label, label.clone());
        let Resolution::Found(all) = case.index.resolve_for(&name, Purpose::Any) else { continue };
        let others: Vec<&Device> = all.iter().copied().filter(|d| d.path != device.path).collect();
        if others.is_empty() || belong_together(&all) {
            continue;
        }
        let paths: Vec<String> = others.iter().map(|d| d.path.clone()).collect();
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message =
            format!("{} and {} both have the label {}.", device.path, some(&paths), visible(label));
        finding.why =
            "The boot is not affected; whoever goes by the label may get the other device.".to_owned();
        finding.remedy = "Give one of them another label.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_a_doubled_label() {
        let mut record = host();
        let fires = |record: &bradawl_facts::record::Record| {
            let line = "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges xfs nofail 0 0\n";
            findings_on(record, &format!("{ROOT}{line}")).iter().any(|f| f.rule == "label-collides")
        };
        assert!(!fires(&record));
        record.devices.as_mut().unwrap()[3].content.as_mut().unwrap().label = Some("gauges".into());
        assert!(fires(&record));
    }
}
