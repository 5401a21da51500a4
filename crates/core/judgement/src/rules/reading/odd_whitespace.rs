use super::{FIELDS, disagreement, judge, raw};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::table::{FieldName, Span};
use bradawl_facts::text::list;

/// Something that looks like a blank and is none.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "odd-whitespace",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "a no-break space, or another character that looks like a blank and separates nothing",
    matters: "Fields are separated by blanks and tabs alone. Text copied from a web page has no-break spaces \
              in their place, which nobody can tell apart by looking.",
    at_boot: "Two fields become one: every field after it is read as the one before.",
    fix: "Replace it by a blank, as the ready edit does.",
    rests_on: Basis::Recording,
    verified: "Both readers recorded with a no-break space, a vertical tab and a form feed between fields.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        for (n, &span) in request.entry.fields.iter().enumerate() {
            let plain = case.table.slice(span).iter().all(u8::is_ascii_graphic);
            if !plain && raw(case, span).chars().any(is_odd) {
                findings.push(finding(case, request, n, span));
                break;
            }
        }
    }
}

/// Whether it looks like a blank and separates nothing.
pub(super) fn is_odd(c: char) -> bool {
    c.is_whitespace() && !matches!(c, ' ' | '\t' | '\r' | '\n')
}

fn finding(case: &Case<'_>, request: &Request<'_>, n: usize, span: Span) -> Finding {
    let field = FIELDS.get(n).copied().unwrap_or(FieldName::Pass);
    let mut finding = case.finding_at(&RULE, request, field, Some(span));
    judge(case, &mut finding, request);
    let text = raw(case, span);
    let mut names: Vec<String> =
        text.chars().filter(|c| is_odd(*c)).map(|c| format!("U+{:04X}", u32::from(c))).collect();
    names.dedup();
    finding.message = format!("What looks like a blank here is none ({}).", list(&names));
    if let Some(differs) = disagreement(case, request) {
        finding.why = format!("{} {differs}", finding.why).trim().to_owned();
    }
    finding.remedy = "Write a plain blank in its place.".to_owned();
    let mended: String = text.chars().map(|c| if is_odd(c) { ' ' } else { c }).collect();
    let fields = request.entry.fields.len() - 1 + mended.split_whitespace().count();
    finding.with_fix("write plain blanks", mended, (4..=6).contains(&fields))
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_what_separates_nothing() {
        let rule = "odd-whitespace";
        assert_lines(rule, "LABEL=gauges\t/srv/gauges  xfs nofail 0 0 \n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges\u{a0}xfs nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail\u{b}0 0\n", &[2]);
        assert_lines("smart-punctuation", "LABEL=gauges /srv/gauges\u{a0}xfs nofail 0 0\n", &[]);
    }

    #[test]
    fn mends_the_line() {
        let found = only("odd-whitespace", "LABEL=gauges /srv/gauges\u{a0}xfs nofail 0 0\n");
        assert_eq!(found.fixes[0].edits[0].text, "/srv/gauges xfs");
        assert!(found.fixes[0].safe && found.message.contains("U+00A0"));
    }
}
