//! The same finding on several hosts.

use bradawl_facts::Consequence;
use bradawl_facts::map::Map;
use bradawl_judgement::rules::Finding;
use serde::Serialize;
use std::cmp::Reverse;
use std::collections::BTreeMap;

/// Hosts named for each finding; the others are counted.
const NAMED: usize = 5;

/// One finding on one or more hosts, what differs by nature left out.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SharedFinding {
    /// The rule.
    pub rule: &'static str,
    /// What it does.
    pub consequence: Consequence,
    /// What is wrong, with `…` for UUIDs.
    pub message: String,
    /// The target of the entry; null when it is about a whole table.
    pub target: Option<String>,
    /// How many hosts have it.
    pub hosts: usize,
    /// How many hosts of each role (the first role of each host).
    pub roles: BTreeMap<String, usize>,
    /// Some of them.
    pub examples: Vec<String>,
}

type Key = (&'static str, Consequence, String, Option<String>);

/// Findings as they come, gathered.
#[derive(Debug, Default)]
pub(super) struct Shared {
    all: Map<Key, SharedFinding>,
}

impl Shared {
    pub fn add(&mut self, host: &str, role: &str, finding: &Finding) {
        let message = general(&finding.message);
        let target = finding.entry.as_ref().map(|e| e.target.clone());
        let (rule, consequence) = (finding.rule, finding.consequence);
        let key = (rule, consequence, message.clone(), target.clone());
        let one = self.all.entry(key).or_insert_with(|| SharedFinding {
            rule,
            consequence,
            message,
            target,
            hosts: 0,
            roles: BTreeMap::new(),
            examples: Vec::new(),
        });
        // A host may have it on two lines.
        if one.examples.last().is_some_and(|last| last == host) {
            return;
        }
        one.hosts += 1;
        *one.roles.entry(role.to_owned()).or_default() += 1;
        if one.examples.len() < NAMED {
            one.examples.push(host.to_owned());
        }
    }

    /// Worst first, then the commonest.
    pub fn found(self) -> Vec<SharedFinding> {
        let mut all: Vec<SharedFinding> = self.all.into_values().collect();
        all.sort_by(|a, b| {
            let key = |f: &SharedFinding| (f.consequence, Reverse(f.hosts), f.rule);
            key(a).cmp(&key(b)).then_with(|| (&a.target, &a.message).cmp(&(&b.target, &b.message)))
        });
        all
    }
}

/// The text without what differs between hosts by nature: UUIDs, FAT's ids.
pub(crate) fn general(text: &str) -> String {
    let mut out = String::with_capacity(text.len());
    let mut word = String::new();
    for c in text.chars() {
        if c.is_ascii_hexdigit() || c == '-' {
            word.push(c);
        } else {
            end(&mut out, &mut word);
            out.push(c);
        }
    }
    end(&mut out, &mut word);
    out
}

fn end(out: &mut String, word: &mut String) {
    let lengths: Vec<usize> = word.split('-').map(str::len).collect();
    let is_id = matches!(lengths.as_slice(), [8, 4, 4, 4, 12] | [4, 4] | [8, 2] | [16]);
    out.push_str(if is_id { "…" } else { word });
    word.clear();
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn identities_are_left_out() {
        for (text, expected) in [
            ("no device matches UUID=9f0d3c1e-6a2b-4a57-8d1c-0e5f7b3a2c11.", "no device matches UUID=…."),
            ("UUID=4B1D-7E20 and 1A2B3C4D5E6F7081", "UUID=… and …"),
            ("`nobarrier` is refused by 6.1", "`nobarrier` is refused by 6.1"),
            ("dead-beef-cafe", "dead-beef-cafe"),
        ] {
            assert_eq!(general(text), expected);
        }
    }
}
