use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_boot::{Need, Request};
use bradawl_facts::Consequence;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::visible;

/// Nothing unlocks the mapping that the entry names.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "crypt-mapping-missing",
    family: Family::Boot,
    default: Consequence::Missing,
    what: "the entry names an unlocked device that crypttab does not make",
    matters: "A name below /dev/mapper that is no logical volume comes from /etc/crypttab, or from somebody who \
              unlocked it by hand: then it is gone at the next boot.",
    at_boot: "As with any missing device, the boot waits 90 s, and stops in emergency mode unless the \
              entry has nofail.",
    fix: "Add the mapping to /etc/crypttab, or correct the name.",
    rests_on: Basis::Recording,
    verified: "crypttab(5); recorded boots with a lost device.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        let Some(name) = unmade(case, request) else { continue };
        let mut finding = case.failure(&RULE, request, FieldName::Source);
        finding.message =
            format!("Nothing makes {}: crypttab has no {}.", visible(&request.path), visible(name));
        finding.remedy = "Add it to /etc/crypttab, or correct the name.".to_owned();
        findings.push(finding);
    }
}

/// The mapping a request names, when it is lost and nothing unlocks it. Names
/// of logical volumes join two parts by a hyphen.
fn unmade<'r>(case: &Case<'_>, request: &'r Request<'_>) -> Option<&'r str> {
    let name = request.path.strip_prefix("/dev/mapper/")?;
    let crypttab = case.record.early.as_ref()?.crypttab.as_ref()?;
    let unmade = !name.contains('-') && !crypttab.iter().any(|e| e.name == name);
    let lost = || matches!(request.need, Need::Missing(_)) && request.look_alikes().is_empty();
    (unmade && lost()).then_some(name)
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{CryptEntry, Early};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_when_nothing_unlocks_it() {
        let mut record = host();
        let cold = CryptEntry { name: "cold".into(), source: "LABEL=gauges".into(), ..CryptEntry::default() };
        record.early = Some(Early { crypttab: Some(vec![cold]), ..Early::default() });
        for (name, fires) in [("tides", true), ("cold", false), ("vg-tides", false)] {
            let table = format!("{ROOT}/dev/mapper/{name} /srv/tides ext4 nofail 0 2\n");
            let found = findings_on(&record, &table);
            assert_eq!(found.iter().any(|f| f.rule == "crypt-mapping-missing"), fires, "{name}");
            assert!(!fires || !found.iter().any(|f| f.rule == "device-unknown"), "told twice");
        }
    }
}
