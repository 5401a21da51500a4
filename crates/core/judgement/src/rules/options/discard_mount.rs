use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::{Verdict, in_force, program_on};
use bradawl_facts::Consequence;

/// Each deletion tells the disk what is free.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "discard-mount",
    family: Family::Options,
    default: Consequence::Note,
    what: "discard tells the disk at each deletion what is free",
    matters: "Deletions wait for the disk then, on some disks for long. Doing it once a week for the whole file \
              system (fstrim.timer) has the same effect; both together are work done twice.",
    at_boot: "The boot is not affected.",
    fix: "Take discard out and switch fstrim.timer on; keep discard where storage is provided thinly and has \
          to be given back at once.",
    rests_on: Basis::Documentation,
    verified: "The manual pages of ext4, xfs and fstrim(8); the timer is looked for among the host's units.",
    check,
};

/// Types whose discard is done at each deletion; Btrfs gathers it.
const AT_ONCE: [&str; 6] = ["ext4", "ext3", "xfs", "vfat", "exfat", "jfs"];

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let program = program_on(case.record);
    for request in case.requests.iter().filter(|r| AT_ONCE.contains(&r.entry.fstype.as_str())) {
        let options = &request.entry.options;
        let asked = options.iter().zip(&request.options).rev().find(|(o, _)| o.name == "discard");
        let Some((option, checked)) = asked else { continue };
        let undone = options.iter().rev().find(|o| matches!(o.name.as_str(), "discard" | "nodiscard"));
        let off = undone.is_some_and(|o| o.name == "nodiscard") || in_force(options, "ro", program);
        if off || checked.verdict != Verdict::Accepted {
            continue;
        }
        let mut finding = option_finding(case, &RULE, request, option);
        finding.consequence = Consequence::Note;
        finding.stall_s = Some(0.0);
        let twice = case.record.trims == Some(true);
        finding.message = match twice {
            true => "The disk is told what is free twice: at each deletion, and by fstrim.timer.",
            false => "Each deletion tells the disk what is free, and waits for it.",
        }
        .to_owned();
        finding.why = "The boot is not affected; deletions may be slow.".to_owned();
        finding.remedy = match twice {
            true => "Take discard out: the timer does it once a week.",
            false => "Take discard out and switch fstrim.timer on, unless storage is given back thinly.",
        }
        .to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{assert_lines, findings_on};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_where_it_is_in_force() {
        for (list, fires) in
            [("discard", true), ("discard,nodiscard", false), ("ro,discard", false), ("noatime", false)]
        {
            let line = format!("LABEL=gauges /srv/gauges xfs nofail,{list} 0 0\n");
            assert_lines("discard-mount", &line, if fires { &[2] } else { &[] });
        }
    }

    #[test]
    fn says_when_the_timer_does_it_too() {
        let mut record = host();
        record.trims = Some(true);
        let found = findings_on(&record, &format!("{ROOT}LABEL=gauges /srv/gauges xfs nofail,discard 0 0\n"));
        let finding = found.iter().find(|f| f.rule == "discard-mount").unwrap();
        assert!(finding.message.contains("twice"));
    }
}
