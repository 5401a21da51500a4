//! What becomes of each entry, and when.

use super::super::forecast::EntryState;
use super::super::parse_timespan;
use super::super::request::{Need, Request};
use super::super::trial::{Cause, Trial};
use super::super::unit_name::{mount_unit, swap_unit};
use crate::path::folders_above;
use crate::size::seconds;
use crate::text::visible;
use std::collections::HashMap;

/// Folders that the init system mounts by itself; entries for them are not
/// made into units.
const API_FOLDERS: [&str; 12] = [
    "/proc",
    "/sys",
    "/dev",
    "/dev/pts",
    "/dev/shm",
    "/run",
    "/sys/fs/cgroup",
    "/sys/fs/pstore",
    "/sys/fs/bpf",
    "/sys/kernel/security",
    "/sys/firmware/efi/efivars",
    "/sys/fs/smackfs",
];

/// Entries that lie under each other deeper than this are taken as they are:
/// no real table comes near it.
const MAX_DEPTH: usize = 200;

/// What came of one request, with the moment it was settled.
#[derive(Debug, Clone)]
pub(super) struct Settled {
    pub state: EntryState,
    /// Seconds; `None`: never.
    pub at: Option<f64>,
    pub why: String,
    /// The line of the entry that this one needs in vain.
    pub because_of: Option<usize>,
    /// Whether what it asks for is there all the same: it repeats another.
    pub repeats: bool,
}

impl Settled {
    fn now(state: EntryState, why: impl Into<String>) -> Self {
        Settled { state, at: Some(0.0), why: why.into(), because_of: None, repeats: false }
    }
}

/// Settles all requests of a table.
pub(super) fn settle_all(requests: &[Request<'_>], device_timeout: f64) -> Vec<Settled> {
    let mut board = Board::new(requests, device_timeout);
    (0..requests.len()).for_each(|n| drop(board.settle(n, false, 0)));
    board.settled.into_iter().flatten().collect()
}

struct Board<'a> {
    requests: &'a [Request<'a>],
    device_timeout: f64,
    /// Why no unit is made for a request, if so, and whether it repeats the
    /// one that is.
    ignored: Vec<Option<(String, bool)>>,
    by_target: HashMap<&'a str, usize>,
    settled: Vec<Option<Settled>>,
}

