//! What we take the init system's generator to make of a table, against what
//! the host's own makes of it.

use super::extra::extra;
use super::units;
use super::units::Tie;
use crate::generated;
use crate::request::Request;
use bradawl_facts::record::Record;
use bradawl_facts::timespan::parse_timespan;
use bradawl_resolve::Index;
use std::collections::{BTreeMap, BTreeSet};

/// Settings that have a say in the boot; of a unit's others the mount program
/// makes use.
const SAY: [&str; 10] = [
    "After",
    "Before",
    "Requires",
    "Wants",
    "RequiresMountsFor",
    "WantsMountsFor",
    "Conflicts",
    "TimeoutSec",
    "JobRunningTimeoutSec",
    "TimeoutIdleSec",
];

/// Settings whose values are lengths of time.
const TIMES: [&str; 3] = ["TimeoutSec", "JobRunningTimeoutSec", "TimeoutIdleSec"];

/// Parts of lines about what has no say in the boot: services for quotas, orders
/// of growing, the remount of root.
const LEFT_OUT: [&str; 3] = ["quota", "/50-order-", "systemd-remount-fs"];

/// Services that the generator writes out where it runs, whose own settings are
/// those of every service of the kind.
const WRITTEN_OUT: [&str; 2] = ["systemd-growfs", "systemd-makefs@"];

/// A unit that is made otherwise.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Difference {
    /// Its name.
    pub unit: String,
    /// The line of the entry whose unit it is.
    pub line: Option<usize>,
    /// What the generator says of it and we do not.
    pub theirs: Vec<String>,
    /// What we say of it and the generator does not.
    pub ours: Vec<String>,
}

/// The units that the generator makes of a table, one line for each tie, limit
/// and link.
pub fn made_lines(record: &Record, requests: &[Request<'_>]) -> BTreeSet<String> {
    let made = units(record, requests);
    let mut lines = BTreeSet::new();
    for unit in &made.units {
        lines.extend(unit.ties.iter().map(|(tie, other)| format!("{} {}={other}", unit.name, tie.name())));
        lines.extend(unit.limits.iter().map(|(name, value)| timed(&unit.name, name, value)));
    }
    // The remount of root asks the kernel's command line too.
    for link in made.links.iter().filter(|l| l.unit != "systemd-remount-fs.service") {
        let folder = if link.tie == Tie::Requires { "requires" } else { "wants" };
        lines.insert(format!("link {}.{folder}/{}", link.by, link.unit));
    }
    for drop_in in &made.drop_ins {
        let unit = format!("{}.d/{}", drop_in.unit, drop_in.file);
        lines.extend(drop_in.settings.iter().map(|(name, value)| timed(&unit, name, value)));
    }
    lines
}

fn timed(unit: &str, name: &str, value: &str) -> String {
    match TIMES.contains(&name).then(|| parse_timespan(value)).flatten() {
        Some(time) => format!("{unit} {name}={time:?}"),
        None => format!("{unit} {name}={value}"),
    }
}

/// The generator's lines in the form of [`made_lines`].
pub fn told_lines(made: &[String]) -> BTreeSet<String> {
    let own = |l: &str| WRITTEN_OUT.iter().any(|name| l.starts_with(name));
    let left_out = |l: &str| LEFT_OUT.iter().any(|part| l.contains(part));
    let counts = |l: &&String| !l.starts_with("unit ") && !own(l) && !left_out(l);
    let each = made.iter().filter(counts).flat_map(|line| {
        let parts = line.split_once(' ').and_then(|(unit, rest)| Some((unit, rest.split_once('=')?)));
        match parts {
            Some((_, (name, _))) if !SAY.contains(&name) => Vec::new(),
            // Several units in one setting, a percent sign doubled, nothing.
            Some((unit, (name, value))) if unit.ends_with(".mount") && !TIMES.contains(&name) => {
                value.split_whitespace().map(|v| format!("{unit} {name}={}", v.replace("%%", "%"))).collect()
            }
            Some((unit, (name, value))) => vec![timed(unit, name, value)],
            None => vec![line.clone()],
        }
    });
    each.collect()
}

/// Units that the host's own generator makes otherwise than is taken here; empty
/// where it was not asked about this table.
pub fn differences(record: &Record, requests: &[Request<'_>], table: &[u8]) -> Vec<Difference> {
    let Some(generated) = generated::about(record, table) else { return Vec::new() };
    // Without what was learned from it.
    let mut unasked: Vec<Request<'_>> =
        requests.iter().map(|r| Request { unmade: false, ..r.clone() }).collect();
    // The generator reads the kernel's command line too.
    let index = Index::new(record);
    unasked.extend(extra(record, &index));
    let (ours, theirs) = (made_lines(record, &unasked), told_lines(&generated.made));
    let mut by_unit: BTreeMap<&str, (Vec<String>, Vec<String>)> = BTreeMap::new();
    for line in theirs.difference(&ours) {
        by_unit.entry(unit_of(line)).or_default().0.push(line.clone());
    }
    for line in ours.difference(&theirs) {
        by_unit.entry(unit_of(line)).or_default().1.push(line.clone());
    }
    let line_of = |unit: &str| requests.iter().find(|r| r.unit == unit).map(Request::line);
    let each = by_unit.into_iter();
    each.map(|(unit, (theirs, ours))| Difference { unit: unit.to_owned(), line: line_of(unit), theirs, ours })
        .collect()
}

/// The unit that a line is about.
fn unit_of(line: &str) -> &str {
    match line.strip_prefix("link ") {
        Some(link) => link.rsplit('/').next().unwrap_or(link),
        None => line.split([' ', '/']).next().unwrap_or(line),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::requests;
    use bradawl_facts::record::{Generated, Init, InitKind, RawBytes};
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host};

    #[test]
    fn what_the_command_line_adds_is_made_too() {
        let units = |version| {
            let mut record = host();
            record.host.init = Some(Init::new(InitKind::Systemd, Some(version)));
            record.command_line = Some("ro systemd.mount-extra=LABEL=gauges:/srv/extra:xfs".to_owned());
            record.generated = Some(Generated { table: RawBytes::new(ROOT.as_bytes()), made: Vec::new() });
            let (index, table) = (Index::new(&record), Table::parse(ROOT));
            let found = differences(&record, &requests(&record, &index, &table), ROOT.as_bytes());
            found.into_iter().map(|d| d.unit).collect::<Vec<String>>()
        };
        // A generator that made nothing lacks it where its version knows the word.
        assert!(units("257").contains(&"srv-extra.mount".to_owned()), "{:?}", units("257"));
        assert!(!units("252").contains(&"srv-extra.mount".to_owned()));
    }
}
