use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::secrets;

/// A password on the kernel's command line.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "secret-on-command-line",
    family: Family::Secrets,
    default: Consequence::Risk,
    what: "the kernel's command line holds a password",
    matters: "Every user can read /proc/cmdline, and it stands in the boot loader's files, in the journal and in \
              every report of a fault.",
    at_boot: "The boot is not affected.",
    fix: "Give the secret to the initramfs by a file, then take it off the command line and change it.",
    rests_on: Basis::Documentation,
    verified: "proc_cmdline(5): the file is readable by all.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    if !case.record.command_line.as_deref().is_some_and(secrets::holds) {
        return;
    }
    findings.push(Finding {
        message: "A password stands on the kernel's command line.".to_owned(),
        why: "Every user can read it in /proc/cmdline.".to_owned(),
        remedy: "Give it to the initramfs by a file, and change it.".to_owned(),
        ..Finding::of(&RULE)
    });
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_passwords() {
        for (line, expected) in [
            ("root=/dev/vda1 rd.iscsi.password=ebb", true),
            ("root=/dev/vda1 systemd.set_credential=passwd.root:ebb", true),
            ("root=/dev/vda1 quiet", false),
        ] {
            let mut record = host();
            record.command_line = Some(line.to_owned());
            let fires = findings_on(&record, ROOT).iter().any(|f| f.rule == "secret-on-command-line");
            assert_eq!(fires, expected, "{line}");
        }
    }
}
