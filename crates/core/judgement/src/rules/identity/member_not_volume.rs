use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, Request};
use bradawl_facts::Consequence;
use bradawl_facts::record::{ContentKind, Device};
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{some, visible};
use bradawl_resolve::{Resolution, Source, best_identity};

/// The name is that of a part or a shell, not of what is mounted.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "member-not-volume",
    family: Family::Identity,
    default: Consequence::Missing,
    what: "the source is a RAID member, a physical volume or an encrypted container, not what is in it",
    matters: "The UUID of a RAID member, a physical volume or an encrypted container is that of the shell. \
          What is mounted is the array, the logical volume or the opened container.",
    at_boot: "For a physical volume no device ever matches the UUID: the boot waits 90 s and stops. A \
          container is there, and cannot be mounted.",
    fix: "Write the UUID or the path of the array, volume or opened container.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a physical volume's UUID: 90 s, emergency mode (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let (device, exact) = match &request.need {
            Need::Present(devices) => (devices.first().copied(), true),
            // A member's UUID is no name that the boot can wait for.
            Need::Missing(_) => (case.index.members(&request.source).first().copied(), false),
            _ => (None, false),
        };
        let Some(device) = device else { continue };
        let Some(content) = &device.content else { continue };
        let pool = content.kind == ContentKind::PoolMember && request.entry.fstype == "zfs";
        if content.kind.is_member() && content.kind != ContentKind::PartitionTable && !pool {
            findings.push(finding(case, request, device, exact));
        }
    }
}

fn finding(case: &Case<'_>, request: &Request<'_>, device: &Device, exact: bool) -> Finding {
    let words = device.content.as_ref().map_or("a member", |c| c.words());
    let mut finding = case.failure(&RULE, request, FieldName::Source);
    let source = visible(&request.entry.source);
    finding.message = format!("{source} is {} ({words}), which is not mounted itself.", device.path);
    finding.remedy = remedy(case, device);
    let children = device.children.iter().filter_map(|path| case.index.device(path));
    for child in children.filter(|c| c.content.as_ref().is_some_and(|c| !c.kind.is_member())) {
        if let Some(name) = best_identity(child) {
            let safe = exact && device.children.len() == 1;
            finding = finding.with_fix(format!("write {name}, {}", child.path), name, safe);
        }
    }
    finding
}

/// What to name instead, as far as it is known by name.
fn remedy(case: &Case<'_>, device: &Device) -> String {
    let content = device.content.as_ref();
    let what = match content.map(|c| c.kind) {
        Some(ContentKind::RaidMember) => "the array",
        Some(ContentKind::LvmPv) => "the logical volume",
        Some(ContentKind::Encrypted) => "the opened container",
        _ => "what is made of it",
    };
    let above: Vec<String> = device.children.iter().map(|path| visible(path).into_owned()).collect();
    if !above.is_empty() {
        return format!("Name {what} that is made of it: {}.", some(&above));
    }
    let group =
        content.and_then(|c| c.group.as_ref()).map(|g| format!("a volume of the group {}", visible(&g.name)));
    let crypttab = case.record.early.iter().flat_map(|e| e.crypttab.iter().flatten());
    let opened = crypttab.into_iter().find(|entry| {
        let found = case.index.resolve(&Source::parse(&entry.source));
        matches!(found, Resolution::Found(all) if all.iter().any(|d| d.path == device.path))
    });
    let named =
        group.or_else(|| opened.map(|e| format!("/dev/mapper/{}, which crypttab opens", visible(&e.name))));
    match named {
        Some(named) => format!("Name {named}."),
        None => format!("Name {what} that is made of it; nothing is now."),
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{ContentKind, Record};
    use bradawl_facts::testing::{ROOT, host};

    fn found(record: &Record, line: &str) -> Option<crate::rules::Finding> {
        findings_on(record, &format!("{ROOT}{line}")).into_iter().find(|f| f.rule == "member-not-volume")
    }

    #[test]
    fn names_what_is_inside() {
        let mut record = host();
        let line = "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges xfs noatime 0 0\n";
        assert!(found(&record, line).is_none());
        let devices = record.devices.as_mut().unwrap();
        devices[1].content.as_mut().unwrap().kind = ContentKind::Encrypted;
        devices[1].children = vec!["/dev/sdb1".into()];
        let finding = found(&record, line).unwrap();
        assert_eq!(finding.fixes[0].edits[0].text, "UUID=4B1D-7E20");
        assert_eq!(finding.consequence, bradawl_facts::Consequence::Halt);
    }
}
