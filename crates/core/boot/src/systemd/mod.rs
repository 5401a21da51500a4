//! systemd's boot: entries become units; devices are waited for side by side;
//! a required local mount that fails ends in emergency mode.
//!
//! What is modelled follows systemd.mount(5), systemd-fstab-generator(8) and
//! 127 recorded boots of version 252 (test `truth_boots`).

mod assumed;
mod by_hand;
mod circle;
mod containers;
mod differs;
mod duplicates;
mod ending;
mod extra;
mod generator;
mod goal;
mod graph;
mod masks;
mod names;
mod rejected;
mod reversed;
mod settle;
mod simulate;
mod swap_units;
mod units;

pub use containers::{Container, containers};
pub use differs::{Difference, differences, made_lines, told_lines};
pub use goal::OtherGoal;
pub use swap_units::{LostSwap, lost_swaps};
pub use units::{DropIn, Link, Tie, Unit, Units};

use super::by_type::{ByType, by_type, mounted_unasked};
use super::conditions::{Conditions, conditions};
use super::early::{by_initramfs_tools, degraded, mounts_usr};
use super::forecast::{EntryForecast, EntryState, Forecast, Outcome, missing_facts};
use super::request::Request;
use super::unit_name::device_unit;
use assumed::assumed;
use bradawl_catalogue::SystemdVersion;
use bradawl_facts::Consequence;
use bradawl_facts::map::Set;
use bradawl_facts::path::is_within;
use bradawl_facts::record::CommandLine;
use bradawl_facts::record::Record;
use bradawl_facts::size::seconds;
use bradawl_facts::text::visible;
use bradawl_facts::timespan::parse_timespan;
use bradawl_resolve::{Index, Resolution, Source};
use duplicates::{PassedOver, PassedOverAll, passed_over};
use goal::Goal;
use graph::{Graph, World};
use masks::Masks;
use settle::{Played, Settled};
use std::borrow::Cow;

/// How long a lost device is waited for when nothing is configured.
const DEVICE_TIMEOUT_S: f64 = 90.0;

/// The units that the generator makes of a table.
pub fn units(record: &Record, requests: &[Request<'_>]) -> Units {
    let passed = passed_over(requests, SystemdVersion::of(record)).each;
    let used = requests.iter().zip(passed).filter(|(_, p)| p.as_ref().is_none_or(|p| p.made)).map(|(r, _)| r);
    let mut made = Units::default();
    generator::generate(used, SystemdVersion::of(record), &generator::checkers(record), &mut made);
    made.links.sort();
    made.links.dedup();
    made
}

/// The entry at which the init system's generator aborts, the place of the option
/// in its list, and the option's words: it and all entries after it do not
/// exist for the boot. Then the later entries at which it would abort next.
pub fn generator_aborts<'r, 'a>(
    record: &Record,
    requests: &'r [Request<'a>],
) -> Vec<(&'r Request<'a>, usize, &'static str)> {
    let first = passed_over(requests, SystemdVersion::of(record)).aborted;
    let Some(first) = first.filter(|_| record.host.boots_with().is_systemd()) else { return Vec::new() };
    let there = requests.iter().filter(|r| r.line() >= first);
    there.filter_map(|r| rejected::abort(r).map(|(place, words)| (r, place, words))).collect()
}

/// `attended`: whether somebody types what the boot asks for.
pub(super) fn forecast(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
    attended: bool,
) -> Forecast {
    let goal = match other_goal(record) {
        Some(_) => Goal::of(record),
        None => Goal::Login,
    };
    let mut extra = extra::extra(record, index);
    extra.extend(extra::own_units(record, index, requests));
    let own = requests.len();
    let requests: Cow<'_, [Request<'_>]> = match extra.is_empty() {
        true => Cow::Borrowed(requests),
        false => Cow::Owned(requests.iter().cloned().chain(extra).collect()),
    };
    let requests = requests.as_ref();
    let mut forecast = boot(record, index, requests, goal, attended);
    if let Some(word) = goal.word() {
        let usual = boot(record, index, requests, Goal::Login, attended);
        let why = format!("the kernel's command line has {}; without it {}", visible(word), usual.verdict);
        forecast.ended_by = Some(why);
    }
    forecast.beside = forecast.entries.split_off(own);
    if let Some(added) = forecast.beside.iter().find(|e| e.consequence == Some(Consequence::Halt))
        && forecast.ended_by.is_none()
    {
        let target = visible(&added.target);
        let by_unit = record.units.iter().flatten().any(|u| Some(&u.name) == added.unit.as_ref());
        let who = if by_unit { "a unit file of the host's own" } else { "the kernel's command line" };
        forecast.ended_by = Some(format!("{who} adds a mount on {target}: {}", added.why));
    }
    forecast
}

