use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::{Line, LineKind, Span};

/// A byte that no text has.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "control-character",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "a NUL byte or another control character in the table",
    matters: "A NUL byte ends the line for the init system, which then loses the whole next line as well. \
              The mount program refuses the line. Tables get such bytes from a crash while they were \
              written, or from a program that pads.",
    at_boot: "The entry on the line after a NUL byte is not there for the boot. Other control characters \
              become part of a name that no device matches.",
    fix: "Remove the byte.",
    rests_on: Basis::Recording,
    verified: "Both readers recorded with NUL bytes within, before and after a line, and in a comment.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for line in case.table.lines() {
        let text = case.table.slice(line.text);
        let odd = |b: &u8| (*b < b' ' && !matches!(b, b'\t' | b'\r' | 0x0b | 0x0c)) || *b == 0x7f;
        let Some(at) = text.iter().position(odd) else { continue };
        let nul = text.iter().position(|b| *b == 0);
        // In a comment nobody minds, but for the line that a NUL swallows.
        if nul.is_none() && line.kind == LineKind::Comment {
            continue;
        }
        findings.push(finding(case, line, nul.unwrap_or(at), nul.is_some()));
    }
}

fn finding(case: &Case<'_>, line: &Line, at: usize, nul: bool) -> Finding {
    let mut finding = case.finding_on_line(&RULE, line.number);
    let start = line.text.start + at;
    finding.columns = Some(case.table.columns(line, Span { start, end: start + 1 }));
    let byte = case.table.bytes().get(start).copied().unwrap_or_default();
    finding.message = format!("The line holds a control character (byte {byte:#04x}).");
    finding.remedy = "Remove the byte.".to_owned();
    finding.why = "It becomes part of the name it stands in.".to_owned();
    if nul {
        let next = case.table.line(line.number + 1).filter(|l| l.kind == LineKind::Lost);
        let carries = |l: &Line| !case.table.slice(l.text).trim_ascii_start().starts_with(b"#");
        let lost = next.is_some_and(|l| carries(l) && !case.table.slice(l.text).trim_ascii().is_empty());
        finding.why = "The init system reads up to it; mount, fsck and swapon pass the line over.".to_owned();
        if lost {
            finding.consequence = Consequence::Missing;
            finding.why = format!(
                "The init system reads up to it and loses line {} as well; mount, fsck and swapon pass \
                 this line over.",
                line.number + 1
            );
        }
    } else if let Some(request) = case.entry_on(line.number) {
        case.judge(&mut finding, request);
    }
    finding.with_fix("remove the byte", "", false)
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};
    use bradawl_facts::Consequence;

    #[test]
    fn fires_on_bytes_no_text_has() {
        let rule = "control-character";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail 0 0\r\n", &[]);
        assert_lines(rule, "LABEL=gau\u{1}ges /srv/gauges xfs nofail 0 0\n", &[2]);
        assert_lines(rule, "# a bell \u{7}\n", &[]);
        assert_lines(rule, "# x\0y\nLABEL=gauges /srv/gauges xfs nofail 0 0\n", &[2]);
    }

    #[test]
    fn a_nul_costs_the_next_line() {
        let found = only("control-character", "# x\0y\nLABEL=gauges /srv/gauges xfs nofail 0 0\n");
        assert_eq!((found.consequence, found.columns), (Consequence::Missing, Some([4, 4])));
        assert!(found.why.contains("loses line 3"));
        let alone = only("control-character", "LABEL=gauges /srv/gauges xfs nofail 0 0\0\n# end\n");
        assert_eq!(alone.consequence, Consequence::Risk);
    }
}
