use super::{asked, breach};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;
use bradawl_resolve::{Source, Stable, Tag, best_identity, is_kernel_name};

/// A name that does not last as the policy wants names to.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "policy-name",
    family: Family::Policy,
    default: Consequence::Risk,
    what: "the device is named in a way that the policy does not allow",
    matters: "Your policy says so; the finding gives its reason.",
    at_boot: "The boot is not affected, as long as the name means the same device.",
    fix: "Name the device as the policy asks. For a host that is different on purpose write an exception.",
    rests_on: Basis::Facts,
    verified: "Follows from the policy.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (requirement, request) in asked(case) {
        let Some(lasting) = lasting(&request.source) else { continue };
        if requirement.names.is_empty() || requirement.names.contains(&lasting) {
            continue;
        }
        let mut finding = breach(case, &RULE, requirement, request, FieldName::Source);
        let lasts = match lasting {
            Stable::Content => "lasts as long as the content",
            Stable::Partition => "lasts as long as the partition",
            Stable::Hardware => "lasts as long as the drive, slot or volume",
            Stable::Order => "follows the order in which disks are found",
        };
        let source = visible(&request.entry.source).into_owned();
        finding.message = format!("The policy does not allow {source} here: such a name {lasts}.");
        finding.remedy = "Name the device as the policy asks.".to_owned();
        let better = request.device().and_then(best_identity);
        if let Some(name) = better.filter(|_| requirement.names.contains(&Stable::Content)) {
            finding.remedy = format!("Write {name}.");
            finding = finding.with_fix(format!("write {name}"), name, true);
        }
        findings.push(finding);
    }
}

/// How long a name lasts; `None` for what is no device.
fn lasting(source: &Source) -> Option<Stable> {
    match source {
        Source::Tag(Tag::Uuid | Tag::Label, _) => Some(Stable::Content),
        Source::Tag(Tag::PartUuid | Tag::PartLabel, _) => Some(Stable::Partition),
        Source::Device(path) if is_kernel_name(path) => Some(Stable::Order),
        Source::Device(_) => Some(Stable::Hardware),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::under_policy;

    #[test]
    fn fires_on_names_that_do_not_last() {
        let asks = "[[require]]\nnames = [\"content\", \"hardware\"]\nreason = \"disks move\"\n";
        let found = |source: &str| {
            let all = under_policy(asks, &format!("{source} /srv/gauges xfs nofail 0 0\n"));
            all.into_iter().find(|f| f.rule == "policy-name")
        };
        assert!(found("LABEL=gauges").is_none() && found("/dev/mapper/hold-cargo").is_none());
        assert!(found("PARTUUID=0badc0de-01").is_some());
        let kernel = found("/dev/vdb").unwrap();
        assert_eq!(kernel.fixes[0].edits[0].text, "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2");
    }
}
