use crate::rules::fixing::add_options;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_catalogue::options::{in_force, program_on};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{list, visible};

/// A place where everybody writes, without what keeps that harmless.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "hardening",
    family: Family::Options,
    default: Consequence::Note,
    what: "nosuid or nodev is missing where everybody may write, or on a medium made elsewhere",
    matters: "A program with set-user-id or a device node on such a file system takes effect for whoever put it \
              there. Nothing that belongs in these places needs either.",
    at_boot: "The boot is not affected.",
    fix: "Add nosuid and nodev; noexec too where nothing is run. The profile hardened asks for more.",
    rests_on: Basis::Documentation,
    verified: "mount(8): the meaning of nosuid and nodev.",
    check,
};

const SHARED: [&str; 3] = ["/tmp", "/var/tmp", "/dev/shm"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let program = program_on(case.record);
    for request in case.requests.iter().filter(|r| calls_for_it(r)) {
        let options = &request.entry.options;
        let lacking: Vec<String> = ["nosuid", "nodev"]
            .iter()
            .filter(|o| !in_force(options, o, program))
            .map(|o| (*o).to_owned())
            .collect();
        if lacking.is_empty() {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Options);
        finding.message = format!("{} lacks {}.", visible(&request.entry.target), list(&lacking));
        finding.why = "What somebody puts there takes effect with another's rights.".to_owned();
        finding.remedy = format!("Add {}.", list(&lacking));
        finding.fixes.extend(add_options(case, request, &lacking, true));
        findings.push(finding);
    }
}

/// Memory where everybody writes, and removable media of types that can hold
/// such files.
fn calls_for_it(request: &Request<'_>) -> bool {
    let Some(target) = request.target.as_deref() else { return false };
    let medium = request.device().is_some_and(|d| d.is_removable());
    let plain = matches!(request.entry.fstype.as_str(), "vfat" | "msdos" | "exfat" | "iso9660" | "udf");
    (request.entry.fstype == "tmpfs" && SHARED.contains(&target)) || (medium && !plain)
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_where_everybody_writes() {
        let rule = "hardening";
        assert_lines(rule, "tmpfs /tmp tmpfs nosuid,nodev 0 0\ntmpfs /srv/t tmpfs mode=700 0 0\n", &[]);
        let found = only(rule, "tmpfs /tmp tmpfs nodev,mode=1777 0 0\n");
        assert_eq!(found.fixes[0].edits[0].text, "nodev,mode=1777,nosuid");
        assert_lines(rule, "LABEL=FIELD /media/field vfat nofail 0 0\n", &[]);
    }
}
