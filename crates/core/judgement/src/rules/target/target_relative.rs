use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::PathKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A target that is no absolute path.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-relative",
    family: Family::Target,
    default: Consequence::Risk,
    what: "the target is not an absolute path",
    matters: "A target begins with a slash. Without one the init system puts it under /, while the mount \
              program starts from wherever it is called. A word without any slash is no target at all, save \
              none or swap for swap.",
    at_boot: "With a slash in it, it is mounted as if it began with one. A single word is passed over: \
              nothing is mounted.",
    fix: "Begin the target with a slash.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with srv/grain (mounted) and none (passed over) as target (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let target = &request.entry.target;
        let plain = target.starts_with('/') || request.entry.is_swap() || target.is_empty();
        // Quotes have a rule of their own, on another field.
        if plain || target.starts_with(['"', '\'']) {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        case.judge(&mut finding, request);
        finding.message = format!("The target {} does not begin with a slash.", visible(target));
        finding.remedy = match target.starts_with(['~', '$']) {
            true => "Write the whole path: only a shell knows what stands at its beginning.".to_owned(),
            false => "Write the whole path.".to_owned(),
        };
        if target.contains('/') {
            finding.why = format!(
                "The init system mounts it on /{}; the mount program starts from the directory it is called in.",
                visible(target)
            );
            if !target.starts_with(['~', '$', '.']) {
                let path = format!("/{target}");
                let there = case.index.path(&path).is_some_and(|p| p.kind == PathKind::Directory);
                finding = finding.with_fix("begin with a slash", path, there);
            }
        }
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_what_begins_with_no_slash() {
        for (target, fires) in [("srv/gauges", true), ("none", true), ("/srv/gauges", false)] {
            let line = format!("LABEL=gauges {target} xfs nofail 0 0\n");
            assert_lines("target-relative", &line, if fires { &[2] } else { &[] });
        }
        assert_lines("target-relative", "LABEL=reserve none swap sw 0 0\nLABEL=r swap swap sw 0 0\n", &[]);
    }

    #[test]
    fn a_word_is_no_target() {
        assert_eq!(only("target-relative", "LABEL=gauges none xfs 0 0\n").consequence, Consequence::Missing);
        let relative = only("target-relative", "LABEL=gauges srv/gauges xfs nofail 0 0\n");
        assert_eq!(relative.fixes[0].edits[0].text, "/srv/gauges");
        assert_eq!(relative.consequence, Consequence::Risk);
        for target in ["~/gauges", "./gauges", "$HOME/gauges"] {
            assert!(
                only("target-relative", &format!("LABEL=gauges {target} xfs nofail 0 0\n")).fixes.is_empty()
            );
        }
    }
}
