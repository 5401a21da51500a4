use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::path::folders_above;
use bradawl_facts::record::PathKind;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{count, visible};

/// The mount will hide what is in the directory now.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "target-not-empty",
    family: Family::Target,
    default: Consequence::Risk,
    what: "the target directory is not mounted now and has something in it",
    matters: "What lies in the directory disappears from sight under the mount, and still takes up room. Often it \
              was written there while the mount was absent, and somebody will miss it.",
    at_boot: "The boot is not affected: the mount covers the directory.",
    fix: "See what it is; move it away, or into the file system that is mounted there.",
    rests_on: Basis::Recording,
    verified: "Recorded boot with a directory that is not empty: mounted (systemd 252).",
    check,
};

/// The survey stops counting here.
const COUNTED: u32 = 1000;

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let mounted = |path: &str| case.mount_at(path).is_some();
    for request in case.requests.iter().filter(|r| !r.is_root()) {
        let Some((target, facts)) = request.target.as_deref().zip(request.facts) else { continue };
        let entries = facts.entries.filter(|n| *n > 0 && facts.kind == PathKind::Directory);
        let Some(entries) = entries else { continue };
        // What was counted may lie on another file system than the one that
        // will be there.
        let elsewhere = folders_above(target)
            .any(|f| f != "/" && f != target && !mounted(f) && case.entry_at(f).is_some());
        if mounted(target) || elsewhere || target.starts_with("/boot") || target == "/efi" {
            continue;
        }
        let mut finding = case.finding(&RULE, request, FieldName::Target);
        let many = if entries >= COUNTED { "at least " } else { "" };
        finding.message = format!(
            "{} has {many}{} in it, which the mount will hide.",
            visible(target),
            count(entries as usize, "thing")
        );
        finding.why = "It stays on the disk below, out of sight.".to_owned();
        finding.remedy = "See what it is, and move it away before the reboot.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{PathFacts, PathKind};
    use bradawl_facts::testing::{ROOT, host, mounted};

    #[test]
    fn fires_on_a_full_folder_that_is_not_mounted() {
        let table = format!("{ROOT}LABEL=gauges /srv/full xfs nofail 0 0\n");
        let mut record = host();
        let fires = |record: &bradawl_facts::record::Record| {
            findings_on(record, &table).iter().any(|f| f.rule == "target-not-empty")
        };
        let full = |n| PathFacts { entries: Some(n), ..PathFacts::new("/srv/full", PathKind::Directory) };
        record.paths.push(full(0));
        assert!(!fires(&record));
        record.paths.pop();
        record.paths.push(full(3));
        assert!(fires(&record));
        record.mounts = Some(vec![mounted("/dev/vdb", "/srv/full", "xfs")]);
        assert!(!fires(&record));
    }
}
