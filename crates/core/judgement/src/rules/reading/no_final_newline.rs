use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::LineKind;

/// The last line is not ended.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "no-final-newline",
    family: Family::Reading,
    default: Consequence::Note,
    what: "the last line does not end with a line feed",
    matters: "Readers take the line all the same. But whatever is appended to the file next, by a script or \
              with >>, continues this line instead of starting a new one.",
    at_boot: "The boot is not affected.",
    fix: "End the last line.",
    rests_on: Basis::Recording,
    verified: "Recorded boot without the last line feed: mounted (systemd 252); both readers recorded.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(last) = case.table.lines().last() else { return };
    if last.ending.end > last.ending.start || last.kind == LineKind::Blank {
        return;
    }
    let mut finding = case.finding_on_line(&RULE, last.number);
    finding.message = "The last line does not end with a line feed.".to_owned();
    finding.why = "What is appended to the file next continues this line.".to_owned();
    finding.remedy = "End the line.".to_owned();
    findings.push(finding);
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_an_open_last_line() {
        assert_lines("no-final-newline", "# tides", &[2]);
        assert_lines("no-final-newline", "# tides\n", &[]);
        assert_lines("no-final-newline", "# tides\n  ", &[]);
    }
}
