use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_catalogue::crypttab::{known, near};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// crypttab has an option that nobody knows.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "crypt-option-unknown",
    family: Family::Boot,
    default: Consequence::Risk,
    what: "crypttab has an option that systemd does not know",
    matters: "An unknown option is passed over with a line in the log, and the container is opened as if it were \
              not there: a misspelt nofail leaves the boot waiting for a passphrase.",
    at_boot: "The option has no effect.",
    fix: "Correct the option in /etc/crypttab.",
    rests_on: Basis::Documentation,
    verified: "crypttab(5) of systemd 257, and Debian's of cryptsetup 2.7.",
    check,
};

/// More of them are not told.
const MAX_TOLD: usize = 20;

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let entries = case.record.early.iter().flat_map(|e| e.crypttab.iter().flatten());
    let options = entries.flat_map(|entry| entry.options.split(',').map(move |option| (entry, option)));
    let name = |option: &'_ str| option.split('=').next().unwrap_or_default().to_owned();
    let unknown = options.filter(|(_, o)| !o.is_empty() && !o.starts_with("x-") && known(&name(o)).is_none());
    for (entry, option) in unknown.take(MAX_TOLD) {
        let (container, word) = (visible(&entry.name), name(option));
        let shown = visible(&word);
        findings.push(Finding {
            message: format!("crypttab's entry for {container} has {shown}, which is no option."),
            why: "It is passed over.".to_owned(),
            remedy: match near(&word) {
                Some(meant) => format!("Write {meant} in /etc/crypttab."),
                None => "Correct it in /etc/crypttab.".to_owned(),
            },
            container: Some(entry.name.clone()),
            ..Finding::of(&RULE)
        });
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{CryptEntry, Early};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_what_is_no_option() {
        let mut record = host();
        for (options, remedy) in [
            ("luks,nofail,x-tide=1,timeout=12", None),
            ("", None),
            ("luks,nofial", Some("Write nofail in /etc/crypttab.")),
            ("luks,tide=high", Some("Correct it in /etc/crypttab.")),
        ] {
            let (name, source) = ("tides".to_owned(), "LABEL=gauges".to_owned());
            let entry = CryptEntry { name, source, options: options.to_owned(), ..CryptEntry::default() };
            record.early = Some(Early { crypttab: Some(vec![entry]), ..Early::default() });
            let found = findings_on(&record, ROOT);
            let told = found.iter().find(|f| f.rule == "crypt-option-unknown").map(|f| f.remedy.as_str());
            assert_eq!(told, remedy, "{options}");
        }
    }
}
