use super::disagreement;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::table::{FieldName, Span};

/// A line has two fields too few or any too many.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "field-count",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "the line has too few or too many fields",
    matters: "A line is source, target, type, options, dump and pass. The last two may be left out. With \
          fewer than four fields the two readers disagree; more than six hint at a blank where none \
          belongs.",
    at_boot: "The init system takes a line of two or three fields and fills in the type and the options; \
          the mount program, fsck and swapon pass a line of two fields over. What follows the sixth \
          field is read by nobody.",
    fix: "Write all six fields; write a blank inside a source or target as \\040; put a remark on a \
          line of its own.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with lines of two and three fields and with a remark at the end (systemd \
          252); both readers recorded for 20 such lines.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let fields = request.entry.fields.len();
        if let Some(finding) = match fields {
            1 => Some(alone(case, request)),
            2 | 3 => Some(short(case, request, fields)),
            4..=6 => None,
            _ => long(case, request),
        } {
            findings.push(finding);
        }
    }
}

fn alone(case: &Case<'_>, request: &Request<'_>) -> Finding {
    let mut finding = case.finding(&RULE, request, FieldName::Source);
    finding.consequence = Consequence::Missing;
    finding.message = "The line has one field: there is no target.".to_owned();
    finding.why = "Every reader passes the line over; nothing is mounted for it.".to_owned();
    finding.remedy =
        "Complete the line (source, target, type, options, dump, pass), or put # in front.".to_owned();
    finding
}

/// Recorded: the boot mounts lines of two and three fields, with the type
/// found out and the default options.
fn short(case: &Case<'_>, request: &Request<'_>, fields: usize) -> Finding {
    let mut finding = case.finding(&RULE, request, FieldName::Target);
    let lacks = if fields == 2 { "type and options" } else { "options" };
    finding.consequence = if fields == 2 { Consequence::Risk } else { Consequence::Note };
    finding.message = format!("The line has only {fields} fields: {lacks} are not given.");
    finding.why =
        disagreement(case, request).unwrap_or_else(|| "Readers take the default options.".to_owned());
    finding.remedy = "Write all six fields, with defaults as the options.".to_owned();
    finding
}

fn long(case: &Case<'_>, request: &Request<'_>) -> Option<Finding> {
    let seventh = request.entry.fields.get(6).copied()?;
    let last = request.entry.fields.last()?.end;
    let rest = Span { start: seventh.start, end: last };
    let mut finding = case.finding_at(&RULE, request, FieldName::Pass, Some(rest));
    finding.consequence = Consequence::Note;
    finding.message = format!("The line has {} fields; only six count.", request.entry.fields.len());
    finding.why = "No reader looks at what follows the sixth.".to_owned();
    finding.remedy = "Remove the rest, or put it on a line of its own behind a #.".to_owned();
    let from =
        case.table.columns(case.table.line(request.line())?, Span { start: seventh.start - 1, end: last });
    Some(finding.with_edit("remove the rest", from, "", false))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn counts_fields() {
        for (line, fires) in [
            ("LABEL=gauges", true),
            ("LABEL=gauges /srv/gauges", true),
            ("LABEL=gauges /srv/gauges xfs", true),
            ("LABEL=gauges /srv/gauges xfs nofail", false),
            ("LABEL=gauges /srv/gauges xfs nofail 0 0", false),
            ("LABEL=gauges /srv/gauges xfs nofail 0 0 extra", true),
            ("LABEL=gauges /srv/gauges xfs nofail, noatime 0 0", false),
            ("LABEL=gauges /srv/gauges xfs nofail 0 0 # tide logs", false),
        ] {
            assert_lines("field-count", &format!("{line}\n"), if fires { &[2] } else { &[] });
        }
    }

    #[test]
    fn says_what_each_reader_makes_of_it() {
        let two = only("field-count", "LABEL=gauges /srv/gauges\n");
        assert_eq!(two.consequence, Consequence::Risk);
        assert!(two.why.contains("skip it"), "{}", two.why);
        let seven = only("field-count", "LABEL=gauges /srv/gauges xfs nofail 0 0 extra\n");
        assert_eq!((seven.consequence, seven.columns), (Consequence::Note, Some([41, 45])));
    }
}
