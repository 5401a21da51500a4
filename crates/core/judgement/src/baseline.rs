//! A baseline: the findings that are known, so that only new ones are told.
//!
//! A finding is known by host, rule, and the entry it is about; lines may
//! move, and words may change with the program.

use crate::rules::Finding;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// The name and version every baseline carries.
pub const SCHEMA: &str = "bradawl.baseline/1";

/// A finding without its place and words.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Known {
    /// Host name.
    pub host: String,
    /// The rule.
    pub rule: String,
    /// Source of the entry; empty: the whole table.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub source: String,
    /// Target of the entry.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub target: String,
    /// How often: an entry may have several of one rule.
    pub times: usize,
}

/// `bradawl.baseline/1`: all that is known.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Baseline {
    /// Always `bradawl.baseline/1`.
    pub schema: String,
    /// Sorted by host, rule, source and target.
    pub findings: Vec<Known>,
}

type Key = (String, String, String, String);

/// Findings as they come, to be written down or held against.
#[derive(Debug, Default)]
pub struct Book {
    times: BTreeMap<Key, usize>,
}

impl Book {
    /// What a baseline knows.
    pub fn of(baseline: &Baseline) -> Self {
        let key = |k: &Known| (k.host.clone(), k.rule.clone(), k.source.clone(), k.target.clone());
        Book { times: baseline.findings.iter().map(|k| (key(k), k.times)).collect() }
    }

    /// Writes findings of a host down.
    pub fn add(&mut self, host: &str, findings: &[Finding]) {
        findings.iter().for_each(|f| *self.times.entry(key(host, f)).or_default() += 1);
    }

    /// Takes out what is known, and gives it.
    pub fn keep_new(&self, host: &str, findings: &mut Vec<Finding>) -> Vec<Finding> {
        let mut seen = BTreeMap::<Key, usize>::new();
        let is_known = |finding: &mut Finding| {
            let key = key(host, finding);
            let known = self.times.get(&key).copied().unwrap_or(0);
            let times = seen.entry(key).or_default();
            *times += 1;
            *times <= known
        };
        findings.extract_if(.., is_known).collect()
    }

    /// All of it as a document.
    pub fn baseline(self) -> Baseline {
        let known = |((host, rule, source, target), times)| Known { host, rule, source, target, times };
        Baseline { schema: SCHEMA.to_owned(), findings: self.times.into_iter().map(known).collect() }
    }
}

fn key(host: &str, finding: &Finding) -> Key {
    let entry = finding.entry.as_ref();
    let of = |text: Option<&String>| text.cloned().unwrap_or_default();
    (host.to_owned(), finding.rule.to_owned(), of(entry.map(|e| &e.source)), of(entry.map(|e| &e.target)))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::rules::testing::findings;
    use bradawl_facts::testing::ROOT;

    #[test]
    fn only_what_is_new_is_told() {
        let bad = "LABEL=lost /srv/lost ext4 defaults 0 0\n";
        let mut book = Book::default();
        book.add("kelp", &findings(&format!("{ROOT}{bad}")));
        let document = serde_json::to_string(&book.baseline()).unwrap();
        let book = Book::of(&serde_json::from_str(&document).unwrap());
        let left = |host: &str, table: String| {
            let mut found = findings(&table);
            let known = book.keep_new(host, &mut found);
            (!known.is_empty(), found.iter().any(|f| f.rule == "device-unknown"))
        };
        assert_eq!(left("kelp", format!("# moved down\n{ROOT}{bad}")), (true, false));
        assert!(left("kelp", format!("{ROOT}{}", bad.replace("lost", "gone"))).1);
        assert_eq!(left("quayside", format!("{ROOT}{bad}")), (false, true));
    }
}
