//! Inits that work through the table line by line with scripts: check what has
//! a pass number, mount in table order, activate swap. They wait for nothing.

mod busybox;
mod finit;
mod openrc;
mod root;
mod runit;
mod small;
mod sysvinit;

use super::doubt::DoubtSort;
use super::forecast::{EntryForecast, EntryState, Event, Forecast, Outcome, missing_facts};
use super::need::Need;
use super::place::{Places, There};
use super::request::Request;
use super::trial::{Cause, Trial};
use super::verdict::{Absent, BootVerdict, Ending};
use bradawl_facts::Consequence;
use bradawl_facts::record::{BootsWith, Content, Init, InitKind, InitScripts, PathKind, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Source};
use root::{Root, root};
use small::{Small, small};

/// How such an init goes about it.
pub(super) struct Scripts {
    checks: Checks,
    /// Whether a check that fails stops the boot.
    stops: bool,
    /// Whether what has `_netdev` is left to the scripts of the network, be it on
    /// a disk of the host.
    netdev_apart: bool,
    /// Whether root is mounted writable where the table has no entry for it.
    remounts_unnamed: bool,
    /// What comes of the rest where root stays read-only.
    read_only: ReadOnly,
    /// Whose mount and swapon it runs.
    programs: Programs,
    /// What it stops in.
    pub shell: &'static str,
    /// The recordings it rests on; absent: it follows its scripts.
    recorded: Option<&'static str>,
}

/// Whose programs mount and swap.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Programs {
    /// util-linux's.
    System,
    /// busybox's.
    Busybox,
}

/// What becomes of entries with a pass number.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Checks {
    /// They are not checked.
    None,
    /// What is there is checked; a device that is not is passed over.
    Present,
    /// `fsck -A`: a device that is not there fails unless the entry has nofail,
    /// with noauto too (recorded).
    Table,
    /// Each by its name: a tag that no device matches fails, with nofail too; a
    /// path that is no device is passed over (recorded).
    EachName,
}

/// What comes of the other entries when root is read-only.
#[derive(Clone, Copy, PartialEq, Eq)]
enum ReadOnly {
    /// They are mounted all the same.
    Alone,
    /// Scripts that write to root fail, and what needs them is left out: all of
    /// them.
    Rest,
}

/// The scripts of an init system; `None` when it has none.
fn scripts(record: &Record, init: &Init) -> Option<&'static Scripts> {
    // Debian has other inits run the scripts of its System V init.
    let of_debian = matches!(record.host.os_id.as_deref(), Some("debian" | "devuan" | "ubuntu"));
    let debian = match init.scripts {
        Some(scripts) => scripts == InitScripts::Debian,
        None => of_debian,
    };
    match init.kind {
        InitKind::Sysvinit => Some(&sysvinit::SCRIPTS),
        InitKind::Openrc if debian => Some(&openrc::ON_DEBIAN),
        InitKind::Openrc => Some(&openrc::SCRIPTS),
        InitKind::Runit if debian => Some(&runit::ON_DEBIAN),
        InitKind::Runit => Some(&runit::SCRIPTS),
        InitKind::Finit => Some(&finit::SCRIPTS),
        InitKind::Busybox => Some(&busybox::SCRIPTS),
        InitKind::Systemd | InitKind::Other => None,
    }
}

/// Those of the host's init.
pub(super) fn of_host(record: &Record) -> Option<&'static Scripts> {
    scripts(record, record.host.init.as_ref()?)
}

impl Scripts {
    /// Whether the boot stops when the device of this entry is not there.
    pub fn stops_without(&self, request: &Request<'_>) -> bool {
        self.stops && request.entry.pass > 0 && check_misses(self.checks, request)
    }
}

/// The boot of a host whose init works with scripts; `None` for others.
pub(super) fn forecast(record: &Record, index: &Index<'_>, requests: &[Request<'_>]) -> Option<Forecast> {
    let init = record.host.init.as_ref()?;
    let places = Places::new(record, index, requests);
    let scripts = scripts(record, init)?;
    let root = root(record, index, scripts, requests);
    Some(played(record, (init, scripts), requests, (&places, root)))
}

