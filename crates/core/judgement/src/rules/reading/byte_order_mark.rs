use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::{FieldName, LineKind, Span};

/// The table begins with a mark that an editor put there.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "byte-order-mark",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "the table begins with a byte-order mark, which readers take for part of the first line",
    matters: "Some editors put an invisible mark (U+FEFF) in front of a text. No reader of tables knows \
          it: it becomes part of the first word.",
    at_boot: "A comment in the first line becomes an entry with a target that is no path, and is passed \
          over with a complaint. An entry there has a source that no device matches: the boot waits for \
          it, or fails.",
    fix: "Save the table as UTF-8 without the mark, or take the first three bytes away.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a mark before a comment (systemd 252); both readers recorded with a mark \
          before an entry.",
    check,
};

const MARK: &[u8] = b"\xef\xbb\xbf";

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.table.bytes().starts_with(MARK) {
        return;
    }
    let first = case.requests.iter().find(|r| r.line() == 1);
    let comment = case.table.bytes().get(MARK.len()) == Some(&b'#');
    let mut finding = match first {
        Some(request) => {
            let mut finding =
                case.finding_at(&RULE, request, FieldName::Source, Some(Span { start: 0, end: MARK.len() }));
            // A comment that became an entry is missed by nobody.
            if !comment {
                case.judge(&mut finding, request);
            }
            finding
        }
        None => return,
    };
    finding.message = "The table begins with a byte-order mark (U+FEFF).".to_owned();
    if comment {
        finding.why =
            "Readers take the comment in the first line for an entry, and complain of it.".to_owned();
    }
    finding.remedy = "Remove the mark: save the table as UTF-8 without it.".to_owned();
    debug_assert!(case.table.line(1).is_some_and(|l| l.kind == LineKind::Entry));
    findings.push(finding.with_fix("remove the mark", "", true));
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings;
    use bradawl_facts::testing::ROOT;

    #[test]
    fn fires_on_the_mark_in_front() {
        let rules = |table: &str| findings(table).iter().map(|f| f.rule).collect::<Vec<_>>();
        assert!(rules(&format!("\u{feff}{ROOT}")).contains(&"byte-order-mark"));
        assert!(rules(&format!("\u{feff}# tides\n{ROOT}")).contains(&"byte-order-mark"));
        assert!(!rules(ROOT).contains(&"byte-order-mark"));
    }
}
