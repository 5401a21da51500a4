use crate::rules::testing::findings_on;
use bradawl_facts::record::{Content, ContentKind, PathFacts, PathKind};
use bradawl_facts::testing::{ROOT, host, mounted};

/// A sound swap file on the root file system.
pub(in crate::rules) fn file() -> PathFacts {
    let mut facts = PathFacts::new("/swapfile", PathKind::File);
    (facts.mode, facts.uid) = (Some(0o100_600), Some(0));
    (facts.size, facts.allocated) = (Some(1 << 30), Some(1 << 30));
    facts.lies_on = Some("/".into());
    facts.content = Some(Content::new(ContentKind::Swap, Some("swap")));
    facts
}

/// Whether a rule fires on an entry for this file, on a host with an ext4 as
/// root and a Btrfs on /srv/vault.
pub(in crate::rules) fn fires_on(rule: &str, facts: &PathFacts) -> bool {
    let mut record = host();
    record.paths.push(facts.clone());
    record.mounts = Some(vec![mounted("/dev/vda1", "/", "ext4"), mounted("/dev/vdb", "/srv/vault", "btrfs")]);
    findings_on(&record, &format!("{ROOT}{} none swap sw 0 0\n", facts.path)).iter().any(|f| f.rule == rule)
}
