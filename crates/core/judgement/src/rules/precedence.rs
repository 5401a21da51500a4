//! Which finding explains which: of two about one fault only the nearer to its
//! cause is told.

use super::{Family, Finding, RULES};
use ahash::{AHashMap as HashMap, AHashSet as HashSet};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;

/// A rule, and the rules whose finding on the same line says more of the same
/// fault.
pub const EXPLAINED_BY: &[(&str, &[&str])] = &[
    (
        "device-unknown",
        &[
            "stale-identity",
            "swap-stale-uuid",
            "lv-hyphens",
            "member-not-volume",
            "crypt-source-lost",
            "crypt-mapping-missing",
        ],
    ),
    ("device-timeout-value", &["generator-aborts"]),
    ("field-count", &["field-shift", "inline-comment"]),
    ("number-field", &["field-shift", "inline-comment"]),
    ("swap-stale-uuid", &["stale-identity"]),
    ("target-relative", &["field-shift", "byte-order-mark"]),
    ("type-unknown", &["field-shift"]),
];

/// Rules whose finding means that the fields after it are moved.
const SHIFTING: [&str; 3] = ["field-shift", "inline-comment", "odd-whitespace"];

/// Of a line that is to be written anew only what stands before the first word
/// in a wrong place is told as well, and what is wrong with its bytes.
const BESIDE_A_SHIFT: [&str; 7] = [
    "field-shift",
    "byte-order-mark",
    "control-character",
    "line-endings",
    "no-final-newline",
    "not-utf8",
    "smart-punctuation",
];

/// Leaves out what another finding explains.
pub(super) fn apply(findings: &mut Vec<Finding>) {
    drop_shifted(findings);
    drop_explained(findings);
    drop_misread(findings);
}

fn drop_shifted(findings: &mut Vec<Finding>) {
    let shifts = findings.iter().filter(|f| f.rule == "field-shift");
    let from: HashMap<usize, FieldName> = shifts.filter_map(|f| Some((f.line?, f.field?))).collect();
    findings.retain(|f| {
        let shifted = f.line.and_then(|line| from.get(&line));
        let before = |first: &FieldName| f.field.is_some_and(|field| field < *first);
        shifted.is_none_or(before) || BESIDE_A_SHIFT.contains(&f.rule)
    });
}

fn drop_explained(findings: &mut Vec<Finding>) {
    let told: HashSet<(&str, usize)> = findings.iter().filter_map(|f| Some((f.rule, f.line?))).collect();
    findings.retain(|f| {
        let explaining = EXPLAINED_BY.iter().find(|(rule, _)| *rule == f.rule).map(|(_, by)| *by);
        let explained = |line| explaining.iter().flat_map(|by| *by).any(|rule| told.contains(&(*rule, line)));
        !f.line.is_some_and(explained)
    });
}

/// Leaves out failures that how the line is read explains: the fault is then
/// in the spelling, and only that is told.
fn drop_misread(findings: &mut Vec<Finding>) {
    let reading: HashSet<&str> =
        RULES.iter().filter(|r| r.family == Family::Reading).map(|r| r.slug).collect();
    // What is misread on each line: the field, how bad, and whether the fields
    // after it are moved.
    let mut misread: HashMap<usize, Vec<(FieldName, Consequence, bool)>> = HashMap::default();
    for f in findings.iter().filter(|f| reading.contains(f.rule)) {
        if let (Some(line), Some(field)) = (f.line, f.field) {
            let shifts = SHIFTING.contains(&f.rule);
            misread.entry(line).or_default().push((field, f.consequence, shifts));
        }
    }
    findings.retain(|f| {
        let (Some(line), Some(field)) = (f.line, f.field) else { return true };
        if f.consequence > Consequence::Missing || reading.contains(f.rule) {
            return true;
        }
        let explains = |(at, worst, shifts): &(FieldName, Consequence, bool)| {
            (*at == field || (*shifts && *at < field)) && *worst <= f.consequence
        };
        !misread.get(&line).is_some_and(|all| all.iter().any(explains))
    });
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_rule_named_exists_and_none_explains_itself() {
        let exists = |slug: &str| RULES.iter().any(|r| r.slug == slug);
        for (rule, by) in EXPLAINED_BY {
            assert!(exists(rule), "{rule}");
            for other in *by {
                assert!(exists(other) && other != rule, "{other}");
                let back = EXPLAINED_BY.iter().find(|(r, _)| r == other).map(|(_, by)| *by);
                assert!(!back.is_some_and(|by| by.contains(rule)), "{rule} and {other}");
            }
        }
        assert!(SHIFTING.into_iter().chain(BESIDE_A_SHIFT).all(exists));
    }
}
