use super::judge;
use crate::rules::{Basis, Case, Family, Finding, Fix, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::Edit;
use bradawl_facts::table::{FieldName, Line};
use bradawl_facts::text::count;

/// Lines that end as on another system.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "line-endings",
    family: Family::Reading,
    default: Consequence::Note,
    what: "lines end with carriage return and line feed, as on another system",
    matters: "The mount program takes a carriage return off. To the init system it belongs to the last field: it \
              takes it off when it reads the unit that it made, but a word that it looks for before, such as \
              nofail at the end of a line, is not recognised, and a target with it has no unit that can be loaded.",
    at_boot: "Lines with a type work; nofail, noauto and the like at their end do not count. A line of two fields \
              is not mounted, and root is left as the kernel mounted it.",
    fix: "Remove the carriage returns, as the ready edit does for the whole table.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with lines of two to six fields (systemd 252); both readers recorded for the same.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let ends = |l: &&Line| case.table.slice(l.text).ends_with(b"\r");
    let lines: Vec<&Line> = case.table.lines().iter().filter(ends).collect();
    let Some(first) = lines.first() else { return };
    // The entries whose last field is text; one of them is shown.
    let harmed = case.requests.iter().filter(|r| is_harmed(case, r));
    let worst = harmed.min_by_key(|r| case.fate(r).and_then(|f| f.consequence).map_or(9, |c| c as u8));
    let mut finding = match worst {
        Some(request) => {
            let field = super::FIELDS[request.entry.fields.len().clamp(1, 4) - 1];
            let mut finding = case.finding(&RULE, request, field);
            judge(case, &mut finding, request);
            match lost_word(request) {
                Some(word) => {
                    finding.consequence = finding.consequence.min(Consequence::Risk);
                    finding.why = format!("With it the init system does not recognise {word}.");
                }
                None => {
                    finding.why = format!(
                        "The init system reads the carriage return as the end of the {}. {}",
                        name(field),
                        finding.why
                    );
                }
            }
            finding
        }
        None => {
            let mut finding = case.finding_on_line(&RULE, first.number);
            finding.why = "It follows the last number, where readers pass it over.".to_owned();
            finding
        }
    };
    let total = case.table.lines().len();
    finding.message = match lines.len() {
        n if n == total => "All lines end with a carriage return.".to_owned(),
        n => format!("{} of {total} end with a carriage return.", count(n, "line")),
    };
    finding.remedy = "Save the table with line feeds alone.".to_owned();
    let edit = |l: &&Line| {
        let end = case.table.line_text(l.number).chars().count();
        Edit { line: l.number, columns: [end, end], text: String::new() }
    };
    let edits = lines.iter().map(edit).collect();
    finding.fixes.push(Fix { title: "remove the carriage returns".to_owned(), edits, safe: true });
    findings.push(finding);
}

/// Words of the init system's generator.
const LOOKED_FOR: [&str; 5] = ["nofail", "noauto", "_netdev", "x-systemd.automount", "bg"];

/// Whether the carriage return is part of a name that it spoils.
fn is_harmed(case: &Case<'_>, request: &bradawl_boot::Request<'_>) -> bool {
    let fields = &request.entry.fields;
    let ends = fields.last().is_some_and(|f| case.table.slice(*f).ends_with(b"\r"));
    ends && (fields.len() <= 2 || lost_word(request).is_some())
}

/// The word at the end of the line that the init system looks for before it
/// makes its unit.
fn lost_word<'r>(request: &'r bradawl_boot::Request<'_>) -> Option<&'r str> {
    let last = request.entry.options.last().filter(|_| request.entry.fields.len() == 4)?;
    LOOKED_FOR.contains(&last.name.as_str()).then_some(last.name.as_str())
}

fn name(field: FieldName) -> &'static str {
    match field {
        FieldName::Source => "source",
        FieldName::Target => "target",
        FieldName::Type => "type",
        _ => "options",
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, findings, only};

    #[test]
    fn fires_once_for_the_table() {
        let rule = "line-endings";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail 0 0\n", &[]);
        assert_lines(rule, "# a\r\nLABEL=gauges /srv/gauges xfs nofail 0 0\r\n", &[2]);
        assert_lines(rule, "# a\r\nLABEL=gauges /srv/gauges xfs nofail\r\n", &[3]);
        assert_eq!(only(rule, "# a\r\n\r\n").fixes[0].edits.len(), 2);
    }

    #[test]
    fn harmful_where_it_spoils_a_name() {
        for (line, consequence) in [
            ("LABEL=gauges /srv/gauges xfs noatime\r\n", Consequence::Note),
            ("LABEL=gauges /srv/gauges xfs\r\n", Consequence::Note),
            ("LABEL=gauges /srv/gauges xfs nofail\r\n", Consequence::Risk),
            ("LABEL=gauges /srv/gauges\r\n", Consequence::Missing),
        ] {
            assert_eq!(only("line-endings", line).consequence, consequence, "{line:?}");
            assert!(findings(line).iter().all(|f| f.rule != "option-unknown"), "{line:?}");
        }
    }
}