impl<'a> Board<'a> {
    fn new(requests: &'a [Request<'a>], device_timeout: f64) -> Self {
        let ignored = passed_over(requests);
        let counted = requests.iter().enumerate().filter(|(n, _)| ignored[*n].is_none());
        let by_target = counted.filter_map(|(n, r)| Some((r.target.as_deref()?, n))).collect();
        Board { requests, device_timeout, ignored, by_target, settled: vec![None; requests.len()] }
    }

    /// Settles a request after those it lies under. `pulled` means another
    /// entry needs it, so that `noauto` does not count.
    fn settle(&mut self, n: usize, pulled: bool, depth: usize) -> Settled {
        if let Some(done) = &self.settled[n]
            && !(pulled && done.state == EntryState::Manual)
        {
            return done.clone();
        }
        let mut settled = self.alone(n, pulled);
        // In place before the others are asked, so that a circle ends.
        self.settled[n] = Some(settled.clone());
        let tried = !matches!(settled.state, EntryState::Manual | EntryState::OnAccess | EntryState::Ignored);
        if tried && depth < MAX_DEPTH {
            for needed in self.needed_by(n) {
                let below = self.settle(needed, true, depth + 1);
                settled = after(settled, &below, self.requests[needed].line());
            }
            self.settled[n] = Some(settled.clone());
        }
        settled
    }

    /// What comes of a request when all it lies under is there.
    fn alone(&self, n: usize, pulled: bool) -> Settled {
        let request = &self.requests[n];
        if let Some((why, repeats)) = &self.ignored[n] {
            return Settled { repeats: *repeats, ..Settled::now(EntryState::Ignored, why.as_str()) };
        }
        if request.local_unit.is_some_and(|u| u.masked) {
            return Settled::now(EntryState::Ignored, "its unit is switched off by a unit file");
        }
        if is_api(request) || request.is_root() {
            return already_there(request);
        }
        if request.automount && !pulled {
            return Settled::now(EntryState::OnAccess, "mounted when somebody first touches it");
        }
        if request.noauto && !pulled {
            return Settled::now(EntryState::Manual, "noauto: not mounted at boot");
        }
        match &request.need {
            Need::Missing(_) => {
                let limit = self.timeout(request);
                let name = visible(&request.entry.source);
                let why = format!("no device answers to {name}; waits {}", seconds(limit));
                Settled { at: limit, ..Settled::now(EntryState::TimedOut, why) }
            }
            // Whether the device is there or not, this cannot be mounted.
            Need::Unknown(_) if matches!(request.trial, Trial::Fails(..)) => tried(request),
            Need::Unknown(why) => Settled::now(EntryState::Unknown, why.as_str()),
            Need::None | Need::Present(_) => tried(request),
        }
    }

    fn timeout(&self, request: &Request<'_>) -> Option<f64> {
        let option = request.entry.option("x-systemd.device-timeout");
        match option.and_then(|o| o.value.as_deref()).and_then(parse_timespan) {
            // Recorded: 0 waits without end, a value that is no time is passed over.
            Some(limit) => limit.filter(|s| *s > 0.0),
            None => Some(self.device_timeout),
        }
    }

    /// The entries whose mounts this one lies under.
    fn needed_by(&self, n: usize) -> Vec<usize> {
        let paths = self.requests[n].lies_under();
        let mut needed: Vec<usize> = paths
            .iter()
            .flat_map(|path| std::iter::once(path.as_str()).chain(folders_above(path)))
            .filter_map(|folder| self.by_target.get(folder).copied())
            .filter(|&other| other != n)
            .collect();
        needed.sort_unstable();
        needed.dedup();
        needed
    }
}

/// Why no unit is made for each request: its target is no path, or an earlier
/// line asks for the same place or the same swap.
fn passed_over(requests: &[Request<'_>]) -> Vec<Option<(String, bool)>> {
    let mut first: HashMap<String, (usize, String)> = HashMap::new();
    let reason = |request: &Request<'_>| {
        if request.lost {
            return Some(("the line before holds a NUL byte, and swallows this one".to_owned(), false));
        }
        let (key, what) = match &request.target {
            Some(target) => (target.clone(), visible(target).into_owned()),
            None if request.entry.is_swap() => (format!("swap {}", request.source_path()), String::new()),
            None => {
                let why = "its target is no path; the init system passes the line over";
                return Some((why.to_owned(), false));
            }
        };
        let here = (request.line(), request.source_path());
        let (line, source) = first.entry(key).or_insert_with(|| here.clone());
        (*line != here.0).then(|| match source == &here.1 {
            true => (format!("line {line} already asks for the same"), true),
            false => (format!("line {line} already mounts {what}; the first one counts"), false),
        })
    };
    requests.iter().map(reason).collect()
}

/// Root and the API folders are mounted before the table is read; their
/// options are applied by a remount, and the type is not looked at.
fn already_there(request: &Request<'_>) -> Settled {
    let own = "the init system mounts this folder itself";
    if request.is_root() {
        let why = root_trouble(request).unwrap_or_else(|| "mounted before the table is read".to_owned());
        Settled::now(EntryState::Mounted, why)
    } else if request.source.wants_device() {
        Settled::now(EntryState::Ignored, own)
    } else {
        Settled::now(EntryState::Mounted, own)
    }
}

fn tried(request: &Request<'_>) -> Settled {
    let there = if request.entry.is_swap() { EntryState::Active } else { EntryState::Mounted };
    match &request.trial {
        Trial::Works => Settled::now(there, ""),
        Trial::Fails(_, why) => Settled::now(EntryState::Failed, why.as_str()),
        Trial::Unknown(why) => Settled::now(EntryState::Unknown, why.as_str()),
    }
}

