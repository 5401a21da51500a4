//! How entries are tried on a running host before they are trusted to the
//! boot: in which order, what the kernel is given, and what is left to say
//! without trying.

mod job;
mod order;
mod stand_in;
#[cfg(test)]
mod tests;

pub use order::{Sequence, Step, sequence};
pub use stand_in::{StandIn, stand_ins};

use bradawl_boot::activation_of;
use bradawl_boot::{Need, Request, Trial};
use bradawl_catalogue::fstypes::{FsType, Lives, known};
use bradawl_facts::record::{Device, Mount, Record};
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Source, is_network_type};
use job::job;
use serde::{Deserialize, Serialize};

/// How far a rehearsal goes.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct RehearsalWishes {
    /// Mounted as the entry says, and not read-only without its journal; what
    /// that writes goes to a layer that is thrown away.
    pub exact: bool,
    /// By the system's own mount program, and not by the kernel alone.
    pub by_program: bool,
    /// Entries too that wait to be asked for (`noauto`).
    pub noauto: bool,
    /// Network file systems too.
    pub network: bool,
    /// Entries too that name a program which mounting them runs.
    pub programs: bool,
}

/// What becomes of an entry in a rehearsal.
#[derive(Debug, Clone, PartialEq)]
pub enum Plan {
    /// It is tried.
    Try(Job),
    /// It is not tried; whether the facts say that it works, and why.
    Told(bool, String),
    /// It is not tried, and nothing is said; why.
    Skipped(String),
}

/// What the kernel is asked to do.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Job {
    /// How.
    pub way: Way,
    /// The type.
    pub fstype: String,
    /// What is mounted: the path of a device, a directory, a word.
    pub source: String,
    /// The source is an image in a file; the part of it that counts.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub image: Option<Part>,
    /// Where.
    pub target: String,
    /// Whether a target that is missing is made, as the boot would.
    pub makes: bool,
    /// Flags of the mount: `nosuid`, `noatime`.
    pub flags: Vec<String>,
    /// Options that the type itself reads, in order.
    pub options: Vec<(String, Option<String>)>,
    /// Options added so that nothing is written to the device.
    pub added: Vec<(String, Option<String>)>,
    /// Options of the entry that do not go with those, offered and not used.
    pub left_out: Vec<(String, Option<String>)>,
    /// Its device is mounted here now, and shown from here.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shown_at: Option<String>,
    /// A layer lies over its device, which takes what is written.
    #[serde(default)]
    pub layer: bool,
}

/// A part of an image.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct Part {
    /// Where it begins, in bytes.
    pub offset: u64,
    /// How long it is, in bytes; 0: to the end.
    pub size: u64,
    /// Whether nothing may be written to it.
    pub read_only: bool,
}

/// How far the kernel is taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub enum Way {
    /// Mounted.
    Mount,
    /// Its options are offered one by one: the device is in use, and a second
    /// mount would share what is there.
    Offer,
    /// A directory shown at a second place.
    Bind,
    /// Mounted by the system's own mount program: the type has a helper.
    Program,
    /// A swap file, whose header and layout are looked at where it lies then.
    Swap,
}

/// What is to be done with an entry.
pub fn plan(record: &Record, index: &Index<'_>, request: &Request<'_>, wishes: RehearsalWishes) -> Plan {
    if request.entry.is_swap() {
        return swap(record, index, request);
    }
    if request.target.is_none() {
        return Plan::Told(false, "its target is no path".to_owned());
    }
    if request.is_root() {
        return Plan::Skipped("root is mounted, and cannot be tried beside itself".to_owned());
    }
    match &request.need {
        Need::Missing(_) => return Plan::Told(false, "no device matches its source".to_owned()),
        Need::Unknown(doubt) => return Plan::Skipped(doubt.why.clone()),
        _ => {}
    }
    if let Some(named) = names_program(request).filter(|_| !wishes.programs) {
        return Plan::Skipped(format!("{named}; --run-programs runs it"));
    }
    let network = is_network_type(&request.entry.fstype);
    if network && !wishes.network {
        return Plan::Skipped("a network file system; --network tries it".to_owned());
    }
    if request.noauto && !wishes.noauto {
        return Plan::Skipped("noauto: the boot does not mount it; --noauto tries it".to_owned());
    }
    let fs = known(request.mounted_type());
    let on_device = fs.is_some_and(FsType::is_on_device);
    let helped = fs.is_some_and(FsType::needs_program);
    let image = matches!(&request.source, Source::Path(_)) && on_device && !request.entry.is_bind();
    if request.mounted_type() == "auto" {
        return Plan::Skipped("what it holds is not known, and with it the type to try".to_owned());
    }
    let used = request.device().and_then(|d| used(record, d));
    if matches!(used, Some(Use::Swapped)) || (used.is_some() && (wishes.exact || helped)) {
        return Plan::Skipped("its device is in use: not to be mounted a second time as it is".to_owned());
    }
    let by_program = helped || wishes.by_program || asks_program(request);
    let way = match &used {
        Some(_) => Way::Offer,
        None if network || by_program => Way::Program,
        None if request.entry.is_bind() => Way::Bind,
        None => Way::Mount,
    };
    let mut job = job(record, request, way, wishes, image);
    job.shown_at = used.and_then(|used| match used {
        // A subvolume is another place of the same device.
        Use::Mounted(mount) if request.entry.subvolume().is_none() => Some(mount.target.clone()),
        _ => None,
    });
    Plan::Try(job)
}

