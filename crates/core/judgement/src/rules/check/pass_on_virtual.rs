use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A check of something that is no device.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "pass-on-virtual",
    family: Family::Check,
    default: Consequence::Note,
    what: "a pass number on an entry without a device: memory, network, bind mount",
    matters: "There is nothing to check. A line-by-line init may try all the same and stop over it.",
    at_boot: "systemd complains that there is no device, and mounts it.",
    fix: "Write 0 in the sixth field.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a pass number on tmpfs and on a bind mount: mounted, with a complaint \
               (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let entry = &request.entry;
        if entry.pass <= 0 || request.source.wants_device() || entry.is_swap() || request.target.is_none() {
            continue;
        }
        let what = if entry.is_bind() { "a bind mount" } else { entry.fstype.as_str() };
        let mut finding = case.finding(&RULE, request, FieldName::Pass);
        finding.message =
            format!("Pass {} asks for a check of {}, which has no device.", entry.pass, visible(what));
        finding.why = "The init system complains and mounts it.".to_owned();
        finding.remedy = "Write 0 in the sixth field.".to_owned();
        findings.push(finding.with_fix("write 0", "0", true));
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_without_a_device() {
        let rule = "pass-on-virtual";
        assert_lines(rule, "tmpfs /tmp tmpfs defaults 0 1\n/srv/gauges /export none bind 0 2\n", &[2, 3]);
        assert_lines(rule, "files.example:/x /srv/x nfs nofail 0 2\n", &[2]);
        assert_lines(rule, "tmpfs /tmp tmpfs defaults 0 0\nLABEL=gauges /srv/gauges xfs nofail 0 2\n", &[]);
        assert_eq!(only(rule, "/srv/gauges /export none bind 0 2\n").fixes[0].edits[0].text, "0");
    }
}
