use super::{FIELDS, disagreement, judge, raw};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_facts::Consequence;
use bradawl_facts::table::{FieldName, Span, decode, decode_octal, encode};
use bradawl_facts::text::visible;
use bradawl_resolve::Source;

/// A backslash that not every reader takes for the same.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "bad-escape",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "an escape that the init system and the mount program read differently, or that neither knows",
    matters: "Blanks inside a field are written as \\040. The init system knows that and three more (\\011, \
              \\012, \\134) and leaves all else as it stands; the mount program decodes every octal number. \
              Neither knows \\x20 or a backslash before a blank.",
    at_boot: "The entry is mounted under the name as the init system reads it, which may not be the one that \
              was meant. mount TARGET then looks for another one.",
    fix: "Write the character itself, or \\040 for a blank.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with \\141 in a target: mounted under that very name (systemd 252); both readers \
               recorded for 17 escapes.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        for (field, &span) in FIELDS[..4].iter().zip(&request.entry.fields) {
            let text = case.table.slice(span);
            if !text.contains(&b'\\') {
                continue;
            }
            let hex = has_hex(text) && takes_no_hex(request, *field);
            if hex || decode(text) != decode_octal(text) {
                findings.push(finding(case, request, *field, span, hex));
            }
        }
    }
}

/// Links under /dev have `\x20` in their names; targets and tags do not.
fn takes_no_hex(request: &Request<'_>, field: FieldName) -> bool {
    match field {
        FieldName::Source => {
            matches!(request.source, Source::Tag(..)) && !request.entry.source.starts_with('/')
        }
        FieldName::Target => true,
        _ => false,
    }
}

fn has_hex(text: &[u8]) -> bool {
    text.windows(4).any(|w| w.starts_with(b"\\x") && w[2..].iter().all(u8::is_ascii_hexdigit))
}

fn finding(case: &Case<'_>, request: &Request<'_>, field: FieldName, span: Span, hex: bool) -> Finding {
    let mut finding = case.finding_at(&RULE, request, field, Some(span));
    judge(case, &mut finding, request);
    finding.message = format!("{} has an escape that readers do not share.", visible(&raw(case, span)));
    finding.why = match disagreement(case, request) {
        Some(differs) => differs,
        None => "Both readers leave it as it stands, backslash and all.".to_owned(),
    };
    finding.remedy = "Write the character itself, or \\040 for a blank.".to_owned();
    let text = case.table.slice(span);
    let meant = decode_octal(&if hex { without_hex(text) } else { text.to_vec() });
    let mended = String::from_utf8(encode(&meant)).unwrap_or_default();
    let sound = !mended.is_empty() && !mended.chars().any(char::is_control) && !mended.contains(',');
    if sound { finding.with_fix(format!("write {}", visible(&mended)), mended, false) } else { finding }
}

/// The text with `\x20` written as an octal escape.
fn without_hex(text: &[u8]) -> Vec<u8> {
    let mut out = Vec::with_capacity(text.len());
    let mut rest = text;
    while let Some((&byte, tail)) = rest.split_first() {
        let code = rest.strip_prefix(b"\\x").and_then(|r| r.get(..2)).and_then(|d| {
            let digits = std::str::from_utf8(d).ok()?;
            u8::from_str_radix(digits, 16).ok()
        });
        match code {
            Some(code) => {
                out.extend(format!("\\{code:03o}").bytes());
                rest = &rest[4..];
            }
            None => {
                out.push(byte);
                rest = tail;
            }
        }
    }
    out
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_where_readers_part() {
        for (target, fires) in [
            ("/srv/tide\\040log", false),
            ("/srv/tide\\134log", false),
            ("/srv/gr\\141in", true),
            ("/srv/tide\\043log", true),
            ("/srv/tide\\x20log", true),
            ("/srv/tide\\log", false),
        ] {
            let line = format!("LABEL=gauges {target} xfs nofail 0 0\n");
            assert_lines("bad-escape", &line, if fires { &[2] } else { &[] });
        }
        assert_lines("bad-escape", "/dev/disk/by-label/press\\x20room /srv/p xfs nofail 0 0\n", &[]);
    }

    #[test]
    fn offers_the_plain_spelling() {
        for (target, text) in [("/srv/gr\\141in", "/srv/grain"), ("/srv/tide\\x20log", "/srv/tide\\040log")] {
            let found = only("bad-escape", &format!("LABEL=gauges {target} xfs nofail 0 0\n"));
            assert_eq!(found.fixes[0].edits[0].text, text);
        }
    }
}
