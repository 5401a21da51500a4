use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::Outcome;
use bradawl_facts::Consequence;
use bradawl_facts::record::{Early, Initramfs};
use bradawl_facts::text::{capital, visible};

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
              the init system never starts. Without an initramfs the kernel panics at once, or waits without end \
              with rootwait; it knows no UUID and no label of a file system. tiny-initramfs waits for 180 s and lets the \
              kernel panic; of names it does not know at once.",
    fix: "Correct root= in the boot loader's configuration, and have it regenerated.",
    rests_on: Basis::Recording,
    verified: "Recorded boots with lost names in root=, an empty disk, swap, wrong types in rootfstype= and refused \
               options in rootflags= (initramfs-tools 0.142); what kernel 6.1 does with root= by itself; tiny-initramfs 0.1.",
    check,
};

const CORRECT: &str = "Correct root= in the boot loader's configuration.";
const ALONE: &str = "Have an initramfs made and named in the boot loader's entry, or name root as the kernel can: \
                     by PARTUUID=.";
const TINY: &str = "Correct root= in the boot loader's configuration: tiny-initramfs takes UUID= of ext2, ext3, ext4, \
                    XFS and Btrfs, and names that the kernel gives.";

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(forecast) = case.forecast else { return };
    let maker = case.record.early.as_ref().and_then(Early::maker);
    let alone = maker == Some(Initramfs::Without);
    let waits_alone =
        forecast.outcome == Outcome::Never && forecast.events.last().is_some_and(|e| e.unit == "kernel");
    if forecast.outcome != Outcome::NoRoot && !waits_alone {
        return;
    }
    let Some(end) = forecast.events.last().filter(|e| e.unit == "/" || alone) else { return };
    let waits = forecast.ended_by.as_ref().filter(|_| forecast.outcome == Outcome::Never);
    let why = waits.map_or_else(|| end.what.to_string(), |why| capital(why));
    let who = if alone { "Without an initramfs, the kernel" } else { "The initramfs" };
    findings.push(Finding {
        message: format!("{who} does not find the root that it is told of, or cannot mount it."),
        why: format!("{}: no login.", visible(&why)),
        remedy: match maker {
            Some(Initramfs::Without) => ALONE,
            Some(Initramfs::TinyInitramfs) => TINY,
            _ => CORRECT,
        }
        .to_owned(),
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
