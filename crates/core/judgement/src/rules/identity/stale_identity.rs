use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, Request};
use bradawl_facts::Consequence;
use bradawl_facts::record::{Device, Record};
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;
use bradawl_resolve::{Resolution, Source, Tag, best_identity};

/// The name answered in an earlier record, and its device has another now.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "stale-identity",
    family: Family::Identity,
    default: Consequence::Missing,
    what: "the name answered in an earlier record, and its device has another one now",
    matters: "The device was reformatted, or its swap area made again, since that record was taken. The \
              table still has the old name.",
    at_boot: "As for any name without a device: the boot waits 90 s for it, then stops, or continues \
              without it when the entry has nofail or asks for swap.",
    fix: "Write the name that the device has now.",
    rests_on: Basis::Facts,
    verified: "Follows from two records of one host (audit --since RECORD).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        if let Some((was, now)) = renamed(case, request) {
            findings.push(finding(case, request, was, now));
        }
    }
}

/// The device that answered then, and what it is now.
fn renamed<'a>(case: &Case<'a>, request: &Request<'_>) -> Option<(&'a Device, &'a Device)> {
    let by_content = matches!(request.source, Source::Tag(Tag::Uuid | Tag::Label, _));
    if !by_content || !matches!(request.need, Need::Missing(_)) {
        return None;
    }
    let Resolution::Found(devices) = case.earlier?.resolve(&request.source) else { return None };
    let [was] = devices.as_slice() else { return None };
    let now = same_place(case.record, was)?;
    (best_identity(now).is_some() && now.content != was.content).then_some((*was, now))
}

/// The device that stands where the other stood: the same partition or drive
/// by name, else the same path and size.
fn same_place<'a>(record: &'a Record, was: &Device) -> Option<&'a Device> {
    let partition = |d: &Device| d.partition.as_ref().and_then(|p| p.uuid.clone());
    let drive = |d: &Device| {
        let links = d.links.as_deref().unwrap_or_default();
        links.iter().find(|l| l.starts_with("/dev/disk/by-id/")).cloned()
    };
    let same = |of: &dyn Fn(&Device) -> Option<String>| {
        let name = of(was)?;
        record.devices().iter().find(|d| of(d).as_ref() == Some(&name))
    };
    same(&partition)
        .or_else(|| same(&drive))
        .or_else(|| record.devices().iter().find(|d| d.path == was.path && d.size == was.size))
}

fn finding(case: &Case<'_>, request: &Request<'_>, was: &Device, now: &Device) -> Finding {
    let mut finding = case.failure(&RULE, request, FieldName::Source);
    let name = best_identity(now).unwrap_or_default();
    finding.message = format!("{} was {}, which is {name} now.", visible(&request.entry.source), now.path);
    let held = |d: &Device| d.content.as_ref().map_or("something unread", |c| c.words()).to_owned();
    finding.remedy = format!("Write {name}, if {} is still what the entry is for.", now.path);
    let same_type = held(was) == held(now);
    let safe = same_type && !case.is_taken(now, request.line());
    finding
        .with_evidence(format!("earlier: {} held {}", was.path, held(was)))
        .with_evidence(format!("now: {} holds {}", now.path, held(now)))
        .with_fix(format!("write {name}"), name, safe)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Against, judge_against};
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_with_the_earlier_record_alone() {
        let (earlier, mut record) = (host(), host());
        let content = record.devices.as_mut().unwrap()[1].content.as_mut().unwrap();
        content.uuid = Some("aaaaaaaa-22f4-4b6e-9b1d-35f7a1c9d0e2".into());
        let table = Table::parse(format!(
            "{ROOT}UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges xfs noatime 0 0\n"
        ));
        let rules = |earlier: Option<&Record>| -> Vec<Finding> {
            judge_against(&record, &table, &Against { earlier, ..Against::default() }).findings
        };
        assert!(rules(None).iter().all(|f| f.rule != "stale-identity"));
        let found = rules(Some(&earlier));
        let stale = found.iter().find(|f| f.rule == "stale-identity").unwrap();
        assert_eq!(stale.consequence, Consequence::Halt);
        assert_eq!(stale.fixes[0].edits[0].text, "UUID=aaaaaaaa-22f4-4b6e-9b1d-35f7a1c9d0e2");
        assert!(found.iter().all(|f| f.rule != "device-unknown"));
    }
}
