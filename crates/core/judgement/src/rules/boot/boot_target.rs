use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{OtherGoal, other_goal};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// The boot is asked to stop before login.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "boot-target",
    family: Family::Boot,
    default: Consequence::Halt,
    what: "the kernel's command line asks for a boot that stops before login",
    matters: "A word like single or systemd.unit=rescue.target brings the host up with a shell on its console and \
              nothing else. Typed at the boot menu it holds for one boot; left in the boot loader's configuration it \
              keeps everybody out at the next one too.",
    at_boot: "The boot stops in rescue or emergency mode, or in a shell: login is at the console only, with \
              root's password. With a target that ends the system, or a command to run, the machine is \
              switched off again.",
    fix: "Remove the word from the boot loader's configuration.",
    rests_on: Basis::Recording,
    verified: "Recorded boots of systemd 252 with each of the words, with systemd.unit=, systemd.run= and init=.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some(OtherGoal { word, clause, console }) = other_goal(case.record) else { return };
    let why = match console {
        true => "Nobody can log in but at the console, with root's password.",
        false => "Nobody can log in.",
    };
    findings.push(Finding {
        message: format!("The kernel's command line has {}: {clause}.", visible(word)),
        why: why.to_owned(),
        remedy: "Remove it from the boot loader's configuration, unless it was typed at the boot menu for one boot."
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
    fn fires_on_words_that_keep_people_out() {
        let mut record = host();
        for (word, fires) in [
            ("single", true),
            ("quiet", false),
            ("systemd.unit=graphical.target", false),
            ("init=/bin/sh", true),
            ("systemd.run=/bin/true", true),
        ] {
            record.command_line = Some(format!("root=LABEL=hull ro {word}"));
            let found = findings_on(&record, ROOT);
            assert_eq!(found.iter().any(|f| f.rule == "boot-target"), fires, "{word}");
        }
    }
}
