use super::FIELDS;
use super::judge;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::LineKind;

/// Bytes that are no UTF-8.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "not-utf8",
    family: Family::Reading,
    default: Consequence::Risk,
    what: "bytes that are not UTF-8, as an older encoding leaves them",
    matters: "Readers compare bytes. A name written in Latin-1 and the same name on disk in UTF-8 are two \
              names, however alike they look.",
    at_boot: "A label or a directory with such a byte is only found when it has the very same bytes.",
    fix: "Save the table as UTF-8, and see that names on disk are UTF-8 too.",
    rests_on: Basis::Recording,
    verified: "Both readers recorded with a Latin-1 byte: they pass it through.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for line in case.table.lines() {
        let text = case.table.slice(line.text);
        if std::str::from_utf8(text).is_ok() || line.kind != LineKind::Entry {
            continue;
        }
        let request = case.entry_on(line.number);
        let broken = |n: &usize| {
            let span = request.and_then(|r| r.entry.fields.get(*n).copied());
            span.is_some_and(|s| std::str::from_utf8(case.table.slice(s)).is_err())
        };
        let Some((request, field)) = request.zip((0..FIELDS.len()).find(broken)) else { continue };
        let mut finding = case.finding(&RULE, request, FIELDS[field]);
        judge(case, &mut finding, request);
        finding.message = "The field holds bytes that are not UTF-8.".to_owned();
        finding.remedy = "Save the table as UTF-8.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_fields_and_not_on_comments() {
        let fires = |line: &[u8]| {
            let table = Table::parse([ROOT.as_bytes(), line].concat());
            let found = crate::judge(&host(), &table).findings;
            found.iter().any(|f| f.rule == "not-utf8")
        };
        assert!(fires(b"LABEL=gr\xe4in /srv/gauges xfs nofail 0 0\n"));
        assert!(!fires(b"# gr\xe4in\n"));
        assert!(!fires("LABEL=gräin /srv/gauges xfs nofail 0 0\n".as_bytes()));
    }
}
