use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::path::tidy;
use bradawl_facts::table::{FieldName, encode};
use bradawl_facts::text::visible;

/// The target leads through a symbolic link.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-symlink",
    family: Family::Target,
    default: Consequence::Note,
    what: "the target leads through a symbolic link",
    matters: "The mount lands where the link points, and that is the path everything else shows. When the link \
              changes, the entry means another directory.",
    at_boot: "systemd follows the link and names the unit after the real path.",
    fix: "Write the real path.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a link as target: mounted on the directory it points to (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(real) = request.facts.and_then(|f| f.canonical.as_deref()) else { continue };
        let written = tidy(&request.entry.target);
        if request.target.is_none() || real == written {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        finding.message = format!("{} leads to {}.", visible(&written), visible(real));
        finding.why = "The mount lands there; if the link changes, somewhere else.".to_owned();
        finding.remedy = "Write the real path.".to_owned();
        let text = String::from_utf8_lossy(&encode(real.as_bytes())).into_owned();
        findings.push(finding.with_fix(format!("write {}", visible(real)), text, false));
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{PathFacts, PathKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_when_the_real_path_differs() {
        let mut record = host();
        for (path, real) in [("/srv/link", "/srv/gauges"), ("/srv/plain", "/srv/plain")] {
            let facts = PathFacts::new(path, PathKind::Directory);
            record.paths.push(PathFacts { canonical: Some(real.into()), ..facts });
        }
        let lines = |target: &str| {
            let found = findings_on(&record, &format!("{ROOT}LABEL=gauges {target} xfs nofail 0 0\n"));
            found.iter().any(|f| f.rule == "target-symlink")
        };
        assert!(lines("/srv/link") && !lines("/srv/plain") && !lines("/srv//plain/"));
    }
}
