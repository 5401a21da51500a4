use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{EntryState, Request};
use bradawl_facts::Consequence;
use bradawl_facts::map::Map;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The same thing asked for twice.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "duplicate-entry",
    family: Family::Reading,
    default: Consequence::Note,
    what: "an entry is repeated: same source, same target",
    matters: "A script that appends without looking, or an installer run twice, leaves the same entry several \
              times. Whoever changes one of them later wonders why nothing happens.",
    at_boot: "systemd takes the first and complains about the others. A line-by-line init mounts it twice, \
              one over the other.",
    fix: "Keep one of them.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with two entries for one target (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mut firsts: Map<(&str, Option<&str>), usize> = Map::default();
    for request in case.requests {
        if request.target.is_none() && !request.entry.is_swap() {
            continue;
        }
        let key = (request.path.as_str(), request.target.as_deref());
        match firsts.get(&key) {
            Some(first) => findings.push(finding(case, request, *first)),
            None => drop(firsts.insert(key, request.line())),
        }
    }
}

/// The line that the request repeats.
fn finding(case: &Case<'_>, request: &Request<'_>, first: usize) -> Finding {
    let mut finding = case.finding(&RULE, request, FieldName::Source);
    finding.message = format!("Line {first} already asks for {}.", what(request));
    finding.why = match case.fate(request).map(|f| f.state) {
        Some(EntryState::Ignored) => "The init system uses the first and ignores this one.",
        _ => "It is done twice, the second time to no purpose.",
    }
    .to_owned();
    finding.remedy = format!("Keep one of the lines {first} and {}.", request.line());
    let line = case.table.line_text(request.line());
    let start: String = line.chars().take(1).collect();
    finding.with_edit("put # in front of it", [1, 1], format!("#{start}"), true)
}

fn what(request: &Request<'_>) -> String {
    match &request.target {
        Some(target) => format!("this on {}", visible(target)),
        None => "this swap".to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_the_later_of_two() {
        let rule = "duplicate-entry";
        let line = "LABEL=gauges /srv/gauges xfs nofail 0 0\n";
        assert_lines(rule, &line.repeat(3), &[3, 4]);
        assert_lines(rule, &format!("{line}LABEL=gauges /srv/absent xfs nofail 0 0\n"), &[]);
        assert_lines(rule, &format!("{line}LABEL=FIELD /srv/gauges vfat nofail 0 0\n"), &[]);
        assert_lines(rule, "LABEL=reserve none swap sw 0 0\nLABEL=reserve swap swap sw 0 0\n", &[3]);
        assert_lines("duplicate-target", &line.repeat(2), &[]);
    }

    #[test]
    fn switches_the_later_one_off() {
        let line = "LABEL=gauges /srv/gauges xfs nofail 0 0\n";
        let edit = &only("duplicate-entry", &line.repeat(2)).fixes[0].edits[0];
        assert_eq!((edit.line, edit.text.as_str()), (3, "#L"));
    }
}
