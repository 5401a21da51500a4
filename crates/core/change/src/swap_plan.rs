//! How much swap is sensible, where it goes, and the steps to it.

use crate::edit::Fresh;
use crate::steps::Step;
use bradawl_facts::record::{ContentKind, Device, Mount, Record};
use bradawl_facts::size::{binary, exact};
use bradawl_facts::text::quoted;
use bradawl_judgement::swap_overview::{AreaKind, AreaNow, Overview};
use bradawl_resolve::{DeviceUse, Index, Resolution, Source, Use, Uses, best_identity};

const GIB: u64 = 1 << 30;

/// How much swap is wanted in all.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Wanted {
    /// What is sensible.
    Auto,
    /// So many bytes.
    Bytes(u64),
}

/// What a plan is for.
#[derive(Debug, Clone, Default)]
pub struct SwapWishes {
    /// How much in all.
    pub want: Option<Wanted>,
    /// The file, directory or device to put it on.
    pub on: Option<String>,
    /// Enough to write all memory to.
    pub hibernate: bool,
    /// The area that the new one replaces, by its path.
    pub replace: Option<String>,
    /// The priority of the new area.
    pub priority: Option<i32>,
}

/// Why no area can be planned.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum PlanError {
    /// What is to be replaced is no swap area of the host.
    #[error("{0} is no swap area of this host")]
    NoArea(String),
    /// How much is sensible depends on the memory.
    #[error("the record does not say how much memory there is; give --want SIZE")]
    MemoryUnknown,
    /// The name has several devices.
    #[error("{0} names more than one device")]
    SeveralDevices(String),
    /// The name has no device, and is no path.
    #[error("{0} is no device of this host, and no path of a file or directory")]
    NoPlace(String),
    /// The device holds something.
    #[error("{path} holds {holds}; mkswap would destroy it")]
    Holds {
        /// The device.
        path: String,
        /// What it holds, in words.
        holds: String,
    },
    /// What the device holds is not known.
    #[error("what {0} holds could not be read")]
    Unread(String),
    /// Something uses the device.
    #[error("{path} cannot be used: {why}")]
    InUse {
        /// The device.
        path: String,
        /// What uses it, in words.
        why: String,
    },
    /// The device is too small.
    #[error("{path} has {}, and {} are wanted", binary(*has), binary(*wanted))]
    TooSmall {
        /// The device.
        path: String,
        /// Its bytes.
        has: u64,
        /// Bytes wanted.
        wanted: u64,
    },
    /// Swap files do not work on the file system.
    #[error("{path} would lie on {fstype}, where swap files do not work")]
    UnfitFileSystem {
        /// The file.
        path: String,
        /// The type of the file system.
        fstype: String,
    },
    /// The file system has too little room.
    #[error("{target} has {} free, and {} are wanted and some more", binary(*free), binary(*wanted))]
    TooLittleRoom {
        /// Where it is mounted.
        target: String,
        /// Bytes free.
        free: u64,
        /// Bytes wanted.
        wanted: u64,
    },
    /// The kernel cannot hibernate.
    #[error(
        "the kernel of this host cannot hibernate (/sys/power/state has no \"disk\"): plan without --hibernate"
    )]
    NoHibernation,
    /// No file system of the host fits.
    #[error("no file system here has {} free for a swap file; name a place with --on", binary(*.0))]
    NoRoom(u64),
}

/// A plan for more swap.
#[derive(Debug, Clone, PartialEq)]
pub struct SwapPlan {
    /// How much there is to be, in bytes.
    pub wanted: u64,
    /// Why so much.
    pub why: Vec<String>,
    /// What is active now and stays, in bytes.
    pub before: u64,
    /// Size of the new area, in bytes; 0: none is needed.
    pub new: u64,
    /// What there will be, in bytes.
    pub after: u64,
    /// Where the new area goes.
    pub place: Option<String>,
    /// Its entry.
    pub entry: Option<Fresh>,
    /// The steps in order.
    pub steps: Vec<Step>,
}

