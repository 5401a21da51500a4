use crate::rules::fixing::option_finding;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::options::{in_force, program_on};
use bradawl_facts::Consequence;

/// Every write waits for the disk.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "sync-cost",
    family: Family::Options,
    default: Consequence::Note,
    what: "sync makes every write wait for the disk",
    matters: "Each write of each program goes to the disk before the program goes on: tens or hundreds of times \
              slower, and on flash memory wearing it out. Programs that need safety ask for it themselves.",
    at_boot: "The boot is not affected.",
    fix: "Take sync out; on sticks that are pulled out without asking, flush (FAT) is the milder way.",
    rests_on: Basis::Documentation,
    verified: "mount(8): the meaning of sync and its warning about flash memory.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let program = program_on(case.record);
    for request in case.requests.iter().filter(|r| r.source.wants_device()) {
        let options = &request.entry.options;
        let Some(option) = options.iter().rev().find(|o| o.name == "sync" && o.value.is_none()) else {
            continue;
        };
        if !in_force(options, "sync", program) || in_force(options, "ro", program) {
            continue;
        }
        let mut finding = option_finding(case, &RULE, request, option);
        finding.consequence = Consequence::Note;
        finding.stall_s = Some(0.0);
        finding.message = "Every write waits for the disk.".to_owned();
        finding.why = "It is many times slower, and wears flash memory out.".to_owned();
        finding.remedy = "Take sync out, unless every program there has to have it.".to_owned();
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::assert_lines;

    #[test]
    fn fires_where_it_is_in_force() {
        for (list, fires) in [("sync", true), ("sync,async", false), ("sync,ro", false), ("dirsync", false)] {
            let line = format!("LABEL=gauges /srv/gauges xfs nofail,{list} 0 0\n");
            assert_lines("sync-cost", &line, if fires { &[2] } else { &[] });
        }
    }
}
