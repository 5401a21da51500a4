use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::path::tidy;
use bradawl_facts::table::{FieldName, encode};
use bradawl_facts::text::visible;

/// A target with slashes or dots it does not need.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-untidy",
    family: Family::Target,
    default: Consequence::Note,
    what: "the target has doubled or trailing slashes, or . or .. in it",
    matters: "Every reader tidies the path up, but whoever searches the table for the directory does not find it, \
              and duplicates hide behind two spellings.",
    at_boot: "The boot is not affected.",
    fix: "Write the path in its shortest form.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with /srv//grain/: mounted on /srv/grain (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| !r.entry.is_swap()) {
        let target = &request.entry.target;
        let tidied = tidy(target);
        if !target.starts_with('/') || *target == tidied || target.contains(['\r', '\u{fffd}']) {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        finding.message = format!("The target can be written as {}.", visible(&tidied));
        finding.why = "Whoever searches the table for the directory does not find it.".to_owned();
        finding.remedy = "Write it so.".to_owned();
        let text = String::from_utf8_lossy(&encode(tidied.as_bytes())).into_owned();
        // Where .. leads depends on links.
        let safe = !target.split('/').any(|part| part == "..");
        findings.push(finding.with_fix(format!("write {}", visible(&tidied)), text, safe));
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_untidy_paths() {
        let rule = "target-untidy";
        for (target, fires) in [
            ("/srv//gauges", true),
            ("/srv/gauges/", true),
            ("/srv/./gauges", true),
            ("/srv/x/../gauges", true),
            ("/srv/gauges", false),
            ("/srv/tide\\040log", false),
            ("/srv/..gauges", false),
        ] {
            let line = format!("LABEL=gauges {target} xfs nofail 0 0\n");
            assert_lines(rule, &line, if fires { &[2] } else { &[] });
        }
        assert_eq!(
            only(rule, "LABEL=gauges /srv/x/../gauges/ xfs nofail 0 0\n").fixes[0].edits[0].text,
            "/srv/gauges"
        );
    }
}
