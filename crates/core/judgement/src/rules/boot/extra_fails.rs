use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// What the kernel's command line adds to the table is not there at boot.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "extra-fails",
    family: Family::Boot,
    default: Consequence::Missing,
    what: "a mount or swap that the kernel's command line adds will not be there",
    matters: "systemd.mount-extra= and systemd.swap-extra= count as lines of the table would, and stand where nobody \
              looks for them.",
    at_boot: "As for an entry: the boot waits for its device, and stops in emergency mode unless nofail is among its \
              options.",
    fix: "Correct the word in the boot loader's configuration, or remove it.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with systemd.mount-extra= and systemd.swap-extra= (systemd 257; 252 passes them over).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let added = case.forecast.iter().flat_map(|f| &f.beside).filter(|e| e.state.is_absent());
    findings.extend(added.map(|entry| {
        Finding {
            consequence: entry.consequence.unwrap_or(RULE.default),
            message: format!(
                "The kernel's command line adds {} on {}, which will not be there: {}.",
                visible(&entry.source),
                visible(&entry.target),
                visible(&entry.why)
            ),
            remedy: "Correct systemd.mount-extra= or systemd.swap-extra= in the boot loader's configuration."
                .to_owned(),
            stall_s: entry.stall_s,
            evidence: case.record.command_line.iter().map(|l| format!("kernel command line: {l}")).collect(),
            ..Finding::of(&RULE)
        }
    }));
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::Consequence;
    use bradawl_facts::record::{Init, InitKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn counts_from_254_on() {
        let mut record = host();
        record.command_line =
            Some("root=LABEL=hull ro systemd.mount-extra=LABEL=gone:/srv/gone:ext4 systemd.swap-extra=LABEL=off:nofail".into());
        let told = |record: &_| {
            let found = findings_on(record, ROOT);
            found.iter().filter(|f| f.rule == "extra-fails").map(|f| f.consequence).collect::<Vec<_>>()
        };
        assert!(told(&record).is_empty());
        record.host.init = Some(Init::new(InitKind::Systemd, Some("257")));
        assert_eq!(told(&record), [Consequence::Halt, Consequence::Stall]);
    }
}
