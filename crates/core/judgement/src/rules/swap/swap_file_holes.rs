use super::files;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::size::binary;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::quoted;

/// A swap file with holes.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-file-holes",
    family: Family::Swap,
    default: Consequence::Missing,
    what: "the swap file has holes: parts without room on the disk",
    matters: "A file made by setting its length, or copied sparsely, has parts that lie nowhere. Swap is \
          written to disk blocks, past the file system, so every part must have its place.",
    at_boot: "swapon passes it over. Login comes, but this swap is not there: with little memory programs are \
          killed.",
    fix: "Re-create it, written or allocated to its full size.",
    rests_on: Basis::Recording,
    verified: "Recorded swapon runs on kernels 5.10 to 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, facts) in files(case) {
        let Some((size, has)) = facts.size.zip(facts.allocated).filter(|(size, has)| has < size) else {
            continue;
        };
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message =
            format!("The swap file has holes: of {} only {} lie on the disk.", binary(size), binary(has));
        let path = quoted(&facts.path);
        finding.remedy =
            format!("Re-create it: rm {path}, then bradawl swap --file {path} --want {size} --write.");
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{file, fires_on};

    #[test]
    fn fires_on_parts_that_lie_nowhere() {
        let mut facts = file();
        assert!(!fires_on("swap-file-holes", &facts));
        facts.allocated = Some(4096);
        assert!(fires_on("swap-file-holes", &facts));
    }
}
