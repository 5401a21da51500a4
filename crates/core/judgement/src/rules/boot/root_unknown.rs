use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Outcome;
use bradawl_facts::Consequence;

/// The kernel is told of a root that no device matches.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "root-unknown",
    family: Family::Boot,
    default: Consequence::Halt,
    what: "the root that the kernel's command line names is not there, or cannot be mounted",
    matters: "The table's entry for / only counts once root is mounted. Which device that is, is said to the \
              kernel by the boot loader; after a disk was copied, formatted or renamed, the loader still has \
              the old name.",
    at_boot: "The initramfs waits for the device, 30 s or as long as rootdelay= says, then ends in its own shell: \
              the init system never starts.",
    fix: "Correct root= in the boot loader's configuration, and have it regenerated.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with lost names in root=, an empty disk, swap, wrong types in rootfstype= and refused \
               options in rootflags= (initramfs-tools 0.142).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(forecast) = case.forecast.filter(|f| f.outcome == Outcome::NoRoot) else { return };
    let Some(end) = forecast.events.last().filter(|e| e.unit == "/") else { return };
    findings.push(Finding {
        message: "The initramfs does not find the root that the kernel is told of, or cannot mount it."
            .to_owned(),
        why: format!("{}: no login.", bradawl_facts::text::visible(&end.what)),
        remedy: "Correct root= in the boot loader's configuration.".to_owned(),
        evidence: case.record.command_line.iter().map(|l| format!("kernel command line: {l}")).collect(),
        ..Finding::of(&RULE)
    });
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_a_root_that_is_not_there() {
        let mut record = host();
        let fires = |record: &bradawl_facts::record::Record| {
            findings_on(record, ROOT).iter().any(|f| f.rule == "root-unknown")
        };
        assert!(!fires(&record));
        record.command_line = Some("root=UUID=0badc0de-90bc-4d0a-8a3c-1f2e3d4c5b6a ro".into());
        assert!(fires(&record));
        record.command_line = Some("root=LABEL=hull ro".into());
        assert!(!fires(&record));
    }
}
