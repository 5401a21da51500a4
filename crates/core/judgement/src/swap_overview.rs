//! All swap of a host: what is active now, what the table asks for, what will
//! be there after a reboot.

use ahash::AHashMap as HashMap;
use bradawl_boot::swap::{Activation, Fate, Priority};
use bradawl_boot::zram::compressed;
use bradawl_boot::{EntryState, Forecast, Need, Request, activation_of, by_type, resume_setting};
use bradawl_facts::record::{ActiveSwap, CommandLine, Device, DeviceKind, Record, ZramDevice};
use bradawl_resolve::{Index, Resolution, Source};

/// All swap of a host.
#[derive(Debug, Clone, PartialEq)]
pub struct Overview {
    /// Main memory, in bytes.
    pub memory: Option<u64>,
    /// The areas: those in use first, by priority.
    pub areas: Vec<AreaNow>,
    /// Sums over them.
    pub totals: SwapTotals,
    /// The order of use after a reboot, in words.
    pub order: String,
    /// Whether the host can be put to sleep on disk.
    pub hibernation: Hibernation,
}

/// One area.
#[derive(Debug, Clone, PartialEq)]
pub struct AreaNow {
    /// The device or file, as the kernel names it; the source of the entry
    /// when it is not there.
    pub path: String,
    /// What it is: disk, file, compressed memory.
    pub kind: AreaKind,
    /// Bytes that can be swapped to; null: not known.
    pub size: Option<u64>,
    /// Bytes in use; null: it is not active.
    pub used: Option<u64>,
    /// Its priority now; null: it is not active.
    pub priority_now: Option<i32>,
    /// Line of its entry; null: the table has none.
    pub line: Option<usize>,
    /// The priority that the entry gives; null: the table has none.
    pub priority: Option<Priority>,
    /// Whether it will be active after a reboot; null: not known.
    pub after_reboot: Option<bool>,
    /// What is wrong with it, in words.
    pub faults: Vec<String>,
}

/// What an area lies in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum AreaKind {
    /// A device.
    Device,
    /// A file.
    File,
    /// Compressed memory (zram).
    Zram,
}

/// Sums, in bytes.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct SwapTotals {
    /// Active now.
    pub now: u64,
    /// In use now.
    pub used: u64,
    /// Active once the table is applied to the running host (`swapon -a`).
    pub applied: u64,
    /// Active after a reboot, as far as sizes are known.
    pub after_reboot: u64,
}

/// Whether and where the memory could be written to be resumed from.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Hibernation {
    /// What the boot is told to resume from; null: nothing.
    pub resume: Option<String>,
    /// Whether that is an area that will be there; null: nothing to resume from.
    pub resume_found: Option<bool>,
    /// Bytes of the largest area on a disk after a reboot.
    pub largest: u64,
    /// Whether a hibernation image fits there; null: not known.
    pub fits: Option<bool>,
}

