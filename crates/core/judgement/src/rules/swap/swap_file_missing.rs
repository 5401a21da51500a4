use super::files;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::PathKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{quoted, visible};

/// A swap file that is not there.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-file-missing",
    family: Family::Swap,
    default: Consequence::Missing,
    what: "the swap file is not there",
    matters: "The entry names a file that does not exist: it was never made, was moved, or lies on a file \
          system that is not mounted.",
    at_boot: "Login comes, but this swap is not there: with little memory programs are killed.",
    fix: "Make the file (bradawl swap --file PATH --want SIZE --write), or remove the entry.",
    rests_on: Basis::Recording,
    verified: "Recorded swapon runs on kernels 5.10 to 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, facts) in files(case).filter(|(_, f)| f.kind == PathKind::Absent) {
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!("There is no file {}.", visible(&facts.path));
        finding.remedy = format!(
            "Make it with \"bradawl swap --file {} --want SIZE --write\", or remove the entry.",
            quoted(&facts.path)
        );
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{file, fires_on};

    #[test]
    fn fires_on_a_file_that_is_not_there() {
        let mut facts = file();
        assert!(!fires_on("swap-file-missing", &facts));
        facts.kind = bradawl_facts::record::PathKind::Absent;
        assert!(fires_on("swap-file-missing", &facts));
    }
}
