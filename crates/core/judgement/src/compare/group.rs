//! Hosts of one role: what they have in common, and who departs from it.

use super::traits::{Likeness, Trait, traits};
use super::weight;
use bradawl_facts::Consequence;
use bradawl_facts::map::Map;
use bradawl_facts::record::Record;
use bradawl_facts::table::Table;
use std::collections::BTreeMap;

/// A trait is common when so many of a hundred hosts share it.
const COMMON_PERCENT: usize = 60;

/// `bradawl.departures/1`: the common pattern of each role, and the hosts that
/// depart from it.
#[derive(Debug)]
pub struct Departures {
    /// How many hosts were looked at.
    pub hosts: usize,
    /// The hosts that depart, the oddest and most harmful first.
    pub departures: Vec<Departure>,
    /// What most hosts of each role have in common.
    pub common: Vec<Common>,
}

/// A host that is not as the others of its role.
#[derive(Debug, Clone, PartialEq)]
pub struct Departure {
    /// Host name.
    pub host: String,
    /// Its role.
    pub role: String,
    /// How unusual and harmful it is: the bits of surprise of each point, by
    /// the weight of its harm.
    pub score: f64,
    /// In what, the weightiest first.
    pub points: Vec<Point>,
}

/// One thing in which a host departs.
#[derive(Debug, Clone, PartialEq)]
pub struct Point {
    /// What it is about: a target, an area, `host`, `boot`.
    pub subject: String,
    /// Which side of it.
    pub aspect: String,
    /// How it is here; null: it is not there.
    pub here: Option<String>,
    /// How it commonly is; null: it is not there.
    pub common: Option<String>,
    /// How many hosts of the role have it as here.
    pub alike: usize,
    /// How bad that can be.
    pub harm: Consequence,
}

/// Something that most hosts of a role share.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Common {
    /// The role.
    pub role: String,
    /// What it is about.
    pub subject: String,
    /// Which side of it.
    pub aspect: String,
    /// How it is.
    pub value: String,
    /// How many hosts have it so.
    pub hosts: usize,
    /// Of how many.
    pub of: usize,
}

