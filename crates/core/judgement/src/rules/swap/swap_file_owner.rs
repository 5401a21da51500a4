use super::files;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::quoted;

/// A swap file that is not root's.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-file-owner",
    family: Family::Swap,
    default: Consequence::Risk,
    what: "the swap file belongs to somebody else than root",
    matters: "Its owner can read what was in memory, and change it. swapon warns and activates it.",
    at_boot: "It is used.",
    fix: "chown root:root, then chmod 600.",
    rests_on: Basis::Recording,
    verified: "Recorded swapon runs on kernels 5.10 to 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, facts) in files(case) {
        let Some(uid) = facts.uid.filter(|uid| *uid != 0) else { continue };
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message =
            format!("The swap file belongs to user {uid}, who may read and change what was in memory.");
        finding.why = "It works; its owner can read memory.".to_owned();
        finding.remedy = format!("chown root:root {}", quoted(&facts.path));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{file, fires_on};

    #[test]
    fn fires_on_files_of_others() {
        let mut facts = file();
        assert!(!fires_on("swap-file-owner", &facts));
        facts.uid = Some(1004);
        assert!(fires_on("swap-file-owner", &facts));
    }
}
