use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;
use std::net::IpAddr;

/// The host calls itself something else than the inventory does.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "host-name-differs",
    family: Family::Running,
    default: Consequence::Note,
    what: "the host calls itself something else than the inventory calls it",
    matters: "The record may be of another machine than was meant: an address that moved, an alias, a clone that \
              kept its name. A table repaired by it may be the wrong host's.",
    at_boot: "The boot is not affected.",
    fix: "Look which machine answers there; correct the inventory or the host's name.",
    rests_on: Basis::Facts,
    verified: "The name in the file of hosts against the host's own, up to the first dot.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    let host = &case.record.host;
    let Some(own) = host.own_name.as_deref() else { return };
    if alike(&host.name, own) {
        return;
    }
    let (name, own) = (visible(&host.name), visible(own));
    findings.push(Finding {
        message: format!("The host that answers as {name} calls itself {own}."),
        why: "The facts are those of the host that answered.".to_owned(),
        remedy: "Look which machine it is.".to_owned(),
        ..Finding::of(&RULE)
    });
}

/// Whether two names may be one host's: the same up to the first dot. An
/// address says nothing of a name.
fn alike(inventory: &str, own: &str) -> bool {
    // A role before the name and a port behind it are the inventory's.
    let name = inventory.rsplit('/').next().unwrap_or(inventory);
    let bare = name.trim_start_matches('[').split(']').next().unwrap_or(name);
    let bare = if bare.matches(':').count() == 1 { bare.split(':').next().unwrap_or(bare) } else { bare };
    let first = |text: &str| text.split('.').next().unwrap_or(text).to_ascii_lowercase();
    bare.parse::<IpAddr>().is_ok() || first(bare) == first(own)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::findings_on;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_another_name() {
        for (name, own, expected) in [
            ("kelp", "kelp", true),
            ("kelp.saltmarsh.example", "kelp", true),
            ("Kelp:2222", "kelp.saltmarsh.example", true),
            ("192.0.2.7:22", "kelp", true),
            ("[2001:db8::7]:22", "kelp", true),
            ("2001:db8::7", "kelp", true),
            ("gauge/kelp", "kelp", true),
            ("kelp", "mooring", false),
            ("kelp:2222", "kelp-2", false),
        ] {
            assert_eq!(alike(name, own), expected, "{name} {own}");
        }
        let mut record = host();
        record.host.named("kelp");
        assert!(findings_on(&record, ROOT).iter().any(|f| f.rule == "host-name-differs"));
        record.host.named("bellbuoy");
        record.host.own_name = Some("bellbuoy".into());
        assert!(findings_on(&record, ROOT).iter().all(|f| f.rule != "host-name-differs"));
    }
}