/// A request after one it lies under: it waits for it, and falls with it.
fn after(own: Settled, below: &Settled, line: usize) -> Settled {
    let later = own.at.zip(below.at).map(|(a, b)| a.max(b));
    match below.state {
        EntryState::TimedOut | EntryState::Failed | EntryState::Blocked => Settled {
            state: EntryState::Blocked,
            // Whichever gives up first ends it.
            at: match own.state {
                EntryState::TimedOut => own.at.into_iter().chain(below.at).min_by(f64::total_cmp),
                _ => below.at,
            },
            why: format!("needs what line {line} mounts, which is not there"),
            because_of: Some(line),
            repeats: false,
        },
        EntryState::Unknown if own.state != EntryState::Failed => Settled {
            state: EntryState::Unknown,
            at: later,
            why: format!("depends on line {line}"),
            because_of: Some(line),
            repeats: false,
        },
        _ => Settled { at: later, ..own },
    }
}

/// The init system's name for a request; `None` when it makes no unit.
pub(super) fn unit(request: &Request<'_>, settled: &Settled) -> Option<String> {
    if settled.state == EntryState::Ignored || (is_api(request) && !request.is_root()) {
        return None;
    }
    Some(match &request.target {
        Some(target) => mount_unit(target),
        None => swap_unit(&request.source_path()),
    })
}

fn is_api(request: &Request<'_>) -> bool {
    request.target.as_deref().is_some_and(|t| API_FOLDERS.contains(&t))
}

/// Why the remount of root with the entry's options fails; its type is not
/// looked at (recorded). The mount program, which makes it, looks the entry up
/// for itself.
pub(super) fn root_trouble(request: &Request<'_>) -> Option<String> {
    let left = "root is left as the kernel mounted it";
    if request.lost || request.refused {
        return Some(format!("the mount program does not know the line: {left}"));
    }
    match (&request.need, &request.trial) {
        (Need::Missing(_), _) => {
            Some(format!("no device answers to {}: {left}", visible(&request.entry.source)))
        }
        (_, Trial::Fails(Cause::Options, why)) => Some(format!("{why}; {left}")),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::super::super::requests;
    use super::*;
    use crate::record::Record;
    use crate::resolve::Index;
    use crate::table::Table;

    fn settled(table: &str) -> Vec<Settled> {
        let mut record = Record::new("sounding");
        record.devices = Some(Vec::new());
        let index = Index::new(&record);
        settle_all(&requests(&record, &index, &Table::parse(table)), 90.0)
    }

    fn states(table: &str) -> Vec<EntryState> {
        settled(table).into_iter().map(|s| s.state).collect()
    }

    #[test]
    fn a_manual_parent_is_pulled_in() {
        use EntryState::{Blocked, Manual, Mounted, TimedOut};
        assert_eq!(states("LABEL=a /srv/a ext4 noauto\ntmpfs /srv/a/b tmpfs\n"), [TimedOut, Blocked]);
        assert_eq!(states("LABEL=a /srv/a ext4 noauto\ntmpfs /srv/ab tmpfs\n"), [Manual, Mounted]);
    }

    #[test]
    fn the_first_to_give_up_ends_a_chain() {
        let table = "LABEL=a /srv/a ext4 x-systemd.device-timeout=30\nLABEL=b /srv/a/b ext4 defaults\n";
        assert_eq!(settled(table)[1].at, Some(30.0));
    }

    #[test]
    fn circles_end() {
        let line = |n: usize| {
            let all: Vec<String> = (0..20).map(|m| format!("x-systemd.requires-mounts-for=/m/{m}")).collect();
            format!("tmpfs /m/{n} tmpfs {}\n", all.join(","))
        };
        let table: String = (0..20).map(line).collect();
        assert!(states(&table).iter().all(|s| *s == EntryState::Mounted));
    }

    #[test]
    fn long_chains_end() {
        let line = |n: usize| format!("tmpfs /m/{n} tmpfs x-systemd.requires-mounts-for=/m/{}\n", n + 1);
        let table: String = (0..20_000).map(line).collect();
        assert_eq!(states(&table).len(), 20_000);
    }
}
