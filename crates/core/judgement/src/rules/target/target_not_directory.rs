use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Cause, Trial};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// What lies at the target is no directory.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-not-directory",
    family: Family::Target,
    default: Consequence::Missing,
    what: "the target is a file, where a directory is needed",
    matters: "A file system is mounted on a directory. Only a single file can be bound on a file.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Name a directory, or move the file away and make one.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a file as target: emergency mode (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Trial::Fails(Cause::Target, why) = &request.trial else { continue };
        let mut finding = case.failure(&RULE, request, FieldName::Target);
        finding.message = format!("Nothing can be mounted there: {}.", visible(why));
        finding.remedy = "Name a directory, or move the file away and make one.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_files() {
        assert_lines("target-not-directory", "LABEL=gauges /srv/gauges xfs nofail 0 0\n", &[]);
        assert_lines("target-not-directory", "/srv/file /srv/file none bind 0 0\n", &[]);
        assert_lines("target-not-directory", "/srv/file /srv/gauges none bind 0 0\n", &[2]);
        let found = only("target-not-directory", "LABEL=gauges /srv/file xfs noatime 0 0\n");
        assert_eq!(found.consequence, Consequence::Halt);
    }
}
