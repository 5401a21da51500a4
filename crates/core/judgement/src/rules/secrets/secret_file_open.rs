use crate::rules::{Basis, Case, Family, Finding, Rule};
use bradawl_facts::Consequence;
use bradawl_facts::record::{PathFacts, PathKind};
use bradawl_facts::secrets;
use bradawl_facts::table::FieldName;
use bradawl_facts::text::{quoted, visible};

/// A file of credentials or a key file that others may read.
pub(in crate::rules) const RULE: Rule = Rule {
    slug: "secret-file-open",
    family: Family::Secrets,
    default: Consequence::Risk,
    what: "others may read a file of credentials, or the key of an encrypted container",
    matters: "The file holds what opens the share or the disk. With a mode such as 0644 every user of the host has \
              it, and an encrypted disk is no longer kept from them.",
    at_boot: "The boot is not affected.",
    fix: "chown root and chmod 600. If others could read it for some time, change the password or the key.",
    rests_on: Basis::Documentation,
    verified: "mount.cifs(8) on credentials files; cryptsetup(8) warns of keys that others may read.",
    check,
};

fn check(case: &Case<'_>, findings: &mut Vec<Finding>) {
    for request in case.requests {
        for option in &request.entry.options {
            let Some(path) = option.value.as_deref() else { continue };
            if !secrets::FILES.contains(&option.name.as_str()) {
                continue;
            }
            if let Some((facts, mode)) = open(case, path) {
                findings.push(said(facts, mode, case.finding(&RULE, request, FieldName::Options)));
            }
        }
    }
    // crypttab lies beside the table.
    let crypttab = case.record.early.iter().flat_map(|e| &e.crypttab).flatten();
    for key in crypttab.filter_map(|entry| entry.key.as_deref()) {
        if let Some((facts, mode)) = open(case, key) {
            findings.push(said(facts, mode, Finding::of(&RULE)));
        }
    }
}

/// A file that others may read, with its mode.
fn open<'a>(case: &Case<'a>, path: &str) -> Option<(&'a PathFacts, u32)> {
    let facts = case.index.path(path).filter(|f| f.kind == PathKind::File)?;
    Some((facts, facts.mode? & 0o7777)).filter(|(_, mode)| mode & 0o077 != 0)
}

fn said(facts: &PathFacts, mode: u32, finding: Finding) -> Finding {
    Finding {
        message: format!(
            "{} has mode {mode:04o}: others than its owner may read or write it.",
            visible(&facts.path)
        ),
        why: "Whoever can read it has what it opens.".to_owned(),
        remedy: format!("chmod 600 {}", quoted(&facts.path)),
        ..finding
    }
}

#[cfg(test)]
mod tests {
    use crate::rules::testing::findings_on;
    use bradawl_facts::record::{CryptEntry, Early, PathFacts, PathKind};
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn fires_on_open_credentials_and_keys() {
        let share = "//store/a /srv/gauges cifs credentials=/root/tide,nofail,_netdev 0 0\n";
        for (mode, expected) in [(0o600, 0), (0o400, 0), (0o640, 2), (0o604, 2), (0o602, 2)] {
            let mut record = host();
            let file = |path: &str| PathFacts { mode: Some(mode), ..PathFacts::new(path, PathKind::File) };
            record.paths.extend([file("/root/tide"), file("/root/key")]);
            let key = Some("/root/key".to_owned());
            let entry = CryptEntry { name: "hold".into(), key, ..CryptEntry::default() };
            record.early = Some(Early { crypttab: Some(vec![entry]), ..Early::default() });
            let all = findings_on(&record, &format!("{ROOT}{share}"));
            let found: Vec<_> = all.iter().filter(|f| f.rule == "secret-file-open").map(|f| f.line).collect();
            assert_eq!(found.len(), expected, "{mode:o}");
            assert!(found.is_empty() || found.contains(&Some(2)) && found.contains(&None));
        }
    }
}
