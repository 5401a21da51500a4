//! What the kernel is given for an entry.

use super::{Job, Part, RehearsalWishes, Way};
use bradawl_boot::Request;
use bradawl_catalogue::options::{MOUNT_FLAGS, common, effective, program_on};
use bradawl_facts::record::Record;
use bradawl_facts::table::OptionItem;

/// What keeps a type from writing to a device that it mounts read-only.
const QUIET: [(&str, (&str, Option<&str>)); 6] = [
    ("ext3", ("noload", None)),
    ("ext4", ("noload", None)),
    ("xfs", ("norecovery", None)),
    ("btrfs", ("rescue", Some("nologreplay"))),
    ("f2fs", ("norecovery", None)),
    ("nilfs2", ("norecovery", None)),
];

/// Options of a journal, which a mount without it refuses (fs/ext4/super.c).
const OF_JOURNAL: [&str; 5] = ["data", "commit", "journal_checksum", "journal_async_commit", "journal_dev"];

/// The part of an image that `offset=` and `sizelimit=` give (losetup(8)).
fn part(request: &Request<'_>, read_only: bool) -> Part {
    let number = |name: &str| {
        let value = request.entry.option(name).and_then(|o| o.value.as_deref());
        value.and_then(|v| v.parse().ok()).unwrap_or(0)
    };
    Part { offset: number("offset"), size: number("sizelimit"), read_only }
}

/// The job for an entry that is tried in a way.
pub(super) fn job(
    record: &Record,
    request: &Request<'_>,
    way: Way,
    wishes: RehearsalWishes,
    image: bool,
) -> Job {
    let items = &request.entry.options;
    let on_device = request.device().is_some() || image;
    let read_only = on_device && !wishes.exact && matches!(way, Way::Program | Way::Mount);
    let kind = |o: &&OptionItem| way == Way::Program || is_of_type(o);
    let mut job = Job {
        way,
        fstype: request.mounted_type().to_owned(),
        source: match request.device() {
            _ if way == Way::Swap => request.path.clone(),
            Some(device) if way != Way::Program || wishes.exact => device.path.clone(),
            _ => request.entry.source.clone(),
        },
        image: None,
        target: request.target.clone().unwrap_or_default(),
        makes: makes(record, request),
        flags: flags(record, request, way),
        options: items.iter().filter(kind).map(|o| pair(record, o)).collect(),
        added: Vec::new(),
        left_out: Vec::new(),
        shown_at: None,
        layer: on_device && wishes.exact && matches!(way, Way::Program | Way::Mount),
    };
    if image && way == Way::Mount {
        job.image = Some(part(request, true));
    }
    if read_only {
        quieten(&mut job);
    }
    job
}

/// Flags of the mount; the mount program reads them from the options itself.
fn flags(record: &Record, request: &Request<'_>, way: Way) -> Vec<String> {
    let in_force = effective(&request.entry.options, program_on(record)).into_iter();
    in_force.filter(|o| way != Way::Program && MOUNT_FLAGS.contains(&o.as_str())).collect()
}

/// What keeps a mount from writing to its device.
fn quieten(job: &mut Job) {
    let writes = !job.flags.iter().any(|f| f == "ro") && !job.options.iter().any(|(name, _)| name == "ro");
    if writes {
        job.flags.push("ro".to_owned());
        job.added.push(("ro".to_owned(), None));
    }
    let quiet = QUIET.iter().find(|(name, _)| *name == job.fstype);
    job.added.extend(quiet.map(|(_, (name, value))| ((*name).to_owned(), value.map(str::to_owned))));
    if job.fstype.starts_with("ext") {
        let journal = |o: &(String, Option<String>)| OF_JOURNAL.contains(&o.0.as_str());
        job.left_out = job.options.iter().filter(|o| journal(o)).cloned().collect();
        job.options.retain(|o| !journal(o));
    }
}

/// Whether a missing target is made before the mount: by systemd always, by
/// the mount program where the entry asks for it.
fn makes(record: &Record, request: &Request<'_>) -> bool {
    record.host.boots_with().is_systemd() || request.entry.options.iter().any(|o| o.name == "X-mount.mkdir")
}

/// An option as the kernel gets it: the mount program makes numbers of the
/// names of users and groups (mount(8)).
fn pair(record: &Record, option: &OptionItem) -> (String, Option<String>) {
    let named = option.value.as_deref().filter(|_| matches!(option.name.as_str(), "uid" | "gid"));
    let number = named.and_then(|name| record.accounts.as_ref()?.number(&option.name, name));
    (option.name.clone(), number.map(|n| n.to_string()).or_else(|| option.value.clone()))
}

/// Whether the type gets to see an option: it is none of those that every
/// type takes, or one that the kernel hands on to it.
fn is_of_type(option: &OptionItem) -> bool {
    const HANDED_ON: [&str; 8] =
        ["sync", "dirsync", "lazytime", "context", "fscontext", "defcontext", "rootcontext", "iversion"];
    let name = option.name.as_str();
    let apart = name.starts_with("x-") || name.starts_with("X-");
    let of_all = common().iter().any(|row| row.name == name);
    // What the mount program sets a loop device up by.
    let of_loop = name == "loop" || name.starts_with("loop=") || matches!(name, "offset" | "sizelimit");
    !apart && !of_loop && (!of_all || HANDED_ON.contains(&name))
}
