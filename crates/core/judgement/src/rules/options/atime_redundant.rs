use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// An option about access times that another one includes.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "atime-redundant",
    family: Family::Options,
    default: Consequence::Note,
    what: "an option about access times that another one in the list includes",
    matters: "noatime covers directories as well, so nodiratime beside it says nothing more; relatime is what holds \
              anyway.",
    at_boot: "The boot is not affected.",
    fix: "Remove the one that says nothing.",
    rests_on: Basis::Documentation,
    verified: "mount(8): noatime implies nodiratime.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let options = &request.entry.options;
        let place = |name: &str| options.iter().position(|o| o.name == name && o.value.is_none());
        let redundant = match (place("noatime"), place("nodiratime")) {
            (Some(_), Some(at)) => Some((at, "noatime covers directories too")),
            _ => None,
        };
        let Some((at, why)) = redundant else { continue };
        let mut finding = option_finding(case, &RULE, request, &options[at]);
        finding.consequence = Consequence::Note;
        finding.stall_s = Some(0.0);
        finding.message = format!("{} says nothing here: {why}.", visible(&options[at].name));
        finding.why = "The boot is not affected.".to_owned();
        finding.remedy = "Remove it.".to_owned();
        finding.fixes.extend(removal(case, request, at));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_both_together() {
        for (list, fires) in [("noatime,nodiratime", true), ("nodiratime", false), ("noatime", false)] {
            let line = format!("LABEL=gauges /srv/gauges xfs nofail,{list} 0 0\n");
            assert_lines("atime-redundant", &line, if fires { &[2] } else { &[] });
        }
    }
}