/// Plans swap for a host.
///
/// # Errors
/// When there is no place for it, or the one named will not do.
pub fn plan(
    record: &Record,
    index: &Index<'_>,
    now: &Overview,
    wishes: &SwapWishes,
) -> Result<SwapPlan, PlanError> {
    let hibernates = record.swapping.as_ref().and_then(|s| s.hibernates);
    if wishes.hibernate && hibernates == Some(false) {
        return Err(PlanError::NoHibernation);
    }
    let (wanted, why) = wanted(record, now, wishes)?;
    let leaving = wishes.replace.as_ref().map(|path| {
        let found = now.areas.iter().find(|a| a.path == *path);
        found.ok_or_else(|| PlanError::NoArea(path.clone()))
    });
    let leaving = leaving.transpose()?;
    let stays = |a: &&AreaNow| {
        a.after_reboot == Some(true) && a.kind != AreaKind::Zram && leaving.is_none_or(|l| l.path != a.path)
    };
    let before = now.areas.iter().filter(stays).filter_map(|a| a.size).sum::<u64>();
    let new = match wishes.hibernate {
        // An image lies in one area.
        true if now.hibernation.largest < wanted => wanted,
        _ => wanted.saturating_sub(before),
    };
    let mut made = SwapPlan {
        wanted,
        why,
        before,
        new,
        after: before + new,
        place: None,
        entry: None,
        steps: Vec::new(),
    };
    if new > 0 {
        let place = place(record, index, wishes, new)?;
        made.steps = place.steps(wishes, leaving.map(|l| l.path.as_str()));
        made.entry = Some(place.entry(wishes));
        made.place = Some(place.path().to_owned());
    }
    Ok(made)
}

/// How much, and why.
fn wanted(record: &Record, now: &Overview, wishes: &SwapWishes) -> Result<(u64, Vec<String>), PlanError> {
    let asked = wishes.want.unwrap_or(Wanted::Auto);
    let memory = record.memory.map(|m| m.total);
    if let Wanted::Bytes(bytes) = asked {
        let mut why = vec!["as asked".to_owned()];
        why.extend(
            memory
                .filter(|m| wishes.hibernate && bytes < *m)
                .map(|m| format!("a hibernation image ({}) may not fit", binary(m))),
        );
        return Ok((bytes, why));
    }
    let memory = memory.ok_or(PlanError::MemoryUnknown)?;
    let cold = (memory / 4).clamp(GIB.min(memory), 8 * GIB);
    let used = now.totals.used;
    let mut reasons = vec![(
        cold,
        format!(
            "a quarter of the memory of {}, from 1 to 8 GiB: room for memory that programs keep but do not use, and some time before the kernel starts killing processes",
            binary(memory)
        ),
    )];
    if used > 0 {
        reasons.push((used * 2, format!("twice what is swapped out now ({})", binary(used))));
    }
    if wishes.hibernate {
        reasons.push((
            memory + used,
            format!(
                "all memory and what is swapped out, {} together: an image must fit at the worst moment",
                binary(memory + used)
            ),
        ));
    }
    let (bytes, _) = reasons.iter().max_by_key(|(bytes, _)| *bytes).cloned().unwrap_or_default();
    let rounded = bytes.div_ceil(GIB) * GIB;
    Ok((rounded, reasons.into_iter().map(|(bytes, why)| format!("{}: {why}", binary(bytes))).collect()))
}

/// Where a new area goes.
enum Spot<'a> {
    File { path: String, size: u64, btrfs: bool },
    Device(&'a Device),
}

/// File systems that a swap file works on without more ado.
const FITTING: [&str; 5] = ["ext4", "xfs", "ext3", "f2fs", "btrfs"];

fn place<'a>(
    record: &'a Record,
    index: &Index<'a>,
    wishes: &SwapWishes,
    size: u64,
) -> Result<Spot<'a>, PlanError> {
    let Some(on) = wishes.on.as_deref() else { return roomiest(record, size) };
    if let Resolution::Found(devices) = index.resolve(&Source::parse(on)) {
        return match devices.as_slice() {
            [device] => fitting(record, device, size),
            _ => Err(PlanError::SeveralDevices(on.to_owned())),
        };
    }
    if !on.starts_with('/') || on.starts_with("/dev/") {
        return Err(PlanError::NoPlace(on.to_owned()));
    }
    let mounts = record.mounts.iter().flatten();
    let folder = mounts.clone().any(|m| m.target == on) || on.ends_with('/');
    let path = if folder { format!("{}/swapfile", on.trim_end_matches('/')) } else { on.to_owned() };
    let under =
        mounts.filter(|m| bradawl_facts::path::is_within(&path, &m.target)).max_by_key(|m| m.target.len());
    under.map_or_else(
        || Ok(Spot::File { path: path.clone(), size, btrfs: false }),
        |mount| in_mount(mount, path.clone(), size),
    )
}