/// The word of the kernel's command line that asks for a boot without login,
/// and where that stops; `None` for other init systems.
pub fn other_goal(record: &Record) -> Option<OtherGoal<'_>> {
    let boots = record.host.boots_with().is_systemd() && record.host.container != Some(true);
    Goal::of(record).other().filter(|_| boots)
}

fn boot(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
    goal: Goal<'_>,
    attended: bool,
) -> Forecast {
    let line = CommandLine::of(record);
    let PassedOverAll { each: passed, aborted } = passed_over_in(line, requests, SystemdVersion::of(record));
    let each = |unless: bool| passed.iter().map(|p| p.as_ref().map_or(unless, |p| p.half)).collect();
    let (used, half): (Vec<bool>, Vec<bool>) = (each(true), each(false));
    let unfinished = rejected::unfinished(requests, &half);
    let requests = unfinished.as_deref().unwrap_or(requests);
    let world = World {
        version: SystemdVersion::of(record),
        device_timeout: device_timeout(record),
        has_checker: &generator::checkers(record),
        lost: &|path| matches!(index.resolve(&Source::parse(path)), Resolution::Absent),
        degraded: degraded(record, index, requests),
        usr_is_early: mounts_usr(record),
        services: record.services.as_deref().unwrap_or_default(),
        local: record.units.as_deref().unwrap_or_default(),
    };
    let mut graph = Graph::new(requests, &used, &world);
    let lost_swaps = lost_swaps(record, index, requests);
    lost_swaps.iter().for_each(|lost| lost.add_to(&mut graph));
    let containers = containers(record, index, requests);
    containers.iter().for_each(|container| container.add_to(&mut graph, attended));
    let masks = Masks::of(record);
    let switched = switch_off(record, requests, &masks, &mut graph);
    line.values("systemd.wants").iter().for_each(|unit| graph.want(goal, unit));
    let barred = graph.barred();
    let mut started = graph.started(goal, &barred);
    let generated = !line.denies("fstab") && aborted.is_none();
    let in_reach = graph.find("local-fs.target").is_none_or(|id| started[id]) && !switched.without_local_fs;
    let remounts = generated && in_reach && remounts_root(record, index, &masks);
    let circle = circle::leave_out(&graph, requests.len(), &mut started);
    let ends = simulate::simulate(&graph, requests, &started);
    let played = Played {
        requests,
        goal,
        graph: &graph,
        started: &started,
        barred: &barred,
        ends: &ends,
        passed_over: &passed,
        circle: &circle,
        switched: &switched,
    };
    let ending = ending::Close::new(&played);
    let settled = requests.iter().zip(played.settled()).enumerate();
    let mut entries: Vec<EntryForecast> = settled.map(|(n, (r, s))| entry(n, r, s, &ending)).collect();
    mount_by_type(record, index, requests, &mut entries);
    let mut forecast = with_root(record, requests, entries, remounts, &ending);
    if forecast.outcome.reaches_login() && !lost_swaps.is_empty() {
        forecast.lose_swaps(lost_swaps.iter().flat_map(LostSwap::events));
    }
    assume(record, requests, &containers, &mut forecast);
    forecast.assumed.extend(by_type(record, index, requests).iter().map(taken_by_type));
    forecast
}

/// Whether root's own service runs and finds what it needs.
fn remounts_root(record: &Record, index: &Index<'_>, masks: &Masks) -> bool {
    !masks.has("systemd-remount-fs.service") && remount_runs(record, index)
}

