use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;
use bradawl_resolve::{Source, suggest};

/// Something that is nearly the name of a device, but that the boot does not
/// take for one: a tag in lower case, a bare UUID, braces.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "tag-spelling",
    family: Family::Identity,
    default: Consequence::Missing,
    what: "the source is no name the boot understands: a tag in lower case, a bare UUID, a bare label",
    matters: "A tag is written in capitals: UUID=, LABEL=, PARTUUID=, PARTLABEL=. In lower case, without \
          the tag, or in braces it is a word, and no device.",
    at_boot: "The init system does not wait: it tries to mount the word, which fails at once. Without \
          nofail boot stops in emergency mode.",
    fix: "Write the tag in capitals and the value bare.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a tag in lower case and with a bare UUID: emergency mode, no wait \
          (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Source::Strange(name) = &request.source else { continue };
        if name.starts_with('\u{feff}') {
            continue;
        }
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message = format!("{} is no name of a device that the boot understands.", visible(name));
        finding.remedy =
            "Write UUID=… or LABEL=…, the tag in capitals and without braces, or a path under /dev."
                .to_owned();
        let meant: Vec<_> = suggest(case.index, name).into_iter().filter(|n| n.distance == 0).collect();
        for near in meant.iter().take(3) {
            let text =
                String::from_utf8_lossy(&bradawl_facts::table::encode(near.name.as_bytes())).into_owned();
            let safe = meant.len() == 1 && !case.is_taken(near.device, request.line());
            finding = finding.with_fix(format!("write {}", visible(&near.name)), text, safe);
        }
        if let [only] = meant.as_slice() {
            finding.remedy = format!("Write {}, which is {}.", visible(&only.name), only.device.path);
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_what_the_boot_does_not_understand() {
        let rule = "tag-spelling";
        for (source, fires) in [
            ("uuid=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2", true),
            ("7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2", true),
            ("gauges", true),
            ("LABEL=gauges", false),
            ("UUID=\"7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2\"", false),
        ] {
            assert_lines(
                rule,
                &format!("{source} /srv/gauges xfs noatime 0 0\n"),
                if fires { &[2] } else { &[] },
            );
        }
    }

    #[test]
    fn offers_the_right_spelling() {
        let finding =
            only("tag-spelling", "uuid=7C0DE5A1-22F4-4B6E-9B1D-35F7A1C9D0E2 /srv/gauges xfs noatime 0 0\n");
        assert_eq!((finding.consequence, finding.fixes[0].safe), (Consequence::Halt, true));
        assert_eq!(finding.fixes[0].edits[0].text, "UUID=7c0de5a1-22f4-4b6e-9b1d-35f7a1c9d0e2");
    }
}
