use super::failing;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Cause;
use bradawl_catalogue::fstypes::near;
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{list, visible};

/// A word that is no type.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "type-unknown",
    family: Family::Content,
    default: Consequence::Missing,
    what: "there is no file system type of this name",
    matters: "The third field names the file system. A misspelt name, or one in capitals, is no type to the \
              kernel.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode.",
    fix: "Write the type that the device holds, or auto.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with types the kernel lacks (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, _) in failing(case, Cause::NoSuchType) {
        let fstype = &request.entry.fstype;
        let held = request.content().and_then(|c| c.fstype.as_deref());
        let mut finding = case.failure(&RULE, request, FieldName::Type);
        finding.message = format!("There is no file system type {}.", visible(fstype));
        let near = near(fstype.trim_end_matches('\r'));
        let names: Vec<String> = near.iter().map(|n| (*n).to_owned()).collect();
        finding.remedy = match (held, names.as_slice()) {
            (Some(held), _) => format!("Write {held}, which is what the device holds."),
            (None, []) => "Correct the type.".to_owned(),
            (None, near) => format!("Correct the type; {} would be near.", list(near)),
        };
        if let Some(held) = held.or(near.first().copied().filter(|_| near.len() == 1)) {
            finding = finding.with_fix(format!("write {held}"), held, true);
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_what_is_no_type() {
        let rule = "type-unknown";
        assert_lines(rule, "LABEL=elsewhere /srv/gauges ext5 nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=elsewhere /srv/gauges EXT4 nofail 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges xfs nofail 0 0\n", &[]);
        // Nobody here knows it, but some kernel might.
        assert_lines(rule, "LABEL=elsewhere /srv/gauges tidefs nofail 0 0\n", &[]);
        assert_eq!(only(rule, "LABEL=elsewhere /srv/g btrsf nofail 0 0\n").fixes[0].edits[0].text, "btrfs");
    }
}