/// Whether an entry has words that the mount program alone acts upon.
fn asks_program(request: &Request<'_>) -> bool {
    request.entry.options.iter().any(|o| o.name.starts_with("X-mount.") && o.name != "X-mount.mkdir")
}

/// Options by which a table has a program run.
const PROGRAMS: [&str; 4] = ["helper", "uhelper", "ssh_command", "prog"];

/// How an entry names a program that mounting it would run, if it does. A
/// helper of the system for a type (mount.nfs) is not the table's choice.
fn names_program(request: &Request<'_>) -> Option<String> {
    let entry = &request.entry;
    // The program of ZFS is its own, whatever the table says.
    let by_type = known(&entry.fstype).is_some_and(|t| t.lives == Lives::InProgram && t.name != "zfs");
    let option = entry.options.iter().find(|o| PROGRAMS.contains(&o.name.as_str()) && o.value.is_some());
    match (by_type, option) {
        (true, _) => Some("the table names the program that mounts it".to_owned()),
        (false, Some(option)) => Some(format!("its option {} names a program", visible(&option.name))),
        (false, None) => None,
    }
}

fn swap(record: &Record, index: &Index<'_>, request: &Request<'_>) -> Plan {
    match (&request.need, &request.trial) {
        (Need::Missing(_), _) => Plan::Told(false, "no device matches its source".to_owned()),
        (_, Trial::Fails(_, why)) => Plan::Told(false, why.clone()),
        (_, Trial::Unknown(_)) if matches!(request.source, Source::Path(_)) => {
            Plan::Try(job(record, request, Way::Swap, RehearsalWishes::default(), false))
        }
        (_, Trial::Unknown(doubt)) => Plan::Skipped(doubt.why.clone()),
        (_, Trial::PassedOver(why)) => Plan::Skipped(why.clone()),
        (_, Trial::Works) => {
            let warnings = activation_of(record, index, request).warnings;
            let unwise: String = warnings.iter().map(|w| format!("; {}", w.words())).collect();
            Plan::Told(true, format!("its header and size are right; it was not activated{unwise}"))
        }
    }
}

/// What runs from a device now.
enum Use<'r> {
    /// A file system that is mounted; where it is mounted as a whole, there.
    Mounted(&'r Mount),
    /// Swap.
    Swapped,
}

fn used<'r>(record: &'r Record, device: &Device) -> Option<Use<'r>> {
    let numbers = device.major.zip(device.minor).map(|(major, minor)| format!("{major}:{minor}"));
    let uuid = device.content.as_ref().and_then(|c| c.uuid.as_ref());
    let same = |source: &str| {
        let other = record.devices().iter().find(|d| d.path == source);
        source == device.path
            || other
                .is_some_and(|d| uuid.is_some() && d.content.as_ref().and_then(|c| c.uuid.as_ref()) == uuid)
    };
    let mounts = || record.mounts.iter().flatten();
    let mounted = |m: &&Mount| same(&m.source) || (numbers.is_some() && m.device == numbers);
    let whole = |m: &&Mount| mounted(m) && m.root.as_deref().is_none_or(|root| root == "/");
    if let Some(mount) = mounts().find(whole).or_else(|| mounts().find(mounted)) {
        return Some(Use::Mounted(mount));
    }
    record.swaps.iter().flatten().any(|s| s.path == device.path).then_some(Use::Swapped)
}