type Subject = (String, &'static str);

/// Hosts as they come, by role. Words are kept once, and so is each trait: of a host
/// little more is kept than numbers.
#[derive(Debug, Default)]
pub struct Roles {
    roles: BTreeMap<String, Vec<Member>>,
    subjects: Names<Subject>,
    values: Names<String>,
    traits: Names<Numbered>,
}

/// Subject, value, harm.
type Numbered = (u32, u32, Consequence);

#[derive(Debug)]
struct Member {
    host: Box<str>,
    /// Numbers of traits, in the order of their subjects.
    traits: Box<[u32]>,
}

/// Words by number.
#[derive(Debug)]
struct Names<T> {
    numbers: Map<T, u32>,
    all: Vec<T>,
}

impl<T> Default for Names<T> {
    fn default() -> Self {
        Names { numbers: Map::default(), all: Vec::new() }
    }
}

impl<T: Clone + Eq + std::hash::Hash> Names<T> {
    fn number(&mut self, name: T) -> u32 {
        // The texts of four thousand million would not be held either.
        let next = u32::try_from(self.all.len()).unwrap_or(u32::MAX);
        let all = &mut self.all;
        *self.numbers.entry(name).or_insert_with_key(|name| {
            all.push(name.clone());
            next
        })
    }

    fn get(&self, number: u32) -> &T {
        &self.all[number as usize]
    }
}

/// What is to be compared of one host of a role.
pub fn of_member(record: &Record, table: &Table) -> Vec<Trait> {
    traits(record, table, Likeness::Kind)
}

impl Roles {
    /// Takes in a host under a role.
    pub fn add(&mut self, host: &str, role: &str, traits: Vec<Trait>) {
        let mut numbered: Vec<_> = traits
            .into_iter()
            .map(|t| (self.subjects.number((t.subject, t.aspect)), self.values.number(t.value), t.harm))
            .collect();
        numbered.sort_by_key(|(subject, ..)| *subject);
        numbered.dedup_by_key(|(subject, ..)| *subject);
        let traits = numbered.into_iter().map(|t| self.traits.number(t)).collect();
        let member = Member { host: host.into(), traits };
        self.roles.entry(role.to_owned()).or_default().push(member);
    }

    /// The pattern of each role and who departs from it.
    pub fn departures(&self) -> Departures {
        let (mut departures, mut common) = (Vec::new(), Vec::new());
        for (role, members) in &self.roles {
            let counted = Counted::of(members, &self.traits);
            common.extend(counted.usual.iter().filter_map(|(subject, usual)| {
                let ((what, aspect), value) = (self.subjects.get(*subject), self.values.get((*usual)?));
                let hosts = counted.times[&(*subject, *usual)];
                let (subject, aspect) = (what.clone(), (*aspect).to_owned());
                Some(Common {
                    role: role.clone(),
                    subject,
                    aspect,
                    value: value.clone(),
                    hosts,
                    of: members.len(),
                })
            }));
            let odd =
                members.iter().map(|m| self.departure(role, m, &counted)).filter(|d| !d.points.is_empty());
            departures.extend(odd);
        }
        departures.sort_by(|a, b| b.score.total_cmp(&a.score).then_with(|| a.host.cmp(&b.host)));
        let hosts = self.roles.values().map(Vec::len).sum();
        Departures { hosts, departures, common }
    }

    fn departure(&self, role: &str, member: &Member, counted: &Counted) -> Departure {
        let mut points: Vec<(f64, Point)> = Vec::new();
        for (subject, usual) in &counted.usual {
            let here = member.traits.binary_search_by_key(subject, |n| self.traits.get(*n).0).ok();
            let here = here.map(|n| *self.traits.get(member.traits[n]));
            let value = here.map(|(_, value, _)| value);
            if value == *usual {
                continue;
            }
            let alike = counted.times.get(&(*subject, value)).copied().unwrap_or(1);
            let harm = here.map_or(Consequence::Missing, |(.., harm)| harm);
            let (what, aspect) = self.subjects.get(*subject);
            // An entry that is not there is one point, not one for each side.
            if (value.is_none() || usual.is_none()) && *aspect != "source" && self.is_entry(what) {
                continue;
            }
            let text = |n: Option<u32>| n.map(|n| self.values.get(n).clone());
            let aspect = if value.is_none() || usual.is_none() { entry_or(aspect) } else { aspect };
            let surprise = (counted.hosts as f64 / alike as f64).log2();
            let (subject, aspect) = (what.clone(), aspect.to_owned());
            let point = Point { subject, aspect, here: text(value), common: text(*usual), alike, harm };
            points.push((surprise * weight(harm), point));
        }
        points.sort_by(|a, b| b.0.total_cmp(&a.0).then_with(|| a.1.subject.cmp(&b.1.subject)));
        let score = points.iter().map(|(score, _)| score).sum();
        let points = points.into_iter().map(|(_, point)| point).collect();
        Departure { host: member.host.to_string(), role: role.to_owned(), score, points }
    }

    fn is_entry(&self, subject: &str) -> bool {
        self.subjects.numbers.contains_key(&(subject.to_owned(), "source"))
    }
}

fn entry_or(aspect: &'static str) -> &'static str {
    if aspect == "source" { "entry" } else { aspect }
}

/// How often each value comes, and what is usual.
struct Counted {
    hosts: usize,
    /// By subject and value; no value: not there.
    times: Map<(u32, Option<u32>), usize>,
    usual: Vec<(u32, Option<u32>)>,
}

impl Counted {
    fn of(members: &[Member], traits: &Names<Numbered>) -> Self {
        let mut times: Map<(u32, Option<u32>), usize> = Map::default();
        let mut with: BTreeMap<u32, usize> = BTreeMap::new();
        for (subject, value, _) in members.iter().flat_map(|m| &m.traits).map(|n| traits.get(*n)) {
            *times.entry((*subject, Some(*value))).or_default() += 1;
            *with.entry(*subject).or_default() += 1;
        }
        for (subject, count) in &with {
            times.insert((*subject, None), members.len() - count);
        }
        let mut usual: BTreeMap<u32, (usize, Option<u32>)> = BTreeMap::new();
        for ((subject, value), count) in &times {
            let best = usual.entry(*subject).or_insert((0, None));
            if (*count, *value) > *best {
                *best = (*count, *value);
            }
        }
        // Without a second host nothing is usual.
        let enough = |count: usize| members.len() > 1 && count * 100 >= members.len() * COMMON_PERCENT;
        let usual =
            usual.into_iter().filter(|(_, (count, _))| enough(*count)).map(|(s, (_, v))| (s, v)).collect();
        Counted { hosts: members.len(), times, usual }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn the_odd_one_comes_first() {
        let gauges = "LABEL=gauges /srv/gauges xfs noatime,nofail 0 0\n";
        let mut roles = Roles::default();
        for n in 0..20 {
            let lines = match n {
                7 => gauges.replace("LABEL=gauges", "LABEL=gagues").replace(",nofail", ""),
                12 => gauges.replace("noatime", "relatime"),
                _ => gauges.to_owned(),
            };
            let table = Table::parse(format!("{ROOT}{lines}"));
            roles.add(&format!("gauge-{n:02}"), "gauge", of_member(&host(), &table));
        }
        let found = roles.departures();
        let names: Vec<_> = found.departures.iter().map(|d| d.host.as_str()).collect();
        assert_eq!(names, ["gauge-07", "gauge-12"]);
        assert_eq!(found.departures[0].points[0].harm, Consequence::Halt);
        assert!(
            found
                .common
                .iter()
                .any(|c| c.subject == "/srv/gauges" && c.value == "nofail,noatime" && c.hosts == 18)
        );
        assert_eq!(found.departures[1].points.len(), 1);
    }

    #[test]
    fn an_entry_that_is_not_there_is_one_point() {
        let mut roles = Roles::default();
        for n in 0..5 {
            let lines = if n == 3 { "" } else { "LABEL=gauges /srv/gauges xfs defaults 0 0\n" };
            let table = Table::parse(format!("{ROOT}{lines}"));
            roles.add(&format!("gauge-{n}"), "gauge", of_member(&host(), &table));
        }
        let found = roles.departures();
        let points = &found.departures[0].points;
        assert_eq!((points.len(), points[0].aspect.as_str(), &points[0].here), (1, "entry", &None));
    }
}
