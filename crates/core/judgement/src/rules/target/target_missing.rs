use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::map::Set;
use bradawl_facts::path::folders_above;
use bradawl_facts::record::PathKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{quoted, visible};

/// The directory to mount on is not there.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-missing",
    family: Family::Target,
    default: Consequence::Note,
    what: "the target directory does not exist",
    matters: "The directory to mount on is not there.",
    at_boot: "systemd makes it, and the mount works. A script-driven init does not: there the mount fails.",
    fix: "Make the directory, so that the entry works for mount -a and on rescue systems too.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with an absent target: made and mounted (systemd 252); the scripts of sysvinit \
          complain and go on.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mounted: Set<&str> = case.record.mounts.iter().flatten().map(|m| m.target.as_str()).collect();
    let targets = case.requests.iter().filter_map(|r| r.target.as_deref());
    let absent_mounts: Set<&str> = targets.filter(|t| *t != "/" && !mounted.contains(t)).collect();
    for request in case.requests {
        let Some(target) = &request.target else { continue };
        let absent = request.facts.is_some_and(|f| f.kind == PathKind::Absent);
        // Of what lies below a mount that is not there nothing can be said.
        if !absent || folders_above(target).any(|folder| absent_mounts.contains(folder)) {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        finding.message = format!("There is no directory {}.", visible(&request.entry.target));
        finding.remedy = format!("Make it before the next boot: mkdir -p {}.", quoted(&request.entry.target));
        finding.why =
            "systemd makes the directory at boot if its parent can be written; mounting by hand before that \
                       fails."
                .to_owned();
        if case.fate(request).is_some_and(|f| f.lacks_directory) {
            case.judge(&mut finding, request);
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, findings_on};
    use bradawl_facts::Consequence;
    use bradawl_facts::record::InitKind;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_only_on_a_target_known_to_be_absent() {
        let rule = "target-missing";
        assert_lines(rule, "LABEL=gauges /srv/absent xfs nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/never-looked xfs nofail 0 0\n", &[]);
        assert_lines(
            rule,
            "LABEL=gauges /srv xfs nofail 0 0\nLABEL=FIELD /srv/absent vfat nofail 0 0\n",
            &[],
        );
    }

    #[test]
    fn matters_more_where_nobody_makes_the_folder() {
        let mut record = host();
        record.host.init.as_mut().unwrap().kind = InitKind::Sysvinit;
        let found = findings_on(&record, &format!("{ROOT}LABEL=gauges /srv/absent xfs nofail 0 0\n"));
        let finding = found.iter().find(|f| f.rule == "target-missing").unwrap();
        assert_eq!(finding.consequence, Consequence::Missing);
    }
}
