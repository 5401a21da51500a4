use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Request, Trial};
use bradawl_catalogue::options::{About, Checked, Verdict};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// The type, or the kernel, does not take the option.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "option-unknown",
    family: Family::Options,
    default: Consequence::Missing,
    what: "the file system type or the kernel does not take the option",
    matters: "Most file systems refuse to mount when they meet an option they do not know: one misspelt \
          word is enough. Kernels also drop options from one release to the next.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode. For root the remount \
          fails and root stays read-only.",
    fix: "Correct the spelling, or remove the option.",
    rests_on: Basis::Recording,
    verified: "More than two thousand recorded option lists on kernels 5.10, 6.1, 6.12 and 6.18; no list \
          that a kernel took is called refused.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, checked) in refused(case) {
        let option = &request.entry.options[checked.index];
        // A carriage return or a quote is what is wrong then, not the option.
        let name = checked.about == About::Name;
        if !name || option.name.ends_with('\r') || option.name.starts_with('"') {
            continue;
        }
        let mut finding = option_finding(case, &RULE, request, option);
        finding.message = format!("The option {} is rejected: {}.", visible(&option.name), checked.why);
        finding.remedy = match checked.near.as_slice() {
            [] => "Remove it from the list.".to_owned(),
            [near] => format!("Write {near}, or remove it."),
            several => format!("Write one of {}, or remove it.", several.join(", ")),
        };
        for near in &checked.near {
            let text = option.value.as_ref().map_or((*near).to_owned(), |v| format!("{near}={v}"));
            finding = finding.with_fix(format!("write {near}"), text, checked.near.len() == 1);
        }
        if checked.near.is_empty() {
            finding.fixes.extend(removal(case, request, checked.index));
        }
        findings.push(finding);
    }
}

/// The refused options of all entries that are tried with a known type.
pub(super) fn refused<'c>(case: &'c Case<'_>) -> impl Iterator<Item = (&'c Request<'c>, Checked)> {
    verdicts(case, Verdict::Refused)
}

/// The options of all entries with this verdict.
pub(super) fn verdicts<'c>(
    case: &'c Case<'_>,
    verdict: Verdict,
) -> impl Iterator<Item = (&'c Request<'c>, Checked)> {
    // What a remount of root takes has been told there.
    let taken = move |r: &&Request<'_>| r.is_root() && r.trial == Trial::Works && verdict == Verdict::Refused;
    case.requests.iter().filter(move |r| !taken(r)).flat_map(move |request| {
        let of_verdict = request.options.iter().filter(move |c| c.verdict == verdict);
        of_verdict.map(move |c| (request, c.clone()))
    })
}

/// Reports the refused options of one sort, for which there is nothing better
/// to write.
pub(super) fn take_out(
    case: &Case<'_>,
    rule: &Rule,
    sort: fn(&Checked) -> bool,
    findings: &mut Vec<Finding>,
) {
    for (request, checked) in refused(case).filter(|(_, checked)| sort(checked)) {
        let option = &request.entry.options[checked.index];
        let mut finding = option_finding(case, rule, request, option);
        finding.message = format!("The option {} is rejected: {}.", visible(&option.name), checked.why);
        finding.remedy = "Remove it from the list.".to_owned();
        finding.fixes.extend(removal(case, request, checked.index));
        findings.push(finding);
    }
}

/// Whether a refused option is one of other types.
pub(super) fn is_others(checked: &Checked) -> bool {
    checked.about == About::OtherType
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_names_the_type_does_not_take() {
        let rule = "option-unknown";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs noatme 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs noatime,x-note=a,comment=b 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nobarrier 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges auto uid=5 0 0\n", &[]);
        assert_lines(rule, "x /srv/x gfs2 locktable=y 0 0\n", &[]);
    }

    #[test]
    fn marks_the_option_and_offers_the_near_name() {
        let finding = only("option-unknown", "LABEL=gauges /srv/gauges xfs defaults,noatme 0 0\n");
        assert_eq!(finding.columns, Some([39, 44]));
        assert_eq!(finding.consequence, Consequence::Halt);
        assert_eq!(finding.fixes[0].edits[0].text, "noatime");
    }

    #[test]
    fn takes_out_what_has_no_successor() {
        for (list, columns, text) in [
            ("noatime,sandcastle", [37, 47], ""),
            ("sandcastle,noatime", [30, 40], ""),
            ("sandcastle", [30, 39], "defaults"),
        ] {
            let finding = only("option-unknown", &format!("LABEL=gauges /srv/gauges xfs {list} 0 0\n"));
            let edit = &finding.fixes[0].edits[0];
            assert_eq!((edit.columns, edit.text.as_str()), (columns, text), "{list}");
        }
    }
}