fn fitting<'a>(record: &Record, device: &'a Device, size: u64) -> Result<Spot<'a>, PlanError> {
    let kind = device.content.as_ref().map(|c| c.kind);
    match kind {
        Some(ContentKind::Empty | ContentKind::Swap) => {}
        Some(_) => {
            let holds = device.content.as_ref().map_or("something", |c| c.words()).to_owned();
            return Err(PlanError::Holds { path: device.path.clone(), holds });
        }
        None => return Err(PlanError::Unread(device.path.clone())),
    }
    let DeviceUse { used, unusable, .. } = Uses::of(record).device(device);
    if let Some(why) = unusable.filter(|_| used != Use::Swap) {
        return Err(PlanError::InUse { path: device.path.clone(), why });
    }
    match device.size {
        Some(has) if has < size => Err(PlanError::TooSmall { path: device.path.clone(), has, wanted: size }),
        _ => Ok(Spot::Device(device)),
    }
}

fn in_mount<'a>(mount: &Mount, path: String, size: u64) -> Result<Spot<'a>, PlanError> {
    if !FITTING.contains(&mount.fstype.as_str()) {
        return Err(PlanError::UnfitFileSystem { path, fstype: mount.fstype.clone() });
    }
    // A file system that is filled up helps nobody.
    match mount.free.filter(|free| *free < size + size / 10) {
        Some(free) => Err(PlanError::TooLittleRoom { target: mount.target.clone(), free, wanted: size }),
        None => Ok(Spot::File { path, size, btrfs: mount.fstype == "btrfs" }),
    }
}

/// Of the file systems that fit, the one with the most room; of two, the
/// one without copying on write.
fn roomiest<'a>(record: &Record, size: u64) -> Result<Spot<'a>, PlanError> {
    let removable = |m: &&Mount| {
        let device = record.devices().iter().find(|d| d.path == m.source);
        device.is_some_and(Device::is_removable)
    };
    let whole = |m: &&Mount| m.root.as_deref().is_none_or(|r| r == "/" || m.fstype == "btrfs");
    let writable = |m: &&Mount| !m.options.split(',').any(|o| o == "ro");
    let fits =
        |m: &&Mount| FITTING.contains(&m.fstype.as_str()) && m.free.is_none_or(|f| f >= size + size / 10);
    let mounts =
        record.mounts.iter().flatten().filter(fits).filter(whole).filter(writable).filter(|m| !removable(m));
    let best = mounts.max_by_key(|m| (m.fstype != "btrfs", m.free.unwrap_or(0)));
    let mount = best.ok_or(PlanError::NoRoom(size))?;
    in_mount(mount, format!("{}/swapfile", mount.target.trim_end_matches('/')), size)
}

