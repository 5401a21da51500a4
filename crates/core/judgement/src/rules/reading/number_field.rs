use super::disagreement;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The fifth or sixth field is no number.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "number-field",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "the fifth or sixth field is not a number, so no check is made",
    matters: "The fifth field (dump) and the sixth (pass) are numbers. The init system reads anything else \
          as 0 and goes on; the mount program, fsck and swapon refuse the whole line.",
    at_boot: "The entry is mounted, but its file system is never checked. Later, mount TARGET and mount -a \
          say that they do not know it.",
    fix: "Write 0, 1 for root, or 2 for what is to be checked after it.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a word as dump and as pass (systemd 252): mounted, and a parse error \
          from fsck and mount; both readers recorded for a dozen spellings.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        for (field, name) in [(FieldName::Dump, "fifth"), (FieldName::Pass, "sixth")] {
            let Some(span) = request.entry.span(field) else { continue };
            let text = String::from_utf8_lossy(case.table.slice(span)).into_owned();
            let digits = text.trim_end_matches('\r');
            // A comment in its place is another matter.
            if digits.starts_with('#') {
                break;
            }
            if digits.bytes().all(|b| b.is_ascii_digit()) {
                continue;
            }
            let mut finding = case.finding(&RULE, request, field);
            finding.message =
                format!("The {name} field is {}, which is not a number from 0.", visible(&text));
            let differs = disagreement(case, request);
            finding.why = differs.unwrap_or_else(|| "Checks go by numbers from 0 to 2.".to_owned());
            if request.entry.pass == 0 {
                finding.why.push_str(" The file system is never checked.");
            }
            finding.remedy = "Write 0, 1 for root, or 2 for others that are to be checked.".to_owned();
            findings.push(finding);
            break;
        }
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_words() {
        for (tail, fires) in [
            ("0 2", false),
            ("0 two", true),
            ("yes 2", true),
            ("0", false),
            ("0 2\r", false),
            ("0 -1", true),
            ("# note", false),
        ] {
            let line = format!("LABEL=FIELD /srv/field vfat nofail {tail}\n");
            assert_lines("number-field", &line, if fires { &[2] } else { &[] });
        }
    }
}
