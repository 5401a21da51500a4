use super::FIELDS;
use super::judge;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::table::{FieldName, Span};

/// Characters that a web page or a word processor put in place of plain ones.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "smart-punctuation",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "a typographic quote or dash, or an invisible character, as pasted from a web page",
    matters: "Text copied from a web page or an office program carries characters that look like a quote \
          or a dash and are none, or that cannot be seen at all. Readers take them as parts of names.",
    at_boot: "The field means something else than it seems to: a dash makes an option unknown, a \
          quote or an invisible character makes a name that no device matches.",
    fix: "Retype the field on the keyboard, or take the ready edit.",
    rests_on: Basis::Recording,
    verified: "Both readers recorded with typographic quotes: they take them as they stand.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        for (field, &span) in FIELDS.into_iter().zip(&request.entry.fields) {
            let bytes = case.table.slice(span);
            if bytes.is_ascii() {
                continue;
            }
            // The mark in front of the table has a rule of its own.
            let text = String::from_utf8_lossy(bytes);
            let text = if span.start == 0 { text.trim_start_matches('\u{feff}') } else { &text };
            if text.chars().any(|c| plain(c).is_some()) {
                findings.push(finding(case, request, field, span, text));
            }
        }
    }
}

fn finding(case: &Case<'_>, request: &Request<'_>, field: FieldName, span: Span, text: &str) -> Finding {
    let mut finding = case.finding_at(&RULE, request, field, Some(span));
    judge(case, &mut finding, request);
    let names: Vec<String> = text.chars().filter(|c| plain(*c).is_some()).map(name).collect();
    finding.message =
        format!("The field holds {}, as pasted from a web page.", bradawl_facts::text::list(&names));
    finding.remedy = "Write it with plain characters.".to_owned();
    let mended: String =
        text.chars().map(|c| plain(c).map_or_else(|| c.to_string(), str::to_owned)).collect();
    let safe = !mended.is_empty();
    finding.with_fix("write it with plain characters", mended, safe)
}

/// The plain form of a character that has no place in a table; `None` for
/// all others.
fn plain(c: char) -> Option<&'static str> {
    Some(match c {
        '\u{2018}'..='\u{201b}' => "'",
        '\u{201c}'..='\u{201f}' => "\"",
        '\u{2010}'..='\u{2015}' | '\u{2212}' => "-",
        '\u{ff0c}' => ",",
        '\u{ff1d}' => "=",
        '\u{200b}'..='\u{200f}' | '\u{2060}' | '\u{feff}' | '\u{ad}' => "",
        _ => return None,
    })
}

fn name(c: char) -> String {
    let word = match plain(c) {
        Some("") => "an invisible character",
        Some("-") => "a typographic dash",
        Some("'" | "\"") => "a typographic quote",
        _ => "a full-width character",
    };
    format!("{word} (U+{:04X})", u32::from(c))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_pasted_characters_alone() {
        let rule = "smart-punctuation";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail 0 0\n", &[]);
        assert_lines(rule, "LABEL=gezeitenmühle /srv/潮 xfs nofail 0 0\n", &[]);
        for line in [
            "LABEL=“gauges” /srv/gauges xfs nofail 0 0\n",
            "LABEL=gau\u{200b}ges /srv/gauges xfs nofail 0 0\n",
        ] {
            assert_lines(rule, line, &[2]);
        }
    }

    #[test]
    fn mends_and_names_them() {
        let finding = only("smart-punctuation", "LABEL=gauges /srv/gauges xfs no–fail 0 0\n");
        assert!(finding.message.contains("dash (U+2013)"));
        assert_eq!(finding.fixes[0].edits[0].text, "no-fail");
        assert_eq!(finding.consequence, Consequence::Halt);
    }
}
