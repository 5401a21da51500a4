use crate::rules::check::pass_useless::needs_no_check;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;

/// Root comes first in the order of checks, and alone.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "pass-root",
    family: Family::Check,
    default: Consequence::Note,
    what: "the pass number of root is not 1, or that of another file system is",
    matters: "Checks are ordered by the sixth field: 1 for root, 2 for what comes after it, 0 for what is \
          never checked.",
    at_boot: "The boot is not affected while the file systems are sound. With 0, errors stay unnoticed.",
    fix: "Write 1 for root and 2 for the others.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with pass 1 on another entry (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| r.entry.fields.len() >= 4 && !needs_no_check(r)) {
        let pass = request.entry.pass;
        let (message, why, wanted) = match (request.is_root(), pass) {
            (true, 1) => continue,
            (true, 0) => (
                "Root is never checked at boot.",
                "Errors on the root file system go unnoticed until they hurt.",
                "1",
            ),
            (true, _) => (
                "Root is checked as late as all others.",
                "Root should be sound before anything else is mounted.",
                "1",
            ),
            (false, 1) if !is_boot(request) => (
                "Pass 1 is for root alone.",
                "It is checked at the same time as root, which slows both on one disk.",
                "2",
            ),
            (false, _) => continue,
        };
        let mut finding = case.finding(&RULE, request, FieldName::Pass);
        finding.message = message.to_owned();
        finding.why = why.to_owned();
        finding.remedy = format!("Write {wanted} in the sixth field.");
        if request.entry.span(FieldName::Pass).is_some() {
            finding = finding.with_fix(format!("write {wanted}"), wanted, true);
        }
        findings.push(finding);
    }
}

/// Installers give the boot partitions pass 1; small as they are, it does no
/// harm.
fn is_boot(request: &Request<'_>) -> bool {
    request.target.as_deref().is_some_and(|t| t == "/efi" || t == "/boot" || t.starts_with("/boot/"))
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, findings};
    use bradawl_facts::testing::ROOT;

    #[test]
    fn others_with_pass_one() {
        assert_lines("pass-root", "LABEL=FIELD /srv/field vfat nofail 0 1\n", &[2]);
        assert_lines("pass-root", "LABEL=FIELD /srv/field vfat nofail 0 2\n", &[]);
        assert_lines("pass-root", "LABEL=FIELD /boot/efi vfat umask=0077 0 1\n", &[]);
    }

    #[test]
    fn root_without_pass_one() {
        for (pass, fires) in [("0 0", true), ("0 2", true), ("0 1", false)] {
            let table = ROOT.replace("0 1", pass);
            assert_eq!(findings(&table).iter().any(|f| f.rule == "pass-root"), fires, "{pass}");
        }
        let xfs = "LABEL=gauges / xfs defaults 0 0\n";
        assert!(findings(xfs).iter().all(|f| f.rule != "pass-root"));
    }
}
