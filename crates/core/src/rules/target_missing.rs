use super::{Case, Finding, Rule};
use crate::boot::{Consequence, EntryState, Request};
use crate::record::PathKind;
use crate::table::FieldName;
use crate::text::visible;

/// The folder to mount on is not there.
pub(super) const RULE: Rule = Rule {
    slug: "target-missing",
    default: Consequence::Note,
    what: "the target folder does not exist",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let absent = request.facts.is_some_and(|f| f.kind == PathKind::Absent);
        if !absent || request.target.is_none() || lies_on_absent_mount(case, request) {
            continue;
        }
        let target = visible(&request.entry.target);
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        finding.message = format!("There is no folder {target}.");
        finding.remedy = format!("Make it before the next boot: mkdir -p '{target}'.");
        let fails_for_it =
            case.fate(request).is_some_and(|f| f.state == EntryState::Failed && f.why.contains("no folder"));
        if fails_for_it {
            case.judge(&mut finding, request);
        } else {
            finding.why =
                "systemd makes the folder at boot if its parent can be written; mounting by hand before \
                           that fails."
                    .to_owned();
        }
        findings.push(finding);
    }
}

/// Whether the target lies below another entry that is not mounted now, so
/// that nothing can be said of it.
fn lies_on_absent_mount(case: &Case<'_>, request: &Request<'_>) -> bool {
    let Some(target) = &request.target else { return false };
    let mounted = |t: &str| case.record.mounts.iter().flatten().any(|m| m.target == t);
    case.requests.iter().filter_map(|r| r.target.as_deref()).any(|other| {
        other != "/"
            && target.strip_prefix(other).is_some_and(|rest| rest.starts_with('/'))
            && !mounted(other)
    })
}

#[cfg(test)]
mod tests {
    use super::super::testing::{ROOT, assert_lines, findings_on, host};
    use crate::boot::Consequence;
    use crate::record::InitKind;

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
