//! The whole line with its repairs: each finding shows its own place only.

use crate::mend::{Wish, mend};
use bradawl_facts::record::Record;
use bradawl_facts::secrets;
use bradawl_facts::table::Table;
use bradawl_judgement::Against;
use bradawl_judgement::rules::Finding;
use std::collections::BTreeSet;

/// A line with all of its safe repairs made.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct MendedLine {
    /// Line in the table, from 1.
    pub line: usize,
    /// Its text then.
    pub text: String,
}

/// The lines with findings that have safe repairs, with all of them made. Lines
/// that hold a secret are left out.
pub fn mended_lines(
    record: &Record,
    table: &Table,
    against: &Against<'_>,
    findings: &[Finding],
) -> Vec<MendedLine> {
    let repaired = findings.iter().filter(|f| f.fixes.iter().any(|fix| fix.safe));
    let lines: BTreeSet<usize> = repaired.filter_map(|f| f.line).collect();
    let lines: Vec<usize> = lines.into_iter().collect();
    if lines.is_empty() {
        return Vec::new();
    }
    let wish = Wish { lines: lines.clone(), ..Wish::default() };
    let Ok(mending) = mend(record, table, against, &wish, None) else { return Vec::new() };
    // A repair that adds or drops lines moves those below it.
    if mending.table.lines().len() != table.lines().len() {
        return Vec::new();
    }
    let mended = |line: usize| {
        let text = mending.table.line_text(line);
        let differs = text != table.line_text(line);
        (differs && !secrets::found(&text)).then_some(MendedLine { line, text })
    };
    lines.into_iter().filter_map(mended).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::testing::{ROOT, host};
    use bradawl_judgement::judge;

    #[test]
    fn two_faults_of_one_line_are_repaired_together() {
        let record = host();
        let text = format!(
            "{ROOT}UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e3 /srv/gauges xfs noatme,nofail 0 0\n\
             LABEL=hull /srv/hull ext4 nofail,noatme 0 2\n"
        );
        let table = Table::parse(text);
        let findings = judge(&record, &table).findings;
        let mended = mended_lines(&record, &table, &Against::default(), &findings);
        let texts: Vec<&str> = mended.iter().map(|m| m.text.as_str()).collect();
        let both = "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2 /srv/gauges xfs noatime,nofail 0 0";
        assert_eq!(texts, [both, "LABEL=hull /srv/hull ext4 nofail,noatime 0 2"]);
    }
}
