use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::map::Map;
use bradawl_facts::table::FieldName;
use bradawl_facts::table::OFF_MARK;

/// One area in two entries.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-twice",
    family: Family::Swap,
    default: Consequence::Note,
    what: "two entries ask for the same swap area",
    matters: "The second activation finds the area in use. It does no harm, and hides which of the two lines \
          counts: the first.",
    at_boot: "The second one fails or is passed over; nothing waits.",
    fix: "Take one of the two out.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with one area under two names.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mut first: Map<&str, usize> = Map::default();
    for request in case.requests.iter().filter(|r| r.entry.is_swap()) {
        let Some(device) = request.device() else { continue };
        let line = *first.entry(device.path.as_str()).or_insert(request.line());
        // The same words twice are another rule's.
        let same = case.entry_on(line).is_some_and(|r| r.entry.source == request.entry.source);
        if line == request.line() || same {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message = format!("Line {line} asks for the same area, {}.", device.path);
        finding.why = "Only one of the two counts.".to_owned();
        finding.remedy = "Take one of the two out.".to_owned();
        // The mark with which entries are switched off.
        findings.push(finding.with_edit("switch this one off", [1, 0], OFF_MARK, true));
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_the_second_name() {
        let twice =
            "LABEL=reserve none swap sw 0 0\nUUID=0b5a7e19-6cd3-4f88-a1e4-9d2c3b4a5f60 none swap sw 0 0\n";
        assert_lines("swap-twice", twice, &[3]);
        assert_lines("swap-twice", "LABEL=reserve none swap sw 0 0\n", &[]);
    }
}
