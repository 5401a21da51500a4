use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Request;
use bradawl_catalogue::fstypes::known;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A pass number where nothing is checked.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "pass-useless",
    family: Family::Check,
    default: Consequence::Note,
    what: "a pass number on a type whose check at boot does nothing",
    matters: "Nothing is checked at boot for this type: it is swap, cannot be written, or sees to itself when \
          it is mounted.",
    at_boot: "The boot is not affected: the checker says yes without looking.",
    fix: "Write 0 in the sixth field.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a pass number on XFS: mounted (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let useless = |r: &&Request<'_>| r.entry.pass > 0 && needs_no_check(r) && r.source.wants_device();
    for request in case.requests.iter().filter(useless) {
        let what = request.entry.fstype.as_str();
        let mut finding = case.finding(&RULE, request, FieldName::Pass);
        finding.message =
            format!("{} is not checked at boot; pass {} does nothing.", visible(what), request.entry.pass);
        finding.why = "The boot is not affected.".to_owned();
        finding.remedy = "Write 0 in the sixth field.".to_owned();
        findings.push(finding.with_fix("write 0", "0", true));
    }
}

/// Whether the entry is of a sort that has no check at boot: memory, network,
/// swap, bind, and types whose checker does nothing then.
pub(in crate::rules) fn needs_no_check(request: &Request<'_>) -> bool {
    let entry = &request.entry;
    let typed = known(&entry.fstype).is_some_and(|t| !t.checked && t.name != "auto");
    entry.is_swap() || entry.is_bind() || typed || !request.source.wants_device()
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_where_nothing_is_checked() {
        let rule = "pass-useless";
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail 0 2\n", &[2]);
        assert_lines(rule, "tmpfs /tmp tmpfs defaults 0 1\nLABEL=reserve none swap sw 0 2\n", &[3]);
        assert_lines(rule, "LABEL=FIELD /srv/field vfat nofail 0 2\n", &[]);
        assert_lines(rule, "LABEL=FIELD /srv/field vfat nofail,_netdev 0 2\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail 0 0\n", &[]);
        assert_eq!(only(rule, "LABEL=gauges /srv/gauges xfs nofail 0 2\n").fixes[0].edits[0].text, "0");
    }
}
