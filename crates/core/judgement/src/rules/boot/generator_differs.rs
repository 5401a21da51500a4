use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::differences;
use bradawl_facts::Consequence;
use bradawl_facts::text::{list, visible};

/// The host's own generator makes something else of the table.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "generator-differs",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "the host's own generator makes other units of the table than this forecast supposes",
    matters: "The forecast rests on what systemd's generator makes of a table. Where the host's own makes \
              something else, of a version or with a change that is not known here, the host is right.",
    at_boot: "What the host's generator made is what counts; of entries that it makes no unit of, the forecast \
              says so.",
    fix: "Trust the host. Please report the line together with the version of systemd.",
    rests_on: Basis::Recording,
    verified: "Generators of 247, 252, 257 and 262 asked about all tables of the tests.",
    check,
};

/// More of them are not told one by one.
const MAX_TOLD: usize = 20;

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let differ = differences(case.record, case.requests, case.table.bytes());
    for difference in differ.iter().take(MAX_TOLD) {
        let request = case.requests.iter().find(|r| Some(r.line()) == difference.line);
        let mut finding = match request {
            Some(request) => case.finding_on_line(&RULE, request.line()),
            None => Finding::of(&RULE),
        };
        let unit = visible(&difference.unit);
        finding.message = format!("The host's own generator makes {unit} otherwise than is forecast here.");
        for (who, lines) in [("the generator", &difference.theirs), ("forecast", &difference.ours)] {
            if !lines.is_empty() {
                let lines: Vec<String> = lines.iter().map(|l| visible(l).into_owned()).collect();
                finding = finding.with_evidence(format!("{who}: {}", list(&lines)));
            }
        }
        finding.remedy = "Trust the generator: the forecast may be wrong about this entry.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Generated, RawBytes, Record};
    use bradawl_facts::testing::{ROOT, host};

    const LINE: &str = "LABEL=gauges /srv/gauges xfs noatime 0 0\n";

    fn asked(made: &[&str], table: &str) -> Record {
        let made = made.iter().map(|l| (*l).to_owned()).collect();
        Record { generated: Some(Generated { table: RawBytes::new(table.as_bytes()), made }), ..host() }
    }

    #[test]
    fn speaks_where_the_host_differs() {
        let table = format!("{ROOT}{LINE}");
        let about = |record: &Record| {
            let found = findings_on(record, &table);
            let lines: Vec<_> =
                found.iter().filter(|f| f.rule == "generator-differs").map(|f| f.line).collect();
            let gone = found.iter().any(|f| f.message.contains("makes no unit of it"));
            (lines, gone)
        };
        let (lines, gone) = about(&asked(&["unit -.mount", "-.mount Before=local-fs.target"], &table));
        assert!(lines.contains(&Some(2)) && gone, "{lines:?}");
        // What it made of another table says nothing of this one.
        assert_eq!(about(&asked(&[], "")), (Vec::new(), false));
    }
}
