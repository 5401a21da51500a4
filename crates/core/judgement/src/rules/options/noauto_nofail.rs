use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;

/// nofail on an entry that boot does not mount.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "noauto-nofail",
    family: Family::Options,
    default: Consequence::Note,
    what: "nofail beside noauto: the boot does not try the entry, so it cannot fail",
    matters: "noauto keeps the boot from mounting it at all. Whoever wrote nofail beside it probably wanted it \
              mounted when the disk is there.",
    at_boot: "It is not mounted, whether the disk is there or not.",
    fix: "Keep the one that is meant: noauto for by hand, nofail for when it is there.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with noauto and with nofail (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| r.noauto && r.nofail && !r.automount) {
        let Some(at) = request.entry.options.iter().position(|o| o.name == "nofail") else { continue };
        let mut finding = option_finding(case, &RULE, request, &request.entry.options[at]);
        finding.consequence = Consequence::Note;
        finding.message = "nofail does nothing beside noauto.".to_owned();
        finding.why = "The boot does not mount the entry, whether its disk is there or not.".to_owned();
        finding.remedy = "Keep the one that is meant.".to_owned();
        finding.fixes.extend(removal(case, request, at).map(|fix| crate::rules::Fix { safe: false, ..fix }));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_both_together() {
        for (list, fires) in
            [("noauto,nofail", true), ("nofail", false), ("noauto", false), ("noauto,nofail,auto", false)]
        {
            let line = format!("LABEL=gauges /srv/gauges xfs {list} 0 0\n");
            assert_lines("noauto-nofail", &line, if fires { &[2] } else { &[] });
        }
    }
}