/// Has entries mounted that would be left alone but for a partition's type.
fn mount_by_type(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
    entries: &mut [EntryForecast],
) {
    for place in mounted_unasked(record, index, requests) {
        let entry = &mut entries[place];
        if entry.state == EntryState::Manual {
            entry.state = EntryState::Mounted;
            entry.because("noauto or not, for a partition of this directory's type is there");
        }
    }
}

/// The boot with root writable or not: `remounts`, whether its remount is started.
fn with_root(
    record: &Record,
    requests: &[Request<'_>],
    mut entries: Vec<EntryForecast>,
    remounts: bool,
    ending: &ending::Close<'_>,
) -> Forecast {
    let read_only = ending::root_read_only(record, requests, remounts);
    let asked_read_only = ending::root_asked_read_only(record, requests, remounts);
    if read_only || asked_read_only {
        refuse_swap_files(requests, &mut entries);
    }
    let mut forecast = told(record, entries, read_only, ending);
    forecast.root_read_only |= asked_read_only;
    forecast
}

/// Swap is activated in no file that cannot be written, and so in none on a root that
/// stays read-only (recorded).
fn refuse_swap_files(requests: &[Request<'_>], entries: &mut [EntryForecast]) {
    let mounted = |path: &str| {
        let target = |r: &Request<'_>| r.target.as_deref().is_some_and(|t| t != "/" && is_within(path, t));
        requests.iter().any(target)
    };
    for (request, entry) in requests.iter().zip(entries) {
        let on_root = matches!(&request.source, Source::Path(path) if !mounted(path));
        if request.entry.is_swap() && entry.state == EntryState::Active && on_root {
            entry.state = EntryState::Failed;
            entry.consequence = Some(Consequence::Missing);
            entry.because("root stays read-only, and swap needs a file that can be written");
        }
    }
}

/// What is supposed of a partition that no entry names.
fn taken_by_type(taken: &ByType<'_>) -> String {
    let path = visible(&taken.device.path);
    match taken.target {
        Some(target) => format!("{path} is mounted on {target} by its partition type, if that is empty"),
        None => format!("{path} is swapped on by its partition type, for the table has no swap"),
    }
}

/// What is seen and supposed of containers, and of what is not played.
fn assume(record: &Record, requests: &[Request<'_>], containers: &[Container], forecast: &mut Forecast) {
    forecast.see_beside(containers.iter().flat_map(Container::events));
    forecast.assumed.extend(requests.iter().filter_map(|r| unplayed_option(record, r)));
    forecast.assumed.extend(containers.iter().flat_map(Container::assumptions));
    let asking = containers.iter().filter(|c| c.asks() && !c.lost);
    forecast
        .assumed
        .extend(asking.map(|c| format!("somebody types the passphrase of {}", visible(&c.entry.name))));
}

/// An option of an entry that is not played, and what it does.
fn unplayed_option(record: &Record, request: &Request<'_>) -> Option<String> {
    let asks = |name: &str| request.entry.has(name);
    let (name, does) = match () {
        () if asks("x-systemd.validatefs") => {
            ("x-systemd.validatefs", "a file system without the right marks is not mounted")
        }
        () if asks("x-initrd.mount") && !by_initramfs_tools(record) => {
            ("x-initrd.mount", "a systemd inside the initramfs mounts it before everything else")
        }
        () => return None,
    };
    Some(format!("line {}: {name} is not looked into: {does}", request.line()))
}

/// What the boot does without, because units are switched off or missing.
#[derive(Debug, Clone, Copy, Default)]
struct SwitchedUnits {
    /// local-fs.target is started without what demands it, or not at all.
    without_local_fs: bool,
    /// It counts as reached although what it demands was not started: before
    /// 254 (recorded with 252).
    reached_all_the_same: bool,
    /// There is no emergency mode to fall into: the boot continues (recorded).
    no_emergency: bool,
}

/// Takes out of the graph what is switched off, and what local-fs.target cannot be
/// started with.
fn switch_off(
    record: &Record,
    requests: &[Request<'_>],
    masks: &Masks<'_>,
    graph: &mut Graph<'_>,
) -> SwitchedUnits {
    let broken = requires_nothing(record, requests, masks);
    let bars = SystemdVersion::of(record).bars_broken();
    let masked: Set<&str> =
        record.services.iter().flatten().filter(|s| s.masked).map(|s| s.name.as_str()).collect();
    let is_broken = |n: usize| {
        let request = &requests[n];
        let asks_masked = || required(request).any(|name| masked.contains(name));
        request.unloadable().is_some() || request.automount || asks_masked()
    };
    let itself = masks.has("local-fs.target");
    masks.targets().filter(|name| *name != "local-fs.target").for_each(|name| graph.bar(name));
    match broken {
        _ if itself => graph.bar_local_fs(None),
        // What cannot be loaded, or is masked, keeps the others from being started in every
        // version (recorded).
        Some(n) if bars || is_broken(n) => graph.bar_local_fs(Some(n)),
        Some(_) => graph.free_local_fs(),
        None => {}
    }
    SwitchedUnits {
        without_local_fs: broken.is_some(),
        reached_all_the_same: !bars && !itself,
        no_emergency: masks.has("emergency.target")
            || masks.has("emergency.service")
            || fails_quietly(record),
    }
}

/// Whether the service that remounts root runs: its drop-ins may have conditions.
fn remount_runs(record: &Record, index: &Index<'_>) -> bool {
    let unit = index.unit("systemd-remount-fs.service").filter(|unit| !unit.masked);
    let held = unit.as_ref().map(|unit| conditions(record, index, unit));
    !matches!(held, Some(Conditions::PassedOver(_) | Conditions::Denied(_)))
        && unit.is_none_or(|unit| unit.exec.is_none())
}

/// Whether a drop-in has the failure of local-fs.target start nothing that is in the way of
/// what is queued: emergency mode is (recorded).
fn fails_quietly(record: &Record) -> bool {
    if !SystemdVersion::of(record).emergency_yields() {
        return false;
    }
    let targets = record.units.iter().flatten().filter(|u| u.name == "local-fs.target");
    targets.filter_map(|u| u.failure_mode.as_deref()).any(|mode| mode == "fail")
}

/// The entry that boot demands and whose unit cannot be loaded, or that requires
/// a unit for which there is no file: local-fs.target is not started with the
/// rest then, so that nothing waits for mounts and none stops the boot, and root
/// is not remounted (recorded).
///
/// So it is with a check that is switched off (recorded with 252).
fn requires_nothing(record: &Record, requests: &[Request<'_>], masks: &Masks<'_>) -> Option<usize> {
    let of_no_use = record.services.iter().flatten().filter(|s| !s.found || s.masked);
    let absent: Set<&str> = of_no_use.map(|s| s.name.as_str()).collect();
    // Of a swap nothing but swap.target, which nobody requires, is kept off.
    let waited =
        |r: &Request<'_>| r.is_waited_for() && !r.noauto && !r.network && !r.lost && !r.entry.is_swap();
    let demanded = |r: &Request<'_>| waited(r) && !r.automount;
    let watched = |r: &Request<'_>| waited(r) && r.automount && masks.has(&automount_unit(r));
    let asks = |r: &Request<'_>| required(r).any(|name| absent.contains(name));
    let has_checker = generator::checkers(record);
    let unchecked = |r: &Request<'_>| {
        let device = device_unit(&r.path);
        let check = format!("systemd-fsck@{}.service", device.trim_end_matches(".device"));
        masks.has(&check) && generator::checked(r, &has_checker) == Some(Tie::Requires)
    };
    requests
        .iter()
        .position(|r| watched(r) || demanded(r) && (r.unloadable().is_some() || asks(r) || unchecked(r)))
}

/// The units that an entry requires, by its options and its unit's files.
fn required<'r>(request: &'r Request<'_>) -> impl Iterator<Item = &'r str> {
    let named = request.entry.options.iter().filter(|o| o.name == "x-systemd.requires");
    let by_file = request.local_unit.iter().flat_map(|u| &u.requires).map(String::as_str);
    named.filter_map(|o| o.value.as_deref()).chain(by_file)
}

/// The automount of an entry, by its name.
fn automount_unit(request: &Request<'_>) -> String {
    request.unit.replace(".mount", ".automount")
}

/// Why no unit is made for each request, be it because the kernel's command
/// line switches the table or all swap off.
fn passed_over_in(line: CommandLine<'_>, requests: &[Request<'_>], version: SystemdVersion) -> PassedOverAll {
    let mut all = passed_over(requests, version);
    let passed = &mut all.each;
    let mut pass_over = |setting: &str, concerned: fn(&Request<'_>) -> bool| {
        for (passed, _) in passed.iter_mut().zip(requests).filter(|(_, r)| concerned(r)) {
            let why = format!("{setting}= on the kernel's command line switches it off");
            *passed = Some(PassedOver { why, repeats: false, half: false, made: false });
        }
    };
    if line.denies("fstab") {
        pass_over("fstab", |r| !r.is_root() && r.line() > 0);
    }
    if line.denies("systemd.swap") {
        pass_over("systemd.swap", |r| r.entry.is_swap());
    }
    all
}

/// How long a lost device is waited for; `None`: without end.
fn device_timeout(record: &Record) -> Option<f64> {
    let init = record.host.init.as_ref();
    let configured = match SystemdVersion::of(record).has_device_timeout() {
        true => init.and_then(|i| i.device_timeout_s),
        false => init.and_then(|i| i.device_timeout_s.or(i.start_timeout_s)),
    };
    let endless = init.is_some_and(|i| i.waits_endlessly);
    let line = CommandLine::of(record);
    let on_line = match SystemdVersion::of(record).device_timeout_setting() {
        Some(name) => line.values(name).last().and_then(|value| parse_timespan(value)),
        None => None,
    };
    // There 0 is without end, in system.conf it is at once (recorded with 257 and 252).
    let on_line = on_line.map(|limit| limit.filter(|s| *s > 0.0));
    on_line.unwrap_or(if endless { None } else { Some(configured.unwrap_or(DEVICE_TIMEOUT_S)) })
}

fn told(
    record: &Record,
    entries: Vec<EntryForecast>,
    read_only: bool,
    ending: &ending::Close<'_>,
) -> Forecast {
    let (outcome, stall_s) = ending.outcome(&entries, read_only);
    let events = ending::events(&entries, outcome, stall_s, ending.place());
    Forecast {
        init: init_name(record),
        model: record.host.boots_with(),
        outcome,
        reaches_login: outcome.reaches_login(),
        ends_in: match outcome {
            Outcome::Never => "never".to_owned(),
            Outcome::Emergency => ending.place().to_owned(),
            _ => "login".to_owned(),
        },
        ended_by: None,
        stall_s,
        before_init_s: 0.0,
        verdict: ending::verdict(outcome, stall_s, &entries, read_only, ending.stop()),
        root_read_only: read_only,
        local_fs_reached: ending.reaches_local_fs(),
        missing_facts: missing_facts(&entries),
        worst: None,
        not_known: None,
        assumed: assumed(record, &entries),
        beside: Vec::new(),
        entries,
        events,
    }
}

fn entry(n: usize, request: &Request<'_>, settled: Settled, ending: &ending::Close<'_>) -> EntryForecast {
    let made = settled.state != EntryState::Ignored;
    EntryForecast {
        line: request.line(),
        source: request.entry.source.clone(),
        target: request.entry.target.clone(),
        unit: if made { settle::unit(request).map(str::to_owned) } else { None },
        consequence: ending.consequence(n, request, &settled),
        state: settled.state,
        stall_s: settled.at,
        why: match settled.state {
            EntryState::TimedOut => format!("{}; waits {}", settled.why, seconds(settled.limit)),
            _ => settled.why.clone(),
        },
        cause: settled.why,
        because_of: settled.because_of,
        doubt: settled.doubt,
        lacks_directory: false,
        on_circle: settled.on_circle,
        chain: Vec::new(),
    }
}

fn init_name(record: &Record) -> String {
    let version = record.host.init.as_ref().and_then(|i| i.version.as_deref());
    version.map_or_else(|| "systemd".to_owned(), |v| format!("systemd {v}"))
}

#[cfg(test)]
mod tests {
    use super::super::{forecast, requests};
    use super::*;
    use bradawl_facts::record::InitKind;
    use bradawl_facts::record::LocalUnit;
    use bradawl_facts::table::Table;

    fn boot(record: &Record, table: &str) -> Forecast {
        let index = Index::new(record);
        forecast(record, &index, &requests(record, &index, &Table::parse(table)))
    }

    fn states(forecast: &Forecast) -> Vec<EntryState> {
        forecast.entries.iter().map(|e| e.state).collect()
    }

    fn host() -> Record {
        let mut record = Record::new("sounding");
        record.devices = Some(Vec::new());
        record
    }

    #[test]
    fn a_manual_parent_is_pulled_in() {
        use EntryState::{Blocked, Manual, Mounted, TimedOut};
        let boot = |table: &str| states(&boot(&host(), table));
        assert_eq!(boot("LABEL=a /srv/a ext4 noauto\ntmpfs /srv/a/b tmpfs\n"), [TimedOut, Blocked]);
        assert_eq!(boot("LABEL=a /srv/a ext4 noauto\ntmpfs /srv/ab tmpfs\n"), [Manual, Mounted]);
    }

    #[test]
    fn the_first_to_give_up_ends_a_chain() {
        let table = "LABEL=a /srv/a ext4 x-systemd.device-timeout=30\nLABEL=b /srv/a/b ext4 defaults\n";
        let forecast = boot(&host(), table);
        assert_eq!((forecast.entries[1].stall_s, forecast.stall_s), (Some(30.0), Some(30.0)));
    }

    #[test]
    fn large_circles_and_long_chains_end() {
        let line = |n: usize| {
            let all: Vec<String> = (0..20).map(|m| format!("x-systemd.requires-mounts-for=/m/{m}")).collect();
            format!("tmpfs /m/{n} tmpfs {}\n", all.join(","))
        };
        let circle: String = (0..20).map(line).collect();
        let states_of_circle = states(&boot(&host(), &circle));
        assert!(states_of_circle.contains(&EntryState::Blocked) && states_of_circle.len() == 20);
        let line = |n: usize| format!("tmpfs /m/{n} tmpfs x-systemd.requires-mounts-for=/m/{}\n", n + 1);
        let chain: String = (0..5_000).map(line).collect();
        assert!(states(&boot(&host(), &chain)).iter().all(|s| *s == EntryState::Mounted));
    }

    #[test]
    fn drop_ins_change_single_settings() {
        let mut record = host();
        let unit = LocalUnit {
            name: "srv-t.mount".into(),
            drop_ins: true,
            options: Some("size=lots".into()),
            ..LocalUnit::default()
        };
        record.host.kernel = Some("6.1".into());
        record.units = Some(vec![unit]);
        assert_eq!(states(&boot(&record, "tmpfs /srv/t tmpfs size=1G\n")), [EntryState::Failed]);
    }

    #[test]
    fn the_command_line_has_a_say() {
        let mut record = host();
        let table = "LABEL=a / ext4\nLABEL=b /srv/b ext4\n";
        record.command_line = Some("ro fstab=no".into());
        assert_eq!(states(&boot(&record, table))[1], EntryState::Ignored);
        record.command_line = Some("rw systemd.default_device_timeout_sec=7".into());
        assert_eq!(boot(&record, table).stall_s, Some(90.0));
        record.host.init = Some(bradawl_facts::record::Init::new(InitKind::Systemd, Some("257")));
        assert_eq!(boot(&record, table).stall_s, Some(7.0));
        record.command_line = Some("rw systemd.swap=0".into());
        assert_eq!(states(&boot(&record, "LABEL=c none swap\n")), [EntryState::Ignored]);
        record.command_line = Some("rw systemd.mask=srv-b.mount".into());
        let off = boot(&record, table);
        assert_eq!((states(&off)[1], off.stall_s), (EntryState::Ignored, Some(0.0)));
        assert!(off.entries[1].why.contains("command line"));
    }

    #[test]
    fn versions_differ() {
        let at = |version: &str| {
            let mut record = host();
            record.host.init = Some(bradawl_facts::record::Init::new(InitKind::Systemd, Some(version)));
            let list = "x-systemd.wanted-by=multi-user.target,x-systemd.device-timeout=6";
            boot(&record, &format!("LABEL=a /srv/a ext4 {list}\n")).stall_s
        };
        assert_eq!((at("252"), at("257")), (Some(6.0), Some(0.0)));
    }
}
