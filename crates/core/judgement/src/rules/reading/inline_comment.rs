use super::disagreement;
use super::judge;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::table::{FieldName, Span};

/// A remark behind the fields.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "inline-comment",
    family: Family::Reading,
    default: Consequence::Note,
    what: "a # behind the fields, which starts no comment there",
    matters: "A line is a comment when its first character is #. Further on # is an ordinary character. \
              After all six fields nobody looks; before that it becomes a field.",
    at_boot: "After six fields boot is not affected. Earlier, the init system takes # for the type, the \
              options or a number, and the mount program passes the line over.",
    fix: "Put the remark on a line of its own, above the entry.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a remark behind six fields: mounted (systemd 252); both readers recorded \
               with # in every place.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        if let Some(at) = place(case, request) {
            findings.push(finding(case, request, at));
        }
    }
}

/// The field that starts a remark, if one does.
pub(super) fn place(case: &Case<'_>, request: &Request<'_>) -> Option<usize> {
    let starts = |span: &Span| case.table.slice(*span).starts_with(b"#");
    (2..request.entry.fields.len()).find(|n| starts(&request.entry.fields[*n]))
}

fn finding(case: &Case<'_>, request: &Request<'_>, at: usize) -> Finding {
    let fields = &request.entry.fields;
    let end = fields.last().map_or(0, |f| f.end);
    let span = Span { start: fields[at].start, end };
    let mut finding = case.finding_at(&RULE, request, FieldName::Pass, Some(span));
    finding.field = super::FIELDS.get(at).copied().or(Some(FieldName::Pass));
    if at < 6 {
        judge(case, &mut finding, request);
        let differs = disagreement(case, request).unwrap_or_default();
        let name = ["source", "target", "type", "options", "dump", "pass"][at];
        finding.message = format!("A remark stands where the {name} belongs.");
        finding.why = format!("{} {differs}", finding.why).trim().to_owned();
    } else {
        finding.message = "A remark follows the six fields.".to_owned();
        finding.why =
            "Readers stop after the sixth field; only on a line of its own is a remark sure.".to_owned();
    }
    finding.remedy = "Put the remark on a line of its own, above the entry.".to_owned();
    // With the blanks before it.
    let from = Span { start: fields[at - 1].end, end };
    if let Some(line) = case.table.line(request.line()) {
        let columns = case.table.columns(line, from);
        finding = finding.with_edit("remove the remark", columns, "", false);
    }
    finding
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_a_number_sign_that_starts_a_field() {
        for (tail, fires) in [
            ("xfs nofail 0 0 # tides", true),
            ("xfs nofail # tides", true),
            ("xfs # tides", true),
            ("xfs nofail,x-note=#3 0 0", false),
            ("xfs nofail 0 0", false),
        ] {
            let line = format!("LABEL=gauges /srv/gauges {tail}\n");
            assert_lines("inline-comment", &line, if fires { &[2] } else { &[] });
        }
    }

    #[test]
    fn harmless_after_six_fields_only() {
        let after = only("inline-comment", "LABEL=gauges /srv/gauges xfs nofail 0 0 # tides\n");
        assert_eq!((after.consequence, after.columns), (Consequence::Note, Some([41, 47])));
        assert_eq!(after.fixes[0].edits[0].columns, [40, 47]);
        let within = only("inline-comment", "LABEL=gauges /srv/gauges xfs # tides\n");
        assert_eq!(within.consequence, Consequence::Halt);
        assert!(within.why.contains("skip it"));
    }
}
