use super::running_only;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// /boot is a file system of its own, and the table does not know it.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "boot-entry",
    family: Family::Target,
    default: Consequence::Risk,
    what: "/boot is mounted from a device of its own now, and the table has no entry for it",
    matters: "After the next boot the next kernel is installed into the empty directory on root, and the boot \
              loader goes on starting the old one, until that is gone.",
    at_boot: "The boot is not affected; the next change of the kernel is.",
    fix: "Add an entry for /boot with the UUID of its file system.",
    rests_on: Basis::Facts,
    verified: "Follows from the running mounts; nothing but the table mounts /boot.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(mount) = running_only(case, "/boot") else { return };
    findings.push(Finding {
        message: format!(
            "/boot is mounted from {}, and the table has no entry for it.",
            visible(&mount.source)
        ),
        why: "After a reboot new kernels are installed where the boot loader does not look.".to_owned(),
        remedy: "Add an entry for /boot.".to_owned(),
        ..Finding::of(&RULE)
    });
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host, mounted};

    #[test]
    fn fires_when_only_the_running_system_knows_it() {
        let mut record = host();
        let fires = |record: &bradawl_facts::record::Record, table: &str| {
            findings_on(record, table).iter().any(|f| f.rule == "boot-entry")
        };
        assert!(!fires(&record, ROOT));
        record.mounts = Some(vec![mounted("/dev/sdb1", "/boot", "ext4")]);
        assert!(fires(&record, ROOT));
        assert!(!fires(&record, &format!("{ROOT}LABEL=FIELD /boot vfat defaults 0 1\n")));
    }
}