impl Spot<'_> {
    fn path(&self) -> &str {
        match self {
            Spot::File { path, .. } => path,
            Spot::Device(device) => &device.path,
        }
    }

    fn entry(&self, wishes: &SwapWishes) -> Fresh {
        let source = match self {
            Spot::File { path, .. } => path.clone(),
            // What is re-created has another UUID: the partition's own stays.
            Spot::Device(device) => match device.partition.as_ref().and_then(|p| p.uuid.as_ref()) {
                Some(uuid) => format!("PARTUUID={uuid}"),
                None if device.holds_swap() => best_identity(device).unwrap_or_else(|| device.path.clone()),
                None => device.path.clone(),
            },
        };
        let mut options = vec!["sw".to_owned()];
        options.extend(wishes.priority.map(|p| format!("pri={p}")));
        Fresh { source, target: "none".to_owned(), fstype: "swap".to_owned(), options, ..Fresh::default() }
    }

    fn steps(&self, wishes: &SwapWishes, leaving: Option<&str>) -> Vec<Step> {
        let word = quoted(self.path());
        let mut steps = match self {
            Spot::File { size, btrfs, .. } => {
                let more = if *btrfs { "; on Btrfs it is kept from being copied on writing" } else { "" };
                vec![Step::run(
                    format!("Make the file, without holes, for root alone, with its header{more}"),
                    format!("bradawl swap --file {word} --want {} --write", exact(*size)),
                    "it names the file and its UUID",
                )]
            }
            Spot::Device(device) if device.holds_swap() => Vec::new(),
            Spot::Device(_) => vec![Step::run(
                "Make the swap area; what is there is lost",
                format!("mkswap {word}"),
                "it names a UUID",
            )],
        };
        let priority = wishes.priority.map(|p| format!("-p {p} ")).unwrap_or_default();
        steps.push(Step::run("Use it", format!("swapon {priority}{word}"), "no output"));
        if let Some(old) = leaving {
            let what = "Only now switch the old one off: what lies there moves to the new one or into memory";
            steps.push(Step::run(what, format!("swapoff {}", quoted(old)), "it may take a while; no output"));
        }
        steps.push(Step::by_hand("Put the entry into the table, in place of the old one's if there is one"));
        if wishes.hibernate {
            let how = match self {
                Spot::File { .. } => {
                    "resume= with the device the file lies on and resume_offset= with its first block (filefrag -v shows it)"
                }
                Spot::Device(_) => "resume= with its name",
            };
            let what = format!(
                "Tell the boot to resume from it: {how} on the kernel's command line; then rebuild the initramfs"
            );
            steps.push(Step::by_hand(what));
        }
        steps.push(Step::run("Look", "bradawl swap", "the new total, now and after a reboot"));
        steps
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_boot::{forecast, requests};
    use bradawl_facts::record::{Memory, Swapping};
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host, mounted};
    use bradawl_judgement::swap_overview::overview;

    fn record() -> Record {
        let mut record = host();
        record.memory = Some(Memory { total: 16 * GIB, swap_total: None, swap_free: None });
        let mount =
            |source, target, fstype, free| Mount { free: Some(free), ..mounted(source, target, fstype) };
        record.mounts = Some(vec![
            mount("/dev/vda1", "/", "ext4", 10 * GIB),
            mount("/dev/vdb", "/srv/gauges", "xfs", 100 * GIB),
            mount("/dev/sdb1", "/media/field", "vfat", 500 * GIB),
        ]);
        record.swaps = Some(Vec::new());
        record
    }

    fn planned(record: &Record, wishes: &SwapWishes) -> Result<SwapPlan, String> {
        let index = Index::new(record);
        let requests = requests(record, &index, &Table::parse(ROOT));
        let now = overview(record, &index, &requests, &forecast(record, &index, &requests));
        plan(record, &index, &now, wishes).map_err(|e| e.to_string())
    }

    #[test]
    fn as_much_as_memory_and_use_ask_for() {
        let auto = SwapWishes { want: Some(Wanted::Auto), ..SwapWishes::default() };
        let plain = planned(&record(), &auto).unwrap();
        assert_eq!((plain.wanted, plain.new, plain.after), (4 * GIB, 4 * GIB, 4 * GIB));
        assert_eq!(plain.place.as_deref(), Some("/srv/gauges/swapfile"), "the most room");
        let asleep = planned(&record(), &SwapWishes { hibernate: true, ..auto }).unwrap();
        assert_eq!(asleep.wanted, 16 * GIB);
        assert_eq!(asleep.entry.unwrap().line(), "/srv/gauges/swapfile none swap sw 0 0");
    }

    #[test]
    fn no_plan_for_hibernation_where_the_kernel_cannot() {
        let mut record = record();
        let wishes = SwapWishes { hibernate: true, ..SwapWishes::default() };
        for (hibernates, planned_for) in [(None, true), (Some(true), true), (Some(false), false)] {
            record.swapping = Some(Swapping { hibernates, ..Swapping::default() });
            let planned = planned(&record, &wishes);
            assert_eq!(planned.is_ok(), planned_for, "{hibernates:?}: {:?}", planned.err());
        }
    }

    #[test]
    fn places_that_will_not_do_are_refused() {
        let on = |place: &str, gib: u64| {
            let want = Some(Wanted::Bytes(gib * GIB));
            planned(&record(), &SwapWishes { want, on: Some(place.into()), ..SwapWishes::default() })
        };
        assert!(on("/", 20).unwrap_err().contains("has 10 GiB free"));
        assert!(on("/media/field/swap", 1).unwrap_err().contains("vfat"));
        assert!(on("LABEL=gauges", 1).unwrap_err().contains("holds xfs"));
        assert!(on("/dev/nowhere", 1).unwrap_err().contains("no device"));
        assert_eq!(on("/swap/area", 1).unwrap().place.as_deref(), Some("/swap/area"));
        assert_eq!(
            on("LABEL=reserve", 1).unwrap().entry.unwrap().source,
            "UUID=0b5a7e19-6cd3-4f88-a1e4-9d2c3b4a5f60"
        );
    }

    #[test]
    fn the_old_area_goes_when_the_new_one_is_there() {
        let mut record = record();
        let swap = bradawl_facts::record::ActiveSwap {
            path: "/dev/vdc".into(),
            size: GIB,
            used: 4096,
            priority: -2,
        };
        record.swaps = Some(vec![swap]);
        let want = Some(Wanted::Bytes(2 * GIB));
        let replace = Some("/dev/vdc".to_owned());
        let plan =
            planned(&record, &SwapWishes { want, replace, priority: Some(5), ..SwapWishes::default() })
                .unwrap();
        let run: Vec<&str> = plan.steps.iter().filter_map(|s| s.run.as_deref()).collect();
        assert_eq!(run[1..3], ["swapon -p 5 /srv/gauges/swapfile", "swapoff /dev/vdc"]);
        assert!(
            planned(&record, &SwapWishes { replace: Some("/x".into()), ..SwapWishes::default() }).is_err()
        );
    }
}
