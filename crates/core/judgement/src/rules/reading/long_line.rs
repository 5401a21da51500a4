use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::{LineKind, READ};

/// A line that is cut in reading.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "long-line",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "a line longer than the init system reads",
    matters: "The init system reads 4095 bytes of a line and forgets the rest; the mount program reads all \
              of it.",
    at_boot: "Options are cut in the middle, and dump and pass count as 0.",
    fix: "Shorten the options, or put the file system's own settings elsewhere.",
    rests_on: Basis::Recording,
    verified: "Both readers recorded with lines of 4,000 to 5,000 bytes.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for line in case.table.lines() {
        let length = line.text.end - line.text.start;
        if length <= READ || line.kind != LineKind::Entry {
            continue;
        }
        let mut finding = case.finding_on_line(&RULE, line.number);
        if let Some(request) = case.entry_on(line.number) {
            case.judge(&mut finding, request);
        }
        finding.message = format!("The line is {length} bytes long.");
        finding.why = format!("{} The init system reads {READ} bytes of it.", finding.why).trim().to_owned();
        finding.remedy = "Shorten it.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_beyond_what_is_read() {
        let line = |n: usize| format!("LABEL=gauges /srv/gauges xfs nofail,x-note={} 0 0\n", "n".repeat(n));
        assert_lines("long-line", &line(4000), &[]);
        assert_lines("long-line", &line(4090), &[2]);
        assert_lines("long-line", &format!("# {}\n", "x".repeat(5000)), &[]);
    }
}
