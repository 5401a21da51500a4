use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Cause, Trial, type_objection};
use bradawl_facts::Consequence;
use bradawl_facts::record::ContentKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// The type in the table is not that of the device's file system.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "type-mismatch",
    family: Family::Content,
    default: Consequence::Missing,
    what: "the type in the table is not the one the device holds",
    matters: "The type in the table is not what the device holds. The kernel is asked for that type alone \
          and finds none.",
    at_boot: "The mount fails at once; without nofail boot stops in emergency mode. For root the type is \
          not looked at.",
    fix: "Write the type that the device holds, or auto.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a wrong type, with and without nofail, and for root (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    // Swap on data has a rule of its own.
    for request in case.requests.iter().filter(|r| !r.entry.is_swap()) {
        let Some(device) = request.device() else { continue };
        let Some(content) = device.content.as_ref().filter(|c| c.kind == ContentKind::Filesystem) else {
            continue;
        };
        let held = content.words();
        let wrong = type_objection(&request.entry, content).is_some();
        // A word that is no type at all is another matter.
        if !wrong || matches!(request.trial, Trial::Fails(Cause::NoSuchType, _)) {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Type);
        finding.message =
            format!("The table says {}, but {} holds {held}.", visible(&request.entry.fstype), device.path);
        finding.remedy = format!("Write {held} as the type.");
        finding = finding.with_fix(format!("write {held}"), held, true);
        let name = content.uuid.as_ref().map(|u| format!(" UUID={u}")).unwrap_or_default();
        findings.push(finding.with_evidence(format!("{} holds {held}{name}", device.path)));
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_only_on_a_real_difference() {
        let rule = "type-mismatch";
        assert_lines(rule, "LABEL=gauges /srv/gauges ext4 defaults 0 0\n", &[2]);
        assert_lines(rule, "LABEL=gauges /srv/gauges ext4,xfs defaults 0 0\n", &[]);
        assert_lines(rule, "LABEL=gauges /srv/gauges auto defaults 0 0\n", &[]);
    }

    #[test]
    fn consequence_follows_the_forecast() {
        let halts = only("type-mismatch", "LABEL=gauges /srv/gauges ext4 defaults 0 0\n");
        assert_eq!((halts.consequence, halts.fixes[0].edits[0].text.as_str()), (Consequence::Halt, "xfs"));
        let missing = only("type-mismatch", "LABEL=gauges /srv/gauges ext4 nofail 0 0\n");
        assert_eq!(missing.consequence, Consequence::Missing);
        let later = only("type-mismatch", "LABEL=gauges /srv/gauges ext4 noauto 0 0\n");
        assert_eq!(later.consequence, Consequence::Risk);
    }
}
