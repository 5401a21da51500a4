use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// A mount on a directory that others put theirs below.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-shared-parent",
    family: Family::Target,
    default: Consequence::Note,
    what: "the target is /mnt or /media itself, which people and programs use for passing mounts",
    matters: "Whoever mounts something on /mnt for a moment covers this entry, and whoever made directories below \
              it has lost them from sight.",
    at_boot: "The boot is not affected.",
    fix: "Give it a directory of its own, such as /mnt/NAME or /srv/NAME.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a disk on /mnt: mounted (systemd 252).",
    check,
};

const SHARED: [&str; 3] = ["/mnt", "/media", "/run/media"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests.iter().filter(|r| r.source.wants_device()) {
        let Some(target) = request.target.as_deref().filter(|t| SHARED.contains(t)) else { continue };
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        finding.message = format!("{} is where passing mounts are made.", visible(target));
        finding.why = "The next one covers this entry.".to_owned();
        finding.remedy = format!("Give it a directory of its own, such as {}/NAME.", visible(target));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_on_the_shared_folders_alone() {
        for (target, fires) in [("/mnt", true), ("/media/", true), ("/mnt/gauges", false), ("/srv", false)] {
            let line = format!("LABEL=gauges {target} xfs nofail 0 0\n");
            assert_lines("target-shared-parent", &line, if fires { &[2] } else { &[] });
        }
    }
}
