use super::files;
use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::quoted;

/// A swap file that others may read.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "swap-file-mode",
    family: Family::Swap,
    default: Consequence::Risk,
    what: "others than root may read the swap file, or write to it",
    matters: "What lies in memory ends up in swap: keys, passwords, letters. A file with mode 0644 gives it to \
          every user. swapon warns and activates it.",
    at_boot: "It is used.",
    fix: "chmod 600, as root.",
    rests_on: Basis::Recording,
    verified: "Recorded swapon runs on kernels 5.10 to 6.18.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for (request, facts) in files(case) {
        let Some(mode) = facts.mode.map(|m| m & 0o7777).filter(|m| m & 0o077 != 0) else { continue };
        let mut finding = case.finding(&RULE, request, FieldName::Source);
        finding.message = format!("The swap file has mode {mode:04o}: others may read what was in memory.");
        finding.why = "It works; whoever can read the file can read memory.".to_owned();
        finding.remedy = format!("chmod 600 {}", quoted(&facts.path));
        findings.push(finding);
    }
}

#[cfg(test)]
mod tests {
    use super::super::testing::{file, fires_on};

    #[test]
    fn fires_on_open_files() {
        let mut facts = file();
        for (mode, fires) in [(0o100_600, false), (0o100_400, false), (0o100_640, true), (0o100_644, true)] {
            facts.mode = Some(mode);
            assert_eq!(fires_on("swap-file-mode", &facts), fires, "{mode:o}");
        }
    }
}
