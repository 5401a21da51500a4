use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::path::folders_above;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A directory's mount comes after the one below it.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-order",
    family: Family::Target,
    default: Consequence::Note,
    what: "a target lies below one that a later line mounts",
    matters: "Whoever goes line by line (mount -a, script-driven inits, rescue systems) mounts the lower \
              directory first and then covers it with the upper one.",
    at_boot: "systemd sorts by path and is not affected. Line by line, the lower mount is hidden, or fails \
              for want of its directory.",
    fix: "Move the upper directory's line above.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with the lower target first: both mounted (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let sorted = case.record.host.boots_with().is_systemd();
    for request in case.requests.iter().filter(|r| !r.noauto) {
        let Some(target) = request.target.as_deref() else { continue };
        let later = folders_above(target)
            .filter(|f| *f != target && *f != "/")
            .filter_map(|folder| case.entry_at(folder))
            .find(|upper| upper.line() > request.line() && !upper.noauto);
        let Some(upper) = later else { continue };
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        let over = visible(upper.target.as_deref().unwrap_or_default()).into_owned();
        finding.message =
            format!("{} is mounted before {over}, which is in line {}.", visible(target), upper.line());
        finding.why = "mount -a goes line by line: the later one hides this one.".to_owned();
        if sorted {
            finding.why.push_str(" systemd sorts by path and is not affected.");
        } else {
            finding.consequence = Consequence::Risk;
        }
        finding.remedy = format!("Move line {} above this one.", upper.line());
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, findings_on};
    use bradawl_facts::record::InitKind;
    use bradawl_facts::testing::{ROOT, host};

    const WRONG: &str =
        "LABEL=FIELD /srv/gauges/field vfat nofail 0 0\nLABEL=gauges /srv/gauges xfs nofail 0 0\n";

    #[test]
    fn fires_on_the_lower_one() {
        assert_lines("target-order", WRONG, &[2]);
        let right: String = WRONG.lines().rev().map(|l| format!("{l}\n")).collect();
        assert_lines("target-order", &right, &[]);
        assert_lines(
            "target-order",
            "LABEL=FIELD /srv/gauges2 vfat nofail 0 0\nLABEL=gauges /srv/gauges xfs nofail 0 0\n",
            &[],
        );
    }

    #[test]
    fn matters_more_to_a_line_by_line_init() {
        let mut record = host();
        record.host.init.as_mut().unwrap().kind = InitKind::Sysvinit;
        let found = findings_on(&record, &format!("{ROOT}{WRONG}"));
        let found = found.iter().find(|f| f.rule == "target-order").unwrap();
        assert_eq!(found.consequence, Consequence::Risk);
    }
}
