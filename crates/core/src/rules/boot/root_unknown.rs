use crate::boot::{Consequence, Outcome};
use crate::rules::{Case, Family, Finding, Rule};

/// The kernel is told of a root that nothing answers to.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "root-unknown",
    family: Family::Boot,
    default: Consequence::Halt,
    what: "no device answers to root= on the kernel's command line",
    matters: "The table's entry for / only counts once root is mounted. Which device that is, is said to the \
              kernel by the boot loader; after a disk was copied, formatted or renamed, the loader still has \
              the old name.",
    at_boot: "The initramfs waits for the device, then ends in its own shell: the init system never starts.",
    fix: "Correct root= in the boot loader's configuration, and have it written anew.",
    verified: "Recorded boots with a lost UUID in root=: the initramfs gives up.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(forecast) = case.forecast.filter(|f| f.outcome == Outcome::NoRoot) else { return };
    let what = forecast.events.first().map(|e| e.what.clone()).unwrap_or_default();
    findings.push(Finding {
        message: "The kernel is told of a root that no device here answers to.".to_owned(),
        why: format!("{}: nobody can log in.", crate::text::visible(&what)),
        remedy: "Correct root= in the boot loader's configuration.".to_owned(),
        evidence: case.record.command_line.iter().map(|l| format!("kernel command line: {l}")).collect(),
        ..Finding::of(&RULE)
    });
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::{ROOT, findings_on, host};

    #[test]
    fn fires_on_a_root_that_is_not_there() {
        let mut record = host();
        let fires = |record: &crate::record::Record| {
            findings_on(record, ROOT).iter().any(|f| f.rule == "root-unknown")
        };
        assert!(!fires(&record));
        record.command_line = Some("root=UUID=0badc0de-90bc-4d0a-8a3c-1f2e3d4c5b6a ro".into());
        assert!(fires(&record));
        record.command_line = Some("root=LABEL=hull ro".into());
        assert!(!fires(&record));
    }
}
