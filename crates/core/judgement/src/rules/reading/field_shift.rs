use super::{FIELDS, disagreement, judge};
use crate::meant::{Known, Meant, Slip, meant};
use crate::rules::{Basis, Case, Family, Finding, Fix, Rule};
use bradawl_boot::Request;
use bradawl_catalogue::fstypes::known;
use bradawl_catalogue::options::Verdict;
use bradawl_facts::Consequence;
use bradawl_facts::table::{Edit, FieldName, Span};
use bradawl_facts::text::visible;
use bradawl_resolve::Source;

/// Words that stand in the wrong field.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "field-shift",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "words of the line that stand in the wrong field",
    matters: "A blank ends a field, and only the place of a word says what it means. A blank within a field, a \
              field that is missing, or a line pasted from elsewhere moves every word behind it.",
    at_boot: "With a blank in the options the entry is mounted with those before it, and never checked. With \
              one in the source or target, another directory is mounted, or nothing. The mount program \
              passes such lines over. Of two entries on one line only the first is read.",
    fix: "Write source, target, type, options, dump and pass, in this order; a blank within a source or target \
          as \\040.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a blank after a comma and in a quoted label (systemd 252); both readers \
               recorded with a blank in every field.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let known = Known { index: case.index };
    for request in case.requests {
        let line = case.table.line(request.line());
        let meant = || line.and_then(|line| meant(known, case.table.slice(line.text)));
        if is_plain(case, request) {
            debug_assert_eq!(meant(), None, "a line that is as it should be is read again in vain");
        } else if let Some(meant) = meant() {
            findings.push(finding(case, request, &meant));
        }
    }
}

/// Whether each of six fields holds what belongs there, by what was found out about the entry
/// already: most lines are so.
fn is_plain(case: &Case<'_>, request: &Request<'_>) -> bool {
    let entry = &request.entry;
    let device = match &request.source {
        Source::Tag(_, value) => !value.is_empty(),
        Source::Device(_) => true,
        _ => false,
    };
    let [_, _, _, _, dump, pass] = entry.fields.as_slice() else { return false };
    let digit = |span: &Span| matches!(case.table.slice(*span), [b'0'..=b'9']);
    device
        && (entry.target.starts_with('/') || entry.fstype == "swap")
        && known(&entry.fstype).is_some()
        && !request.options.is_empty()
        && request.options.iter().all(|checked| checked.verdict == Verdict::Accepted)
        && digit(dump)
        && digit(pass)
        && !(entry.dump == 2 && entry.pass == 0)
}

fn finding(case: &Case<'_>, request: &Request<'_>, meant: &Meant) -> Finding {
    let fields = &request.entry.fields;
    let whole = fields.first().zip(fields.last()).map(|(a, b)| Span { start: a.start, end: b.end });
    let written = fields.iter().map(|span| case.table.slice(*span));
    let meant_words = meant.text.split([' ', '\t', '\n']);
    let same = written.zip(meant_words).take_while(|(a, b)| *a == b.as_bytes()).count();
    let first = FIELDS[same.min(FIELDS.len() - 1)];
    let mut finding = case.finding_at(&RULE, request, first, whole);
    judge(case, &mut finding, request);
    (finding.message, finding.remedy) = words(&meant.slip);
    if let Slip::TwoEntries(second) = &meant.slip {
        finding.consequence = finding.consequence.min(Consequence::Risk);
        finding.why = format!("Only the first is read: {} is not mounted.", visible(second));
    } else if let Some(differs) = disagreement(case, request) {
        finding.why = format!("{} {differs}", finding.why).trim().to_owned();
    }
    if let Some(columns) = finding.columns {
        let edits = vec![Edit { line: request.line(), columns, text: meant.text.clone() }];
        finding.fixes.push(Fix { title: title(meant), edits, safe: meant.certain });
    }
    finding
}

fn title(meant: &Meant) -> String {
    match meant.slip {
        Slip::TwoEntries(_) => "put each entry on a line of its own".to_owned(),
        Slip::Torn(_) => "make one field of it".to_owned(),
        _ => "write the line in order".to_owned(),
    }
}

