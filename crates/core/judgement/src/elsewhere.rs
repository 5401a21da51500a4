//! Whose device a lost UUID is: over many hosts, the one that a line of one
//! host names may belong to another, whose table or disk it came from.

use bradawl_boot::{Need, Request};
use bradawl_facts::map::Map;
use bradawl_facts::record::Record;
use bradawl_resolve::{Source, Tag};
use std::hash::{DefaultHasher, Hash, Hasher};

/// Owners named for one lost UUID; an image that was copied has many.
const NAMED: usize = 3;

/// A UUID that no device of its host has.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct LostName {
    /// Line in the table, from 1.
    pub line: usize,
    /// `UUID=…` or `PARTUUID=…`.
    pub name: String,
}

/// A lost UUID that other hosts have.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Elsewhere {
    /// The host whose table names it.
    pub host: String,
    /// Line in its table, from 1.
    pub line: usize,
    /// The name as the line has it: `UUID=…`.
    pub name: String,
    /// Hosts that have such a device, three at most.
    pub on: Vec<String>,
}

/// The UUIDs of the table that no device of the host has. Labels are left out:
/// hosts are meant to have the same ones.
pub(crate) fn lost(requests: &[Request<'_>]) -> Vec<LostName> {
    let lost = |request: &Request<'_>| match (&request.need, Source::of(&request.entry)) {
        (Need::Missing(_), Source::Tag(tag @ (Tag::Uuid | Tag::PartUuid), value)) if !value.is_empty() => {
            Some(LostName { line: request.line(), name: format!("{}={value}", tag.name()) })
        }
        _ => None,
    };
    requests.iter().filter_map(lost).collect()
}

/// The UUIDs of many hosts' devices, and the lines that have lost theirs.
///
/// A number of 64 bits is kept for each UUID, not the UUID, and the hosts' names in one
/// text: this is what a run over very many of them keeps of every one.
#[derive(Debug, Default)]
pub struct Owners {
    names: String,
    numbers: Vec<u64>,
    /// Where the name and the numbers of each host end.
    ends: Vec<(usize, usize)>,
    lost: Vec<(usize, LostName)>,
}

/// The numbers of a record's UUIDs, for [`Owners::add`].
pub fn numbers(record: &Record) -> Vec<u64> {
    let of = |device: &bradawl_facts::record::Device| {
        let uuid = device.content.as_ref().and_then(|c| c.uuid.as_ref()).map(|u| number(Tag::Uuid, u));
        let part = device.partition.as_ref().and_then(|p| p.uuid.as_ref());
        [uuid, part.map(|u| number(Tag::PartUuid, u))]
    };
    record.devices.iter().flatten().flat_map(of).flatten().collect()
}

fn number(tag: Tag, value: &str) -> u64 {
    let mut hasher = DefaultHasher::new();
    (tag.name(), value.to_lowercase()).hash(&mut hasher);
    hasher.finish()
}

impl Owners {
    /// Takes in a host: its name, the numbers of its UUIDs, its lost ones.
    pub fn add(&mut self, host: &str, numbers: &[u64], lost: Vec<LostName>) {
        self.lost.extend(lost.into_iter().map(|lost| (self.ends.len(), lost)));
        self.names.push_str(host);
        self.numbers.extend(numbers);
        self.ends.push((self.names.len(), self.numbers.len()));
    }

    fn name(&self, host: usize) -> String {
        let begin = host.checked_sub(1).map_or(0, |before| self.ends[before].0);
        self.names[begin..self.ends[host].0].to_owned()
    }

    /// The lost UUIDs that other hosts have, in the order of the hosts.
    pub fn found(&self) -> Vec<Elsewhere> {
        let number_of = |lost: &LostName| {
            let tag = if lost.name.starts_with("PARTUUID=") { Tag::PartUuid } else { Tag::Uuid };
            number(tag, lost.name.split_once('=').map_or("", |(_, v)| v))
        };
        let mut owners: Map<u64, Vec<usize>> =
            self.lost.iter().map(|(_, lost)| (number_of(lost), Vec::new())).collect();
        let mut begin = 0;
        for (host, (_, end)) in self.ends.iter().enumerate() {
            for number in &self.numbers[begin..*end] {
                let Some(own) = owners.get_mut(number) else { continue };
                if own.len() < NAMED && own.last() != Some(&host) {
                    own.push(host);
                }
            }
            begin = *end;
        }
        let found = |(host, lost): &(usize, LostName)| {
            let on: Vec<String> = owners.get(&number_of(lost))?.iter().map(|n| self.name(*n)).collect();
            (!on.is_empty()).then_some(())?;
            Some(Elsewhere { host: self.name(*host), line: lost.line, name: lost.name.clone(), on })
        };
        self.lost.iter().filter_map(found).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const TIDES: &str = "6a1f0c52-83d4-4b0e-9d67-5e2b8c1a7f39";

    fn gone(line: usize, name: &str) -> Vec<LostName> {
        vec![LostName { line, name: name.to_owned() }]
    }

    #[test]
    fn a_lost_uuid_is_found_with_its_owner_in_either_order() {
        for turned in [false, true] {
            let mut owners = Owners::default();
            let mut hosts = [
                ("gauge-01", vec![], gone(4, &format!("UUID={}", TIDES.to_uppercase()))),
                ("gauge-02", vec![number(Tag::Uuid, TIDES)], vec![]),
            ];
            if turned {
                hosts.reverse();
            }
            for (host, numbers, lost) in hosts {
                owners.add(host, &numbers, lost);
            }
            let found = owners.found();
            assert_eq!(found.len(), 1);
            assert_eq!((found[0].host.as_str(), found[0].line), ("gauge-01", 4));
            assert_eq!(found[0].on, ["gauge-02"]);
        }
    }

    #[test]
    fn a_partitions_uuid_is_not_a_file_systems() {
        let mut owners = Owners::default();
        owners.add("gauge-01", &[], gone(4, &format!("PARTUUID={TIDES}")));
        owners.add("gauge-02", &[number(Tag::Uuid, TIDES)], vec![]);
        assert!(owners.found().is_empty());
    }

    #[test]
    fn of_copies_three_are_named() {
        let mut owners = Owners::default();
        for n in 0..9 {
            owners.add(&format!("gauge-{n}"), &[number(Tag::Uuid, TIDES)], vec![]);
        }
        owners.add("relay", &[], gone(2, &format!("UUID={TIDES}")));
        assert_eq!(owners.found()[0].on, ["gauge-0", "gauge-1", "gauge-2"]);
    }
}