fn played(
    record: &Record,
    (init, scripts): (&Init, &Scripts),
    requests: &[Request<'_>],
    (places, root): (&Places<'_, '_>, Root),
) -> Forecast {
    let mut entries = tried(record, scripts, requests, places);
    told_of_root(scripts, requests, &root, &mut entries);
    let halts = entries.iter().any(|e| e.consequence == Some(Consequence::Halt));
    let missing = entries.iter().any(|e| e.consequence == Some(Consequence::Missing));
    let read_only = matches!(root, Root::ReadOnly(_)) || asks_read_only(scripts, requests);
    let outcome = match (halts, missing) {
        (true, _) => Outcome::Emergency,
        (false, true) => Outcome::Partial,
        (false, false) => Outcome::Up,
    };
    let absent = entries.iter().filter(|e| e.state.is_absent()).count();
    let ending = match outcome {
        Outcome::Emergency => Ending::Stops { place: scripts.shell.to_owned(), check: true },
        Outcome::Partial => Ending::Without(Absent::Entries(absent)),
        _ => Ending::Whole,
    };
    let verdict = BootVerdict { early_s: 0.0, stall_s: Some(0.0), ending, at_worst: None };
    let name = init.kind.name();
    let mut events: Vec<Event> = entries
        .iter()
        .map(|e| Event { at_s: 0.0, unit: e.target.clone(), what: e.state.words().into() })
        .collect();
    let place = if halts { scripts.shell } else { "login" };
    events.push(Event { at_s: 0.0, unit: place.to_owned(), what: "reached".into() });
    Forecast {
        beside: Vec::new(),
        init: init.version.as_ref().map_or_else(|| name.to_owned(), |v| format!("{name} {v}")),
        model: BootsWith::Scripts(init.kind),
        outcome,
        reaches_login: outcome.reaches_login(),
        ends_in: place.to_owned(),
        ended_by: None,
        stall_s: Some(0.0),
        before_init_s: 0.0,
        verdict,
        root_read_only: read_only,
        local_fs_reached: !halts,
        missing_facts: missing_facts(&entries),
        worst: None,
        not_known: None,
        assumed: match scripts.recorded {
            Some(_) => Vec::new(),
            None => vec![format!("{name} follows the scripts it comes with; no boot of it was recorded")],
        },
        entries,
        events,
    }
}

/// What becomes of each entry by itself, and by those before it.
fn tried(
    record: &Record,
    scripts: &Scripts,
    requests: &[Request<'_>],
    places: &Places<'_, '_>,
) -> Vec<EntryForecast> {
    let lacks = |n: usize, r: &Request<'_>| match (&r.source, r.entry.is_bind()) {
        (Source::Path(path), true) => matches!(places.there(path, n), There::Absent(_)),
        _ => false,
    };
    let mut entries: Vec<EntryForecast> =
        requests.iter().enumerate().map(|(n, r)| entry(record, scripts, r, lacks(n, r))).collect();
    if scripts.programs == Programs::Busybox {
        below_others(places, requests, &mut entries);
    }
    entries
}

/// Entries whose directories lie on what an earlier one mounts: nobody makes them there.
fn below_others(places: &Places<'_, '_>, requests: &[Request<'_>], entries: &mut [EntryForecast]) {
    let mounted = |(n, entry): (usize, &EntryForecast)| (entry.state == EntryState::Mounted).then_some(n);
    let all: Vec<usize> = entries.iter().enumerate().filter_map(mounted).collect();
    for n in all.iter().copied() {
        let Some(target) = requests[n].target.as_deref().filter(|_| !requests[n].is_root()) else { continue };
        if !places.covering(target, n).is_some_and(|above| above < n && all.contains(&above)) {
            continue;
        }
        let (state, why) = match places.there(target, n) {
            There::Absent(why) => (EntryState::Failed, why),
            There::Unknown(why) => (EntryState::Unknown, why),
            There::Facts(_) | There::Target | There::NotLooked => continue,
        };
        let entry = &mut entries[n];
        entry.because(&format!("its directory: {why}"));
        entry.consequence = (state == EntryState::Failed).then_some(Consequence::Missing);
        entry.doubt = (state == EntryState::Unknown).then_some(DoubtSort::NotKnown);
        entry.state = state;
    }
}

/// Entries behind the one at which busybox's `mount -a` may end: whether it does hangs on
/// whether a name is found while it runs.
pub(super) fn may_be_left_out(record: &Record, requests: &[Request<'_>]) -> Vec<(usize, String)> {
    let small = of_host(record).is_some_and(|scripts| scripts.programs == Programs::Busybox);
    let Some(end) = small.then(|| small::ends_at(requests)).flatten() else { return Vec::new() };
    let line = requests[end].line();
    let why = format!("busybox's mount -a ends at line {line} where its server's name is not found");
    let mounts = |(n, r): (usize, &Request<'_>)| {
        (n > end && !r.entry.is_swap() && !r.is_root() && r.trial == Trial::Works).then(|| (n, why.clone()))
    };
    requests.iter().enumerate().filter_map(mounts).collect()
}

fn entry(record: &Record, scripts: &Scripts, request: &Request<'_>, lacks_source: bool) -> EntryForecast {
    let (state, why) = match settle(record, scripts, request) {
        // Scripts make no directory to bind.
        (EntryState::Mounted | EntryState::Unknown, _) if lacks_source => {
            (EntryState::Failed, format!("there is no {}", visible(&request.entry.source)))
        }
        settled => settled,
    };
    let asked = scripts.checks != Checks::None && request.entry.pass > 0;
    let lost = request.lost().filter(|_| asked && check_misses(scripts.checks, request));
    let check_fails = lost.is_some() || (asked && check_objects(request));
    let consequence = match state {
        _ if check_fails && scripts.stops => Some(Consequence::Halt),
        _ if check_fails => Some(Consequence::Missing),
        EntryState::Failed | EntryState::Ignored => Some(Consequence::Missing),
        EntryState::Manual => match &request.need {
            // A disk that is plugged in now and then has its entry so.
            Need::Missing(_) if request.look_alikes().is_empty() => Some(Consequence::Note),
            Need::Missing(_) => Some(Consequence::Risk),
            _ => None,
        },
        _ => None,
    };
    let why = lost.map_or(why, |lost| format!("its check fails: {lost}"));
    EntryForecast {
        line: request.line(),
        source: request.entry.source.clone(),
        target: request.entry.target.clone(),
        state: if check_fails { EntryState::Failed } else { state },
        unit: None,
        stall_s: Some(0.0),
        consequence,
        cause: why.clone(),
        why,
        because_of: None,
        doubt: (state == EntryState::Unknown).then(|| request.doubt().unwrap_or(DoubtSort::Event)),
        lacks_directory: state == EntryState::Failed
            && request.trial == Trial::Works
            && request.lost().is_none()
            && lacks_directory(request),
        on_circle: false,
        chain: Vec::new(),
    }
}

/// Whether root's entry asks for a read-only root, and is heard.
fn asks_read_only(scripts: &Scripts, requests: &[Request<'_>]) -> bool {
    scripts.programs == Programs::System
        && requests.iter().find(|r| r.is_root()).is_some_and(|r| r.entry.switched("ro", "rw"))
}

/// Puts what becomes of root into its entry, and into those that are left out
/// for it.
fn told_of_root(scripts: &Scripts, requests: &[Request<'_>], root: &Root, entries: &mut [EntryForecast]) {
    let read_only =
        matches!(root, Root::ReadOnly(_)) || (*root == Root::Fine && asks_read_only(scripts, requests));
    let (why, consequence) = match root {
        Root::Fine => (None, None),
        Root::ReadOnly(why) => (Some(why), Some(Consequence::Missing)),
        Root::Stops(why) => (Some(why), Some(Consequence::Halt)),
    };
    for (request, entry) in requests.iter().zip(entries) {
        match (request.is_root(), why) {
            (true, Some(why)) => {
                entry.state = EntryState::Failed;
                entry.consequence = consequence;
                entry.because(why);
            }
            // What its device or type is does not matter for a remount.
            (true, None) => {
                entry.state = EntryState::Mounted;
                entry.consequence = None;
                entry.because("");
            }
            (false, _)
                if scripts.read_only == ReadOnly::Rest
                    && read_only
                    && matches!(entry.state, EntryState::Mounted | EntryState::Unknown) =>
            {
                entry.state = EntryState::Blocked;
                entry.consequence = Some(Consequence::Missing);
                entry.because("the scripts that mount it need one that writes to root, which is read-only");
            }
            _ => {}
        }
    }
}

/// Whether a device that is not there fails its check.
fn check_misses(checks: Checks, request: &Request<'_>) -> bool {
    match checks {
        Checks::None | Checks::Present => false,
        Checks::Table => !request.nofail,
        Checks::EachName => matches!(request.source, Source::Tag(..)),
    }
}

/// Whether a check fails on what is there: errors that it cannot mend, or no
/// file system of the kind that is written (e2fsck; recorded).
fn check_objects(request: &Request<'_>) -> bool {
    let by_e2fsck = matches!(request.entry.fstype.as_str(), "ext2" | "ext3" | "ext4");
    let of_other = |c: &Content| !c.fstype.as_deref().is_some_and(|t| t.starts_with("ext"));
    matches!(request.trial, Trial::Fails(Cause::Check, _))
        || (by_e2fsck && request.content().is_some_and(of_other))
}

/// Whether the directory of its target is known not to be there: scripts make
/// none.
fn lacks_directory(request: &Request<'_>) -> bool {
    !request.entry.is_swap() && request.facts.is_some_and(|f| f.kind == PathKind::Absent)
}

fn settle(record: &Record, scripts: &Scripts, request: &Request<'_>) -> (EntryState, String) {
    if request.noauto {
        return (EntryState::Manual, "noauto: not mounted at boot".to_owned());
    }
    // The mount program reads the table here.
    if request.refused && scripts.programs == Programs::System {
        return (EntryState::Ignored, "the mount program passes the line over".to_owned());
    }
    if !request.entry.is_swap() && request.target.is_none() {
        return (EntryState::Ignored, "its target is no path".to_owned());
    }
    let finds = || scripts.programs == Programs::Busybox && small::found(record, &request.entry.source);
    if let Some(lost) = request.lost().filter(|_| !finds()) {
        return (EntryState::Failed, lost);
    }
    if let Need::Unknown(why) = &request.need
        && !finds()
    {
        return (EntryState::Unknown, why.why.clone());
    }
    if scripts.netdev_apart && request.network && request.device().is_some() {
        let why = "_netdev leaves it to the scripts of the network: it is mounted when that comes up";
        return (EntryState::Unknown, why.to_owned());
    }
    let trial = match scripts.programs {
        Programs::System => &request.trial,
        Programs::Busybox => match small(record, request) {
            Small::Fails(why) => return (EntryState::Failed, why),
            Small::Works => &Trial::Works,
            Small::Alike => &request.trial,
        },
    };
    match trial {
        Trial::Fails(Cause::Check, _) if scripts.checks == Checks::None => {
            (EntryState::Mounted, String::new())
        }
        Trial::Fails(_, why) => (EntryState::Failed, why.clone()),
        Trial::Unknown(why) => (EntryState::Unknown, why.why.clone()),
        // Units are nothing to scripts.
        Trial::PassedOver(_) => (EntryState::Mounted, String::new()),
        Trial::Works if request.entry.is_swap() => (EntryState::Active, String::new()),
        Trial::Works if lacks_directory(request) => {
            (EntryState::Failed, format!("there is no directory {}", visible(&request.entry.target)))
        }
        Trial::Works => (EntryState::Mounted, String::new()),
    }
}

#[cfg(test)]
mod tests {
    use super::super::requests;
    use super::*;
    use bradawl_facts::record::DeviceKind;
    use bradawl_facts::record::{Content, ContentKind, Device};
    use bradawl_facts::table::Table;

    #[test]
    fn each_goes_about_it_in_its_own_way() {
        let table =
            Table::parse("LABEL=lost /srv/lost ext4 defaults 0 2\nLABEL=hurt /srv/hurt ext4 defaults 0 2\n");
        let mut hurt = Device::new("/dev/vdb", DeviceKind::Disk);
        let content = Content::new(ContentKind::Filesystem, Some("ext4"));
        hurt.content = Some(Content { label: Some("hurt".into()), state: Some("errors".into()), ..content });
        let states = |kind: InitKind| {
            let mut record = Record::new("kelp");
            record.host.init = Some(Init::new(kind, None));
            record.devices = Some(vec![hurt.clone()]);
            let index = Index::new(&record);
            let forecast = forecast(&record, &index, &requests(&record, &index, &table)).unwrap();
            (forecast.outcome, forecast.entries.iter().map(|e| e.consequence).collect::<Vec<_>>())
        };
        use Consequence::{Halt, Missing};
        assert_eq!(states(InitKind::Sysvinit), (Outcome::Emergency, vec![Some(Halt), Some(Halt)]));
        assert_eq!(states(InitKind::Openrc), (Outcome::Emergency, vec![Some(Missing), Some(Halt)]));
        assert_eq!(states(InitKind::Busybox), (Outcome::Partial, vec![Some(Missing), None]));
    }
}
