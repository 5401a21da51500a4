use super::files;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::EntryState;
use bradawl_facts::Consequence;
use bradawl_facts::path::folders_above;
use bradawl_facts::record::PathKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A swap file whose file system will not be there.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-file-on-absent-mount",
    family: Family::Swap,
    default: Consequence::Missing,
    what: "the swap file lies on a file system that another entry mounts, and that will not be there",
    matters: "A swap file needs the file system it lies on. When that entry fails, is switched off or waits \
          for somebody to need it, there is no file.",
    at_boot: "Login comes, but this swap is not there: with little memory programs are killed.",
    fix: "Repair the other entry first, or move the file to the root file system.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with entries below a lost disk (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, facts) in files(case).filter(|(_, f)| f.kind != PathKind::Absent) {
        let Some(upper) = folders_above(&facts.path).find_map(|folder| case.entry_at(folder)) else {
            continue;
        };
        let state = case.fate(upper).map(|fate| fate.state);
        let gone = state.is_some_and(|s| s.is_absent() || matches!(s, EntryState::Manual));
        if !gone {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!(
            "The swap file lies on {}, which line {} will not mount.",
            visible(&upper.entry.target),
            upper.line()
        );
        finding.remedy =
            format!("Repair line {} first, or move the file to a file system that is there.", upper.line());
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::file;
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_below_what_is_not_mounted() {
        let mut record = host();
        record.paths.push(bradawl_facts::record::PathFacts { path: "/srv/gauges/swapfile".into(), ..file() });
        for (source, fires) in [("LABEL=gauges", false), ("LABEL=elsewhere", true)] {
            let lines =
                format!("{source} /srv/gauges xfs nofail 0 0\n/srv/gauges/swapfile none swap sw 0 0\n");
            let found = findings_on(&record, &format!("{ROOT}{lines}"));
            assert_eq!(
                found.iter().any(|f| f.rule == "swap-file-on-absent-mount"),
                fires,
                "{source}: {found:#?}"
            );
        }
    }
}
