use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;

/// The table has no entry for `/` where one is needed.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "root-entry",
    family: Family::Target,
    default: Consequence::Missing,
    what: "the table has no entry for /, so root stays read-only",
    matters: "Without an entry for / nothing tells the boot to make root writable.",
    at_boot: "The kernel mounts root read-only when its command line says ro; login comes, and nothing can \
          be written.",
    fix: "Add an entry for / with the UUID of the root file system, its type and pass 1.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with an empty table: login, root read-only (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let has_root = case.requests.iter().any(|r| r.is_root());
    let Some(forecast) = case.forecast else { return };
    if has_root || !forecast.root_read_only {
        return;
    }
    findings.push(Finding {
        message: "The table has no entry for /.".to_owned(),
        why: "The kernel mounts root read-only and nothing changes that: login comes, but nothing can be \
              written."
            .to_owned(),
        remedy: "Add an entry for / with the UUID of the root file system and pass 1.".to_owned(),
        evidence: case.record.command_line.iter().map(|l| format!("kernel command line: {l}")).collect(),
        ..Finding::of(&RULE)
    });
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{findings, findings_on};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_when_root_stays_read_only() {
        let fires = |found: Vec<crate::rules::Finding>| found.iter().any(|f| f.rule == "root-entry");
        assert!(fires(findings("")));
        assert!(!fires(findings(ROOT)));
        let mut record = host();
        record.command_line = Some("root=/dev/vda1 rw".into());
        assert!(!fires(findings_on(&record, "")));
        record.command_line = Some("root=/dev/vda1 ro".into());
        record.host.container = Some(true);
        assert!(!fires(findings_on(&record, "")));
        record.host.container = None;
        record.command_line = None;
        assert!(!fires(findings_on(&record, "")));
    }
}
