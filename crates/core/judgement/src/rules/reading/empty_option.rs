use super::raw;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;

/// Commas with nothing between them.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "empty-option",
    family: Family::Reading,
    default: Consequence::Note,
    what: "a doubled, leading or trailing comma in the options",
    matters: "A comma too many usually means that an option was lost in editing.",
    at_boot: "The boot is not affected: empty options are passed over.",
    fix: "Remove the comma, and see whether an option is missing.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a doubled comma: mounted (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(span) = request.entry.span(FieldName::Options) else { continue };
        let text = raw(case, span);
        let shifted = text.ends_with(',') && request.entry.fields.len() > 4 && !is_number(case, request);
        let empty = text.starts_with(',') || text.ends_with(',') || text.contains(",,");
        if !empty || shifted || text.contains('"') {
            continue;
        }
        let mended: Vec<&str> = text.split(',').filter(|o| !o.is_empty()).collect();
        let mended = if mended.is_empty() { "defaults".to_owned() } else { mended.join(",") };
        let mut finding = case.finding(&RULE, request, FieldName::Options);
        finding.message = "The options have a comma too many.".to_owned();
        finding.why = "Readers pass over what is empty; an option may have been lost.".to_owned();
        finding.remedy = "Remove the comma, and see whether an option is missing.".to_owned();
        findings.push(finding.with_fix("remove the comma", mended, true));
    }
}

/// Whether the field after the options is a number; else a blank stands after
/// the comma.
fn is_number(case: &Case<'_>, request: &bradawl_boot::Request<'_>) -> bool {
    request.entry.span(FieldName::Dump).is_some_and(|s| case.table.slice(s).iter().all(u8::is_ascii_digit))
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_commas_alone() {
        for (options, fires) in
            [("a,b", false), (",nofail", true), ("nofail,", true), ("nofail,,noatime", true), (",", true)]
        {
            let line = format!("LABEL=gauges /srv/gauges xfs {options} 0 0\n");
            assert_lines("empty-option", &line, if fires { &[2] } else { &[] });
        }
        assert_lines("empty-option", "LABEL=gauges /srv/gauges xfs nofail, noatime 0 0\n", &[]);
    }

    #[test]
    fn takes_them_out() {
        let found = only("empty-option", "LABEL=gauges /srv/gauges xfs ,nofail,,noatime, 0 0\n");
        assert_eq!(found.fixes[0].edits[0].text, "nofail,noatime");
    }
}
