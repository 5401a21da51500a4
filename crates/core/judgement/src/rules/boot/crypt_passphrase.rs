use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::containers;
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// The boot waits for somebody to type.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "crypt-passphrase",
    family: Family::Boot,
    default: Consequence::Note,
    what: "the boot waits until somebody types the passphrase of a container",
    matters: "A container of crypttab without a key is opened by hand at the console. Where nobody sits there the \
              boot waits without end, with nofail in the table too; only nofail in crypttab lets it go on.",
    at_boot: "It waits for the passphrase, without end unless crypttab has timeout=.",
    fix: "Give it a key file, or write nofail in /etc/crypttab and open it later; where somebody is at hand, nothing.",
    rests_on: Basis::Recording,
    verified: "Recorded boots that nobody attended, with nofail in either file and in both, with timeout= (systemd \
               252).",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let asking = containers(case.record, case.index, case.requests)
        .into_iter()
        .filter(|c| c.asks() && !c.lost && !c.is_optional());
    for container in asking {
        let name = visible(&container.entry.name).into_owned();
        findings.push(Finding {
            message: format!("The boot waits until somebody types the passphrase of {name}."),
            why: "Without somebody at the console the boot does not reach login.".to_owned(),
            remedy: "Nothing, if somebody is; else a key file, or nofail in /etc/crypttab.".to_owned(),
            container: Some(container.entry.name.clone()),
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
    fn fires_where_nobody_may_be_there() {
        let mut record = host();
        for (key, options, fires) in [
            (None, "luks", true),
            (None, "luks,nofail", false),
            (None, "luks,noauto", false),
            (None, "luks,tpm2-device=auto", false),
            (Some("/etc/key"), "luks", false),
        ] {
            let (name, source) = ("cold".to_owned(), "LABEL=gauges".to_owned());
            let entry = CryptEntry { name, source, key: key.map(str::to_owned), options: options.to_owned() };
            record.early = Some(Early { crypttab: Some(vec![entry]), ..Early::default() });
            let found = findings_on(&record, ROOT);
            assert_eq!(found.iter().any(|f| f.rule == "crypt-passphrase"), fires, "{key:?} {options}");
        }
    }
}
