use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{EntryState, Request};
use bradawl_facts::Consequence;
use bradawl_facts::map::Map;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// Two entries want the same place.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "duplicate-target",
    family: Family::Target,
    default: Consequence::Risk,
    what: "two entries have the same target",
    matters: "Two lines want the same directory.",
    at_boot: "systemd makes one unit for each target: the first line counts, the second is passed over \
          with an error. A line-by-line init mounts both, the later over the earlier.",
    fix: "Remove one of the lines, or give one another target.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with two entries for one target: the first counts (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mut firsts: Map<&str, &Request<'_>> = Map::default();
    for request in case.requests {
        let Some(target) = &request.target else { continue };
        let first = *firsts.entry(target).or_insert(request);
        if first.line() == request.line() || first.path == request.path {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        finding.message = format!("Line {} already mounts something on {}.", first.line(), visible(target));
        finding.remedy = format!(
            "Remove one of the lines {} and {}, or give one another target.",
            first.line(),
            request.line()
        );
        let ignored = case.fate(request).is_some_and(|f| f.state == EntryState::Ignored);
        (finding.consequence, finding.why) = if ignored {
            let why = "The init system uses the first and ignores this one: it is never mounted.";
            (Consequence::Missing, why.to_owned())
        } else {
            (Consequence::Risk, "Both are mounted, and this one hides the other.".to_owned())
        };
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, only};

    #[test]
    fn fires_on_the_later_line() {
        let rule = "duplicate-target";
        assert_lines(
            rule,
            "LABEL=gauges /srv/gauges xfs nofail 0 0\nLABEL=FIELD /srv//gauges/ vfat nofail 0 0\n",
            &[3],
        );
        assert_lines(
            rule,
            "LABEL=gauges /srv/gauges xfs nofail 0 0\nLABEL=FIELD /srv/gauges2 vfat nofail 0 0\n",
            &[],
        );
        assert_lines(rule, "LABEL=reserve none swap sw 0 0\n/swap none swap sw 0 0\n", &[]);
    }

    #[test]
    fn another_device_is_never_mounted() {
        let other = "LABEL=gauges /srv/gauges xfs nofail 0 0\nLABEL=FIELD /srv/gauges vfat nofail 0 0\n";
        assert_eq!(only("duplicate-target", other).consequence, Consequence::Missing);
    }
}
