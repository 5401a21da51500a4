use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::lost_swaps;
use bradawl_facts::Consequence;
use bradawl_facts::text::{quoted, visible};

/// A swap unit that boot waits for in vain.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-unit-waits",
    family: Family::Swap,
    default: Consequence::Stall,
    what: "a swap unit written by hand names a device that does not exist",
    matters: "Such a unit lies beside the table, under /etc/systemd/system. When its area is re-created or taken \
              away, nobody thinks of it, and the table looks sound.",
    at_boot: "systemd waits for the device as it does for an entry: 90 s unless configured otherwise. Login \
              comes after that.",
    fix: "Write the area's present name into the unit, or disable it; an entry in the table is easier to find.",
    rests_on: Basis::Recording,
    verified: "systemd.swap(5); the wait is that of recorded boots with an entry. No boot with such a unit was \
               recorded.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for lost in lost_swaps(case.record, case.index, case.requests) {
        let unit = quoted(&lost.unit.name);
        findings.push(Finding {
            message: format!(
                "The unit {} swaps on {}, and no device matches that.",
                visible(&lost.unit.name),
                visible(lost.source)
            ),
            why: lost.words(),
            remedy: format!("Correct What= in {}, or systemctl disable {unit}.", visible(&lost.unit.path)),
            stall_s: lost.stall_s,
            evidence: vec![format!("unit file: {}", lost.unit.path)],
            ..Finding::of(&RULE)
        });
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::LocalUnit;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_units_without_their_device() {
        let mut record = host();
        for (what, wanted, fires) in [
            ("/dev/disk/by-label/gone", true, true),
            ("/dev/disk/by-label/gone", false, false),
            ("/dev/disk/by-label/reserve", true, false),
        ] {
            let (name, what) = ("spare.swap".to_owned(), Some(what.to_owned()));
            let unit = LocalUnit { name, what, wanted: Some(wanted), ..LocalUnit::default() };
            record.units = Some(vec![unit]);
            let found = findings_on(&record, ROOT);
            assert_eq!(found.iter().any(|f| f.rule == "swap-unit-waits"), fires);
        }
    }
}
