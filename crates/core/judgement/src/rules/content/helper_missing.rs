use super::failing;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Cause;
use bradawl_catalogue::packages::of_mount_program;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The program that mounts the type is not installed.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "helper-missing",
    family: Family::Content,
    default: Consequence::Missing,
    what: "the type is mounted by a program of its own, which is not installed",
    matters: "Network file systems and those that run in a program are mounted by mount.TYPE. Without it the \
              kernel cannot do it alone. Minimal installations often lack it.",
    at_boot: "The mount fails at once. For a local entry without nofail boot stops in emergency mode; a \
              network one is missing.",
    fix: "Install the package that brings mount.TYPE.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with network and fuse types on a guest without helpers (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, why) in failing(case, Cause::Program) {
        let mut finding = case.failure(&RULE, request, FieldName::Type);
        finding.message = format!("{} cannot be mounted: {}.", visible(&request.entry.fstype), visible(why));
        let os = case.record.host.os_id.as_deref().unwrap_or_default();
        let fstype = request.entry.types().next().unwrap_or_default();
        finding.remedy = match of_mount_program(fstype, os) {
            Some(package) => format!("Install the package {package}."),
            None => "Install the package that brings the program.".to_owned(),
        };
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::Programs;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_when_programs_are_known_and_it_is_not_among_them() {
        let table = format!(
            "{ROOT}files.example:/x /srv/x nfs nofail 0 0\ntide@h.example:/ /srv/y fuse.sshfs nofail 0 0\n"
        );
        let mut record = host();
        let lines = |record: &bradawl_facts::record::Record| -> Vec<usize> {
            let found = findings_on(record, &table);
            found.iter().filter(|f| f.rule == "helper-missing").filter_map(|f| f.line).collect()
        };
        assert!(lines(&record).is_empty());
        record.programs = Some(Programs { mount_helpers: vec!["nfs".into()], ..Programs::default() });
        assert_eq!(lines(&record), [3]);
        record.programs.as_mut().unwrap().mount_helpers.push("fuse".into());
        assert!(lines(&record).is_empty());
    }
}