/// Looks at all swap of a host, in the light of a table's requests and boot.
pub fn overview(
    record: &Record,
    index: &Index<'_>,
    requests: &[Request<'_>],
    forecast: &Forecast,
) -> Overview {
    let taken = by_type(record, index, requests);
    let is_taken = |path: &str| taken.iter().any(|t| t.target.is_none() && t.device.path == path);
    let now = record.swaps.iter().flatten();
    let mut areas: Vec<AreaNow> = now.map(|s| active(record, index, s, is_taken(&s.path))).collect();
    let states: HashMap<usize, EntryState> = forecast.entries.iter().map(|e| (e.line, e.state)).collect();
    for request in requests.iter().filter(|r| r.entry.is_swap()) {
        let state = states.get(&request.line()).copied();
        let asked = of_entry(record, index, request, state);
        match areas.iter_mut().find(|a| a.line.is_none() && is_same(index, a, request)) {
            Some(area) => {
                let (used, priority_now, kind) = (area.used, area.priority_now, area.kind);
                let size = area.size.or(asked.size);
                *area = AreaNow { path: area.path.clone(), used, priority_now, kind, size, ..asked };
            }
            None => areas.push(asked),
        }
    }
    areas.sort_by_key(|a| (std::cmp::Reverse(a.priority_now), std::cmp::Reverse(a.priority)));
    let sum = |size: &dyn Fn(&AreaNow) -> u64| areas.iter().map(size).sum();
    let totals = SwapTotals {
        now: sum(&|a| a.size.filter(|_| a.used.is_some()).unwrap_or(0)),
        used: sum(&|a| a.used.unwrap_or(0)),
        applied: sum(&|a| a.size.filter(|_| a.used.is_some() || a.after_reboot == Some(true)).unwrap_or(0)),
        after_reboot: sum(&|a| a.size.filter(|_| a.after_reboot == Some(true)).unwrap_or(0)),
    };
    let memory = record.memory.map(|m| m.total);
    let hibernation = hibernation(record, index, &areas, memory);
    Overview { memory, totals, order: order(&areas), hibernation, areas }
}

/// `taken`: the boot takes it by the type of its partition.
fn active(record: &Record, index: &Index<'_>, swap: &ActiveSwap, taken: bool) -> AreaNow {
    let device = index.device(&swap.path);
    let kind = match device.map(|d| d.kind) {
        Some(DeviceKind::Zram) => AreaKind::Zram,
        Some(_) => AreaKind::Device,
        None if swap.path.starts_with("/dev/") => AreaKind::Device,
        None => AreaKind::File,
    };
    AreaNow {
        path: swap.path.clone(),
        kind,
        size: Some(swap.size),
        used: Some(swap.used),
        priority_now: Some(swap.priority),
        line: None,
        priority: None,
        after_reboot: match kind {
            AreaKind::Zram => made_again(record, &swap.path),
            _ => Some(taken || of_unit(record, &swap.path, device)),
        },
        faults: Vec::new(),
    }
}

/// Whether a swap unit written by hand activates it at boot.
fn of_unit(record: &Record, path: &str, device: Option<&Device>) -> bool {
    let units = record.units.iter().flatten().filter(|u| u.name.ends_with(".swap") && !u.masked);
    let names = |what: &str| what == path || device.is_some_and(|d| d.path == what || links(d, what));
    units.filter(|u| u.wanted == Some(true)).filter_map(|u| u.what.as_deref()).any(names)
}

/// Whether compressed memory is made again at boot: when the generator is told
/// so; another service may do it too.
fn made_again(record: &Record, path: &str) -> Option<bool> {
    let name = path.strip_prefix("/dev/")?;
    let told = compressed(record)?;
    let is_it = |d: &ZramDevice| d.name == name && d.priority.is_some();
    if told.iter().any(is_it) {
        Some(true)
    } else {
        CommandLine::of(record).denies("systemd.zram").then_some(false)
    }
}

fn links(device: &Device, path: &str) -> bool {
    device.links.iter().flatten().any(|l| l == path)
}

fn is_same(index: &Index<'_>, area: &AreaNow, request: &Request<'_>) -> bool {
    let device = index.device(&area.path);
    match (request.device(), device) {
        (Some(asked), Some(active)) => asked.path == active.path,
        _ => {
            request
                .facts_of_file(index)
                .map_or(request.path.as_str(), |f| f.canonical.as_deref().unwrap_or(&f.path))
                == area.path
        }
    }
}

fn of_entry(record: &Record, index: &Index<'_>, request: &Request<'_>, state: Option<EntryState>) -> AreaNow {
    let file = request.facts_of_file(index);
    let Activation { fate, priority, warnings } = activation_of(record, index, request);
    let content = request.content().or_else(|| file.and_then(|f| f.content.as_ref()));
    // The header's page is not swapped to, nor are bad ones.
    let page = content.and_then(|c| c.block_size).unwrap_or(4096);
    let bad = content.and_then(|c| c.bad_pages).map_or(0, u64::from);
    let size = content.and_then(|c| c.size).map(|s| s.saturating_sub(page * (1 + bad)));
    let mut faults: Vec<String> = match fate {
        _ if matches!(request.need, Need::Missing(_)) => vec!["no device matches its name".to_owned()],
        Fate::Refused(why) | Fate::Unknown(why) => vec![why],
        Fate::Taken => Vec::new(),
    };
    faults.extend(warnings.iter().map(|w| w.words()));
    AreaNow {
        path: request.device().map_or_else(|| request.entry.source.clone(), |d| d.path.clone()),
        kind: if matches!(request.source, Source::Path(_)) { AreaKind::File } else { AreaKind::Device },
        size,
        used: None,
        priority_now: None,
        line: Some(request.line()),
        priority: Some(priority),
        after_reboot: match state {
            Some(EntryState::Active) => Some(true),
            Some(EntryState::Unknown) | None => None,
            Some(_) => Some(false),
        },
        faults,
    }
}

/// `zram0 first, then sda3 and sdb1 in turn, …`
fn order(areas: &[AreaNow]) -> String {
    let mut kept: Vec<(Priority, &AreaNow)> = Vec::new();
    for area in areas.iter().filter(|a| a.after_reboot == Some(true)) {
        let now = area.priority_now.map(|n| if n < 0 { Priority::Automatic } else { Priority::Given(n) });
        kept.push((area.priority.or(now).unwrap_or(Priority::Automatic), area));
    }
    // Automatic ones follow each other in the order of the table.
    kept.sort_by_key(|(priority, area)| (std::cmp::Reverse(*priority), area.line));
    let mut groups: Vec<String> = Vec::new();
    let mut n = 0;
    while n < kept.len() {
        let (priority, _) = kept[n];
        let same = kept[n..]
            .iter()
            .take_while(|(p, _)| *p == priority && priority != Priority::Automatic)
            .count()
            .max(1);
        let names: Vec<String> = kept[n..n + same].iter().map(|(_, a)| a.path.clone()).collect();
        let turn = if same > 1 { " in turn" } else { "" };
        groups.push(format!("{}{turn}", bradawl_facts::text::list(&names)));
        n += same;
    }
    match groups.as_slice() {
        [] => "nothing".to_owned(),
        [one] => one.clone(),
        [first, rest @ ..] => format!("first {first}, then {}", rest.join(", then ")),
    }
}

fn hibernation(record: &Record, index: &Index<'_>, areas: &[AreaNow], memory: Option<u64>) -> Hibernation {
    let resume = resume_setting(record).map(|s| s.name.to_owned());
    let there = |a: &&AreaNow| a.after_reboot == Some(true) && a.kind != AreaKind::Zram;
    let largest = areas.iter().filter(there).filter_map(|a| a.size).max().unwrap_or(0);
    let resume_found = resume.as_ref().map(|name| match index.resolve(&Source::parse(name)) {
        Resolution::Found(devices) => {
            areas.iter().filter(there).any(|a| devices.iter().any(|d| d.path == a.path))
        }
        _ => false,
    });
    Hibernation { resume, resume_found, largest, fits: memory.map(|m| largest >= m) }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_boot::{forecast, requests};
    use bradawl_facts::record::{Content, ContentKind, Memory, Swapping};
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host};

    const PAGE: u64 = 4096;

    fn area(path: &str, kind: DeviceKind, size: u64) -> Device {
        let mut content = Content::new(ContentKind::Swap, Some("swap"));
        content.label = path.strip_prefix("/dev/").map(str::to_owned);
        (content.block_size, content.size) = (Some(PAGE), Some(size));
        Device { content: Some(content), size: Some(size), ..Device::new(path, kind) }
    }

    fn active(path: &str, size: u64, used: u64, priority: i32) -> ActiveSwap {
        ActiveSwap { path: path.into(), size: size - PAGE, used, priority }
    }

    /// Compressed memory, a fast and a slow disk, and a disk for hibernation.
    fn record() -> Record {
        let mut record = host();
        record.memory = Some(Memory { total: 8_000_000_000, swap_total: None, swap_free: None });
        record.command_line = Some("root=LABEL=hull resume=LABEL=deep ro".into());
        record.swapping = Some(Swapping { zram: Some(vec!["zram0".into()]), ..Swapping::default() });
        let devices = record.devices.get_or_insert_default();
        devices.push(area("/dev/zram0", DeviceKind::Zram, 4_000_002_048));
        devices.push(area("/dev/fast", DeviceKind::Disk, 2_000_007_168));
        devices.push(area("/dev/slow", DeviceKind::Disk, 3_000_004_608));
        devices.push(area("/dev/deep", DeviceKind::Disk, 9_000_000_512));
        record.swaps = Some(vec![
            active("/dev/fast", 2_000_007_168, 4096, 10),
            active("/dev/slow", 3_000_004_608, 0, -2),
            active("/dev/zram0", 4_000_002_048, 81920, 100),
        ]);
        record
    }

    fn seen(record: &Record, lines: &str) -> Overview {
        let index = Index::new(record);
        let table = Table::parse(format!("{ROOT}{lines}"));
        let requests = requests(record, &index, &table);
        overview(record, &index, &requests, &forecast(record, &index, &requests))
    }

    #[test]
    fn sums_are_right_to_the_byte() {
        let record = record();
        let all = seen(&record, "LABEL=fast none swap pri=10 0 0\nLABEL=deep none swap pri=10 0 0\n");
        let paths: Vec<&str> = all.areas.iter().map(|a| a.path.as_str()).collect();
        assert_eq!(paths, ["/dev/zram0", "/dev/fast", "/dev/slow", "/dev/deep"]);
        // By hand: 4000002048 + 2000007168 + 3000004608, a page less each.
        assert_eq!(all.totals.now, 9_000_013_824 - 3 * PAGE);
        assert_eq!(all.totals.used, 86_016);
        assert_eq!(all.totals.applied, all.totals.now + 9_000_000_512 - PAGE);
        // The slow disk has no entry; the deep one has, and is not active yet.
        assert_eq!(all.totals.after_reboot, 4_000_002_048 + 2_000_007_168 + 9_000_000_512 - 3 * PAGE);
        let after: Vec<Option<bool>> = all.areas.iter().map(|a| a.after_reboot).collect();
        assert_eq!(after, [Some(true), Some(true), Some(false), Some(true)]);
        assert_eq!(all.order, "first /dev/zram0, then /dev/fast and /dev/deep in turn");
    }

    #[test]
    fn sleep_needs_an_area_of_the_size_of_memory() {
        let record = record();
        let all = seen(&record, "LABEL=fast none swap sw 0 0\nLABEL=deep none swap sw 0 0\n");
        let there = &all.hibernation;
        assert_eq!(
            (there.resume_found, there.fits, there.largest),
            (Some(true), Some(true), 9_000_000_512 - PAGE)
        );
        let all = seen(&record, "LABEL=fast none swap sw 0 0\n");
        assert_eq!((all.hibernation.resume_found, all.hibernation.fits), (Some(false), Some(false)));
    }

    #[test]
    fn faults_are_told() {
        let all = seen(&record(), "LABEL=elsewhere none swap sw 0 0\nLABEL=gauges none swap sw 0 0\n");
        let faults: Vec<&str> = all.areas.iter().flat_map(|a| a.faults.iter().map(String::as_str)).collect();
        assert_eq!(faults, ["no device matches its name", "it holds xfs, not swap"]);
    }
}
