use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// Something is mounted, and a look at it is not answered.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "mount-silent",
    family: Family::Running,
    default: Consequence::Risk,
    what: "a mounted file system does not answer",
    matters: "Its server or its mounting program is gone or stuck. Every program that touches the mount waits with \
              it, those that only list file systems among them, and often they cannot be ended.",
    at_boot: "The boot mounts it again. Whether it answers then is not known.",
    fix: "Bring its server back. If it is gone for good, unmount with umount -l, and change the entry.",
    rests_on: Basis::Recording,
    verified: "Looked at by a process of its own for 3 s; tried with a mounting program that never answers.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let silent = case.record.mounts.iter().flatten().filter(|m| m.answers == Some(false));
    for mount in silent {
        let at = case.requests.iter().find(|r| r.target.as_deref() == Some(mount.target.as_str()));
        let finding = at.map_or_else(|| Finding::of(&RULE), |r| case.finding(&RULE, r, FieldName::Target));
        let (target, fstype) = (visible(&mount.target), visible(&mount.fstype));
        findings.push(Finding {
            message: format!("{target} ({fstype}) is mounted and does not answer."),
            why: "Programs that touch it wait with it.".to_owned(),
            remedy: format!("Bring back what serves it, {}, or unmount it.", visible(&mount.source)),
            ..finding
        });
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::Mount;
    use bradawl_facts::testing::{ROOT, host, mounted};

    #[test]
    fn fires_on_what_did_not_answer() {
        let table = format!("{ROOT}store:/a /srv/gauges nfs nofail,_netdev 0 0\n");
        for (answers, expected) in [(Some(false), vec![Some(2)]), (Some(true), vec![]), (None, vec![])] {
            let mut record = host();
            record.mounts = Some(vec![Mount { answers, ..mounted("store:/a", "/srv/gauges", "nfs4") }]);
            let all = findings_on(&record, &table);
            let found: Vec<_> = all.iter().filter(|f| f.rule == "mount-silent").map(|f| f.line).collect();
            assert_eq!(found, expected);
        }
    }
}