/// What is wrong, and what to do.
fn words(slip: &Slip) -> (String, String) {
    let remedy = |text: &str| text.to_owned();
    match slip {
        Slip::Flag(flag) => (
            format!("{flag} belongs to the mount command, not to an entry."),
            remedy("Remove it: the fields need no flags."),
        ),
        Slip::Separator(by) => {
            (format!("Options are separated by {by} here."), remedy("Separate them by commas."))
        }
        Slip::Glued(word) => {
            (format!("A blank is missing in {}.", visible(word)), remedy("Separate the two fields."))
        }
        Slip::TypeName(word, meant) => {
            let word = visible(word);
            let is_bind = matches!(word.to_ascii_lowercase().as_str(), "bind" | "rbind");
            let write = match is_bind {
                true => format!("Write none as the type, and {word} among the options."),
                false => format!("Write {meant}."),
            };
            (format!("There is no type {word}."), write)
        }
        fixed => {
            let (message, write) = fixed_words(fixed);
            (message.to_owned(), remedy(write))
        }
    }
}

/// Of slips whose words name nothing of the line.
fn fixed_words(slip: &Slip) -> (&'static str, &'static str) {
    match slip {
        Slip::Command => ("The line is a mount command, not an entry.", "Write its words as an entry."),
        Slip::Shown => ("The line is what mount prints, not an entry.", "Write its words as an entry."),
        Slip::Listing => {
            ("The line comes from a list of devices; it is not an entry.", "Write it as an entry.")
        }
        Slip::WrittenTab => ("The line has \\t where blanks belong.", "Write blanks."),
        Slip::Commas => ("The fields are separated by commas.", "Separate fields by blanks."),
        Slip::TornTag => ("The tag is separated from its value.", "Write = between them, and no blank."),
        Slip::Torn(FieldName::Options) => {
            ("A blank in the options makes two fields of them.", "Separate options by commas alone.")
        }
        Slip::Torn(FieldName::Source) => {
            ("A blank in the source makes two fields of it.", "Write the blank as \\040.")
        }
        Slip::Torn(_) => ("A blank in the target makes two fields of it.", "Write the blank as \\040."),
        Slip::Brackets => ("The options stand in brackets.", "Remove the brackets."),
        Slip::StrayComma => ("A comma stands between two fields.", "Separate fields by blanks alone."),
        Slip::Backslashes => {
            ("The share is not written as the mount program reads it.", "Write it as //SERVER/SHARE.")
        }
        Slip::Order => ("The fields stand in the wrong order.", "Write source, target, type, options."),
        Slip::NoType => {
            ("The type is missing, and the options stand in its place.", "Put the type before them.")
        }
        Slip::NoOptions => {
            ("The options are missing, and a number stands in their place.", "Write defaults before it.")
        }
        Slip::NoSource => {
            ("The source is missing, and the target stands in its place.", "Put the source first.")
        }
        Slip::NoTarget => ("The target is missing.", "Write none for swap, in second place."),
        Slip::NumbersSwapped => (
            "The fifth and the sixth field are swapped: 2 is an order of checks.",
            "Write 0 in the fifth field and 2 in the sixth.",
        ),
        Slip::TwoEntries(_) => ("Two entries stand on one line.", "Put each on a line of its own."),
        Slip::Flag(_) | Slip::Separator(_) | Slip::Glued(_) | Slip::TypeName(..) => ("", ""),
    }
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
    fn two_entries_on_one_line_are_parted() {
        let found = only(
            "field-shift",
            "LABEL=gauges /srv/gauges xfs nofail 0 0LABEL=logs /srv/logs ext4 nofail 0 2\n",
        );
        assert_eq!(
            found.fixes[0].edits[0].text,
            "LABEL=gauges /srv/gauges xfs nofail 0 0\nLABEL=logs /srv/logs ext4 nofail 0 2"
        );
        assert!(found.why.contains("/srv/logs is not mounted"), "{}", found.why);
    }
}
