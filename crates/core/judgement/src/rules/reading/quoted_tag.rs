use super::judge;
use super::raw;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_resolve::Source;

/// Quotes where none are needed, or where they become part of a name.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "quoted-tag",
    family: Family::Reading,
    default: Consequence::Note,
    what: "quotes around a value or a field",
    matters: "Quotes around the value of a tag are taken off by most readers, and needed by none. Around a \
              target, a type or the options they are part of the name; and they do not keep a blank from \
              separating fields.",
    at_boot: "A quoted tag works. A quoted target becomes a directory with quotes in its name; a quoted type or \
              option is unknown, and the mount fails.",
    fix: "Remove the quotes; write a blank as \\040.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a quoted UUID: mounted (systemd 252); both readers recorded with quotes in \
               every field.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        if let (Source::Tag(..), Some(span)) = (&request.source, request.entry.span(FieldName::Source)) {
            let quoted = case.table.slice(span).iter().any(|b| matches!(b, b'"' | b'\''));
            let text = if quoted { raw(case, span) } else { String::new() };
            if let Some((tag, value)) = text.split_once('=')
                && let Some(bare) = unquoted(value)
            {
                let mut finding = case.finding(&RULE, request, FieldName::Source);
                finding.message = "The value is in quotes, which it does not need.".to_owned();
                finding.why = "Most readers take them off; some do not.".to_owned();
                finding.remedy = "Remove the quotes.".to_owned();
                findings.push(finding.with_fix("remove the quotes", format!("{tag}={bare}"), true));
            }
        }
        for field in [FieldName::Target, FieldName::Type, FieldName::Options] {
            let Some(span) = request.entry.span(field) else { continue };
            if !case.table.slice(span).starts_with(b"\"") && !case.table.slice(span).starts_with(b"'") {
                continue;
            }
            let text = raw(case, span);
            let Some(bare) = unquoted(&text) else { continue };
            let mut finding = case.finding(&RULE, request, field);
            finding.consequence = Consequence::Risk;
            judge(case, &mut finding, request);
            finding.message = "The field is in quotes, which become part of it.".to_owned();
            finding.remedy = "Remove the quotes.".to_owned();
            findings.push(finding.with_fix("remove the quotes", bare.to_owned(), true));
        }
    }
}

/// What stands between a pair of quotes.
fn unquoted(text: &str) -> Option<&str> {
    let strip = |q: char| text.strip_prefix(q).and_then(|t| t.strip_suffix(q));
    strip('"').or_else(|| strip('\'')).filter(|t| !t.is_empty())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_quotes_around_things() {
        let rule = "quoted-tag";
        assert_lines(rule, "LABEL=\"gauges\" /srv/gauges xfs nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges '/srv/gauges' xfs nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail,context=\"a,b\" 0 0\n", &[]);
    }

    #[test]
    fn a_quoted_tag_is_only_a_note() {
        let tag = only("quoted-tag", "LABEL=\"gauges\" /srv/gauges xfs nofail 0 0\n");
        assert_eq!(
            (tag.consequence, tag.fixes[0].edits[0].text.as_str()),
            (Consequence::Note, "LABEL=gauges")
        );
        let target = only("quoted-tag", "LABEL=gauges \"/srv/gauges\" xfs nofail 0 0\n");
        assert_eq!(target.consequence, Consequence::Risk);
    }
}
