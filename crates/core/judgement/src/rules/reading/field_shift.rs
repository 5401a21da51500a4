use super::{disagreement, judge, raw};
use crate::rules::{Basis, Case, Family, Finding, Fix, Rule};
use bradawl_boot::Request;
use bradawl_catalogue::fstypes;
use bradawl_facts::Consequence;
use bradawl_facts::table::Edit;
use bradawl_facts::table::{FieldName, Span};

/// A blank inside a field makes two of it, and moves all that follow.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "field-shift",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "a blank inside a field, which moves every field after it by one",
    matters: "A blank after a comma, in a path or in a label ends the field. What follows it is read as the \
              next field, and so on to the end of the line.",
    at_boot: "With a blank in the options the entry is mounted with those before it, and never checked. With \
              one in the source or target, another folder is mounted, or nothing. The mount program passes \
              the line over in both cases.",
    fix: "Take the blank out of the options; write it as \\040 in a source or target.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a blank after a comma and in a quoted label (systemd 252); both readers \
               recorded with a blank in every field.",
    check,
};

/// Where a field was torn apart, and what belongs between the pieces.
struct Shift {
    field: FieldName,
    /// Index of the first piece and of the last.
    pieces: (usize, usize),
    join: &'static str,
}

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        if let Some(shift) = shift(case, request) {
            findings.push(finding(case, request, &shift));
        }
    }
}

fn shift(case: &Case<'_>, request: &Request<'_>) -> Option<Shift> {
    let fields = &request.entry.fields;
    if fields.len() < 4 || super::inline_comment::place(case, request).is_some_and(|at| at < 6) {
        return None;
    }
    let text = |n: usize| fields.get(n).map(|s| raw(case, *s)).unwrap_or_default();
    if matches!(text(0).as_str(), "UUID" | "LABEL" | "PARTUUID" | "PARTLABEL") {
        return Some(Shift { field: FieldName::Source, pieces: (0, 1), join: "=" });
    }
    if let Some(last) = options_end(&text, fields.len()) {
        return Some(Shift { field: FieldName::Options, pieces: (3, last), join: "" });
    }
    // The type stands further on than it should.
    let is_type = |n: &usize| fstypes::known(&text(*n)).is_some() || text(*n).starts_with("fuse.");
    let at = (2..fields.len().min(7)).find(is_type).filter(|at| *at > 2)?;
    let target = (1..at).find(|n| text(*n).starts_with('/') || matches!(text(*n).as_str(), "none" | "swap"));
    match target {
        Some(1) => Some(Shift { field: FieldName::Target, pieces: (1, at - 1), join: "\\040" }),
        Some(n) if n == at - 1 => Some(Shift { field: FieldName::Source, pieces: (0, n - 1), join: "\\040" }),
        _ => None,
    }
}

/// The last field that still belongs to the options: a comma before or after
/// the blank says so.
fn options_end(text: &impl Fn(usize) -> String, fields: usize) -> Option<usize> {
    let number = |n: usize| text(n).bytes().all(|b| b.is_ascii_digit());
    let mut last = 3;
    while last + 1 < fields {
        let next = text(last + 1);
        if number(last + 1) || !(text(last).ends_with(',') || next.starts_with(',')) {
            break;
        }
        last += 1;
    }
    (last > 3).then_some(last)
}

fn finding(case: &Case<'_>, request: &Request<'_>, shift: &Shift) -> Finding {
    let fields = &request.entry.fields;
    let span = Span { start: fields[shift.pieces.0].start, end: fields[shift.pieces.1].end };
    let mut finding = case.finding_at(&RULE, request, shift.field, Some(span));
    judge(case, &mut finding, request);
    let name = match shift.field {
        FieldName::Source => "source",
        FieldName::Target => "target",
        _ => "options",
    };
    finding.message = match shift.join {
        "=" => "The tag is separated from its value.".to_owned(),
        _ => format!("A blank in the {name} makes two fields of it."),
    };
    let differs = disagreement(case, request).unwrap_or_default();
    finding.why = format!("{} {differs}", finding.why).trim().to_owned();
    finding.remedy = match shift.join {
        "=" => "Write = between them.".to_owned(),
        "" => "Take the blank out.".to_owned(),
        _ => "Write the blank as \\040.".to_owned(),
    };
    let pieces: Vec<String> =
        fields[shift.pieces.0..=shift.pieces.1].iter().map(|s| raw(case, *s).replace('"', "")).collect();
    let Some(columns) = finding.columns else { return finding };
    let edit = Edit { line: request.line(), columns, text: pieces.join(shift.join) };
    let safe = shift.join.is_empty();
    finding.fixes.push(Fix { title: "make one field of it".to_owned(), edits: vec![edit], safe });
    finding
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_torn_fields() {
        for (line, fires) in [
            ("LABEL=gauges /srv/gauges xfs nofail, noatime 0 0", true),
            ("LABEL=gauges /srv/gauges xfs nofail ,noatime 0 0", true),
            ("LABEL=gauges /srv/gauges xfs nofail,noatime 0 0", false),
            ("LABEL=gauges /srv/gauges xfs nofail 0 0 extra", false),
            ("LABEL=gauges /srv/tide log xfs nofail 0 0", true),
            ("LABEL=tide log /srv/log xfs nofail 0 0", true),
            ("LABEL gauges /srv/gauges xfs nofail 0 0", true),
            ("LABEL=gauges /srv/gauges xfs nofail, 0 0", false),
        ] {
            assert_lines("field-shift", &format!("{line}\n"), if fires { &[2] } else { &[] });
            assert_lines("number-field", &format!("{line}\n"), &[]);
        }
    }

    #[test]
    fn makes_one_field_of_it() {
        for (line, text) in [
            ("LABEL=gauges /srv/gauges xfs nofail, noatime, x-a 0 0", "nofail,noatime,x-a"),
            ("LABEL=gauges /srv/tide log xfs nofail 0 0", "/srv/tide\\040log"),
            ("LABEL=\"tide log\" /srv/log xfs nofail 0 0", "LABEL=tide\\040log"),
            ("LABEL gauges /srv/gauges xfs nofail 0 0", "LABEL=gauges"),
        ] {
            let found = only("field-shift", &format!("{line}\n"));
            assert_eq!(found.fixes[0].edits[0].text, text);
            assert!(found.why.contains("pass it over"), "{}", found.why);
        }
    }
}
