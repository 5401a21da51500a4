use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::command_line::deciding;
use bradawl_facts::Consequence;
use bradawl_facts::record::Record;
use bradawl_facts::text::visible;

/// The boot loader will start the kernel with other words than it runs with.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "next-command-line",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "the next boot has another kernel command line than the boot that is running",
    matters: "Somebody edited the boot loader's configuration, or this boot was started by hand with other words. \
              What works now says nothing of a root, a resume device or an option that changes.",
    at_boot: "As the new words say; the forecast goes by them.",
    fix: "Compare the two, and correct the boot loader's configuration where that was not meant.",
    rests_on: Basis::Documentation,
    verified: "Configurations of GRUB and of the boot loader specification; not recorded.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let Some((running, next)) = both(case.record) else { return };
    let (now, then) = (deciding(running), deciding(&next.command_line));
    let only = |one: &[&str], other: &[&str]| {
        let words: Vec<String> =
            one.iter().filter(|w| !other.contains(w)).map(|w| visible(w).into_owned()).collect();
        words.join(" ")
    };
    let (gone, new) = (only(&now, &then), only(&then, &now));
    let told = match (gone.is_empty(), new.is_empty()) {
        (true, true) => return,
        (true, false) => format!("adds {new}"),
        (false, true) => format!("leaves out {gone}"),
        (false, false) => format!("has {new} instead of {gone}"),
    };
    findings.push(Finding {
        message: format!("The kernel command line of the next boot {told}."),
        remedy: format!("If that is not meant, correct {} and what it is made from.", visible(&next.from)),
        evidence: vec![
            format!("running: {}", visible(running)),
            format!("next boot: {}", visible(&next.command_line)),
        ],
        ..Finding::of(&RULE)
    });
}

/// The running command line, and the one that is next.
fn both(record: &Record) -> Option<(&str, &bradawl_facts::record::NextBoot)> {
    Some((record.command_line.as_deref()?, record.early.as_ref()?.next.as_ref()?))
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{Early, NextBoot};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_words_that_decide() {
        let mut record = host();
        record.command_line = Some("BOOT_IMAGE=/vmlinuz root=LABEL=hull ro quiet".into());
        for (line, told) in [
            ("root=LABEL=hull ro", None),
            ("root=LABEL=hull ro splash", None),
            ("root=LABEL=hulk ro", Some("has root=LABEL=hulk instead of root=LABEL=hull.")),
            ("root=LABEL=hull ro resume=LABEL=gone", Some("adds resume=LABEL=gone.")),
            ("root=LABEL=hull", Some("leaves out ro.")),
        ] {
            let next = NextBoot {
                command_line: line.into(),
                from: "/boot/grub/grub.cfg".into(),
                ..NextBoot::default()
            };
            record.early = Some(Early { next: Some(next), ..Early::default() });
            let found = findings_on(&record, ROOT);
            let message = found.iter().find(|f| f.rule == "next-command-line").map(|f| f.message.as_str());
            assert_eq!(
                message.map(|m| m.ends_with(told.unwrap_or("?"))),
                told.map(|_| true),
                "{line}: {message:?}"
            );
        }
    }
}
