use crate::rules::fixing::{option_finding, removal};
use crate::rules::{Basis, Case, Family, Finding, Fix, Rule};
use bradawl_boot::generator_aborts;
use bradawl_facts::Consequence;
use bradawl_facts::table::Edit;
use bradawl_facts::text::count;

/// An option without its value ends the init system's generator.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "generator-aborts",
    family: Family::Boot,
    default: Consequence::Missing,
    what: "a time limit without a value ends the init system's generator at this line",
    matters: "The generator turns the table into units, line by line. At x-systemd.device-timeout, \
          x-systemd.mount-timeout or x-systemd.idle-timeout without a value it aborts: this line and all \
          after it do not exist for the boot.",
    at_boot: "Login comes without this entry and all after it, nofail or not, and root is not remounted: it \
          stays read-only if the kernel mounted it so.",
    fix: "Write a value behind the option, or remove it.",
    rests_on: Basis::Recording,
    verified: "The generators of systemd 247, 252 and 257 asked with 945 awkward tables; recorded boots \
          (systemd 252 and 257).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let all = generator_aborts(case.record, case.requests);
    let Some((request, place, option)) = all.first().copied() else { return };
    let after = case.requests.iter().filter(|r| r.line() > request.line()).count();
    let mut finding = option_finding(case, &RULE, request, &request.entry.options[place]);
    finding.message = format!("{option} has no value: the init system's generator aborts here.");
    let others = match after {
        0 => String::new(),
        n => format!(" and {} after it", count(n, "entry")),
    };
    finding.why = format!("This entry{others} will not exist for the boot, and root is not remounted.");
    finding.remedy = format!("Write a value, such as {option}=10s, or remove the option.");
    // Without the first one it would abort at the next.
    let each: Vec<Fix> = all.iter().filter_map(|(r, place, _)| removal(case, r, *place)).collect();
    if each.len() == all.len() {
        let edits: Vec<Edit> = each.into_iter().flat_map(|fix| fix.edits).collect();
        let title = if edits.len() == 1 { "remove it" } else { "remove each of them" };
        finding.fixes.push(Fix { title: title.to_owned(), edits, safe: true });
    }
    findings.push(finding);
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_where_the_generator_ends() {
        let rule = "generator-aborts";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail,x-systemd.device-timeout=10s 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail,x-systemd.device-timeout= 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail,x-systemd.idle-timeout 0 0\n", &[]);
        let table = "LABEL=gauges /srv/gauges xfs nofail,x-systemd.device-timeout 0 0\n\
                     LABEL=hull /srv/hull ext4 nofail,x-systemd.mount-timeout 0 0\n";
        assert_lines(rule, table, &[2]);
        let found = only(rule, table);
        assert!(found.why.contains("and 1 entry after it"), "{}", found.why);
        assert!(found.fixes[0].safe && found.fixes[0].edits.len() == 2);
    }
}
