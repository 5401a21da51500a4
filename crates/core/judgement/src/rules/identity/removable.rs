use crate::rules::boot::nofail_missing::required_data;
use crate::rules::fixing::add_nofail;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;

/// A disk made to be taken out, which boot cannot do without.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "removable",
    family: Family::Identity,
    default: Consequence::Risk,
    what: "the disk is removable, and the boot stops without it",
    matters: "The disk is of a kind that is pulled out, and the entry demands it.",
    at_boot: "With the disk out, the boot waits 90 s for it and then stops in emergency mode.",
    fix: "Add nofail; with a short x-systemd.device-timeout= nobody waits for it either.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with a lost device, with and without nofail (systemd 252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, device, loss) in required_data(case).filter(|(_, d, _)| d.is_removable()) {
        let mut finding = case.finding(&RULE, request, FieldName::Options);
        finding.message = format!("{} is removable, and the entry has no nofail.", device.path);
        finding.why = format!("With the disk out, {}.", loss.words());
        finding.remedy = "Add nofail.".to_owned();
        finding.fixes.extend(add_nofail(case, request, true));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::{assert_lines, findings_on, only};
    use bradawl_facts::record::{Init, InitKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn what_its_loss_does_hangs_on_the_init() {
        let why = |kind, pass| {
            let mut record = host();
            record.host.init = Some(Init::new(kind, None));
            let table = format!("{ROOT}LABEL=FIELD /media/field vfat defaults 0 {pass}\n");
            let found = findings_on(&record, &table).into_iter().find(|f| f.rule == "removable");
            found.map(|f| f.why)
        };
        let waits = "With the disk out, the boot waits for it and then stops in emergency mode.";
        assert_eq!(why(InitKind::Systemd, 0).as_deref(), Some(waits));
        assert_eq!(why(InitKind::Sysvinit, 0), None);
        let checks = "With the disk out, its check fails and the boot stops in the maintenance shell.";
        assert_eq!(why(InitKind::Sysvinit, 2).as_deref(), Some(checks));
        assert_eq!(why(InitKind::Busybox, 2), None);
    }

    #[test]
    fn fires_on_removable_disks_alone() {
        assert_lines("removable", "LABEL=FIELD /media/field vfat nofail 0 0\n", &[]);
        assert_lines("removable", "LABEL=gauges /srv/gauges xfs defaults 0 0\n", &[]);
        assert_lines("nofail-missing", "LABEL=FIELD /media/field vfat defaults 0 0\n", &[]);
        let finding = only("removable", "LABEL=FIELD /media/field vfat defaults 0 0\n");
        assert_eq!((finding.consequence, finding.fixes[0].safe), (Consequence::Risk, true));
    }
}
