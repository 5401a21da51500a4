//! How an entry is tried on a running host before it is trusted to the boot:
//! what the kernel is given, and what is left to say without trying.

use bradawl_boot::activation_of;
use bradawl_boot::{Need, Request, Trial};
use bradawl_catalogue::fstypes::{Lives, known};
use bradawl_catalogue::options::{MOUNT_FLAGS, common, effective, program_on};
use bradawl_facts::record::{Device, Record};
use bradawl_facts::table::OptionItem;
use bradawl_facts::text::visible;
use bradawl_resolve::{Index, Source, is_network_type};
use serde::{Deserialize, Serialize};

/// How far a rehearsal goes.
#[derive(Debug, Clone, Copy, Default, PartialEq, Eq)]
pub struct RehearsalWishes {
    /// Mounted as the entry says, and not read-only without its journal.
    pub exact: bool,
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
    /// Flags of the mount: `nosuid`, `noatime`.
    pub flags: Vec<String>,
    /// Options that the type itself reads, in order.
    pub options: Vec<(String, Option<String>)>,
    /// Options added so that nothing is written to the device.
    pub added: Vec<(String, Option<String>)>,
    /// Options of the entry that do not go with those, offered and not used.
    pub left_out: Vec<(String, Option<String>)>,
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
}

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

/// What is to be done with an entry.
pub fn plan(record: &Record, index: &Index<'_>, request: &Request<'_>, wishes: RehearsalWishes) -> Plan {
    if request.entry.is_swap() {
        return swap(record, index, request);
    }
    let Some(target) = request.target.clone() else {
        return Plan::Told(false, "its target is no path".to_owned());
    };
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
    let fstype = request.mounted_type().to_owned();
    let fs = known(&fstype);
    let on_device = fs.is_some_and(bradawl_catalogue::fstypes::FsType::is_on_device);
    let program = fs.is_some_and(bradawl_catalogue::fstypes::FsType::needs_program);
    let image = matches!(&request.source, Source::Path(_)) && on_device && !request.entry.is_bind();
    if fstype == "auto" {
        return Plan::Skipped("what it holds is not known, and with it the type to try".to_owned());
    }
    let in_use = request.device().is_some_and(|d| is_used(record, d));
    if in_use && (wishes.exact || program) {
        return Plan::Skipped("its device is in use: not to be mounted a second time as it is".to_owned());
    }
    let way = match () {
        () if request.entry.is_bind() => Way::Bind,
        () if network || program => Way::Program,
        () if in_use => Way::Offer,
        () => Way::Mount,
    };
    let mut job = job(record, request, way, fstype, target, wishes.exact, image);
    job.image = image.then(|| part(request, !wishes.exact)).filter(|_| way == Way::Mount);
    Plan::Try(job)
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
        (_, Trial::Unknown(doubt)) => Plan::Skipped(doubt.why.clone()),
        (_, Trial::Works) => {
            let warnings = activation_of(record, index, request).warnings;
            let unwise: String = warnings.iter().map(|w| format!("; {}", w.words())).collect();
            Plan::Told(true, format!("its header and size are right; it was not activated{unwise}"))
        }
    }
}

/// Whether something runs from the device now.
fn is_used(record: &Record, device: &Device) -> bool {
    let numbers = device.major.zip(device.minor).map(|(major, minor)| format!("{major}:{minor}"));
    let uuid = device.content.as_ref().and_then(|c| c.uuid.as_ref());
    let same = |source: &str| {
        let other = record.devices().iter().find(|d| d.path == source);
        source == device.path
            || other
                .is_some_and(|d| uuid.is_some() && d.content.as_ref().and_then(|c| c.uuid.as_ref()) == uuid)
    };
    record.mounts.iter().flatten().any(|m| same(&m.source) || (numbers.is_some() && m.device == numbers))
        || record.swaps.iter().flatten().any(|s| s.path == device.path)
}

/// The part of an image that `offset=` and `sizelimit=` give (losetup(8)).
fn part(request: &Request<'_>, read_only: bool) -> Part {
    let number = |name: &str| {
        let value = request.entry.option(name).and_then(|o| o.value.as_deref());
        value.and_then(|v| v.parse().ok()).unwrap_or(0)
    };
    Part { offset: number("offset"), size: number("sizelimit"), read_only }
}

fn job(
    record: &Record,
    request: &Request<'_>,
    way: Way,
    fstype: String,
    target: String,
    exact: bool,
    image: bool,
) -> Job {
    let items = &request.entry.options;
    let mut flags: Vec<String> = effective(items, program_on(record))
        .into_iter()
        .filter(|o| MOUNT_FLAGS.contains(&o.as_str()))
        .collect();
    let source = match (request.device(), way) {
        (_, Way::Program) | (None, _) => request.entry.source.clone(),
        (Some(device), _) => device.path.clone(),
    };
    let mut options: Vec<(String, Option<String>)> =
        items.iter().filter(|o| is_of_type(o)).map(pair).collect();
    let (mut added, mut left_out) = (Vec::new(), Vec::new());
    let on_device = request.device().is_some() || image;
    if on_device && !exact && way == Way::Program && !flags.iter().any(|f| f == "ro") {
        flags.push("ro".to_owned());
        added.push(("ro".to_owned(), None));
    }
    if on_device && !exact && way == Way::Mount {
        if !flags.iter().any(|f| f == "ro") {
            flags.push("ro".to_owned());
            added.push(("ro".to_owned(), None));
        }
        let quiet = QUIET.iter().find(|(name, _)| *name == fstype);
        added.extend(quiet.map(|(_, (name, value))| ((*name).to_owned(), value.map(str::to_owned))));
        if fstype.starts_with("ext") {
            let journal = |o: &(String, Option<String>)| OF_JOURNAL.contains(&o.0.as_str());
            left_out = options.iter().filter(|o| journal(o)).cloned().collect();
            options.retain(|o| !journal(o));
        }
    }
    Job { way, fstype, source, image: None, target, flags, options, added, left_out }
}

fn pair(option: &OptionItem) -> (String, Option<String>) {
    (option.name.clone(), option.value.clone())
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

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_boot::requests;
    use bradawl_facts::table::Table;
    use bradawl_facts::testing::{ROOT, host, mounted};

    fn planned(record: &Record, line: &str, wishes: RehearsalWishes) -> Plan {
        let table = Table::parse(format!("{ROOT}{line}\n"));
        let index = Index::new(record);
        let requests = requests(record, &index, &table);
        plan(record, &index, &requests[1], wishes)
    }

    fn names(options: &[(String, Option<String>)]) -> Vec<&str> {
        options.iter().map(|(name, _)| name.as_str()).collect()
    }

    #[test]
    fn nothing_is_written_unless_asked() {
        let line = "LABEL=gauges /srv/gauges xfs noatime,nofail,logbsize=64k,x-systemd.automount 0 0";
        let Plan::Try(job) = planned(&host(), line, RehearsalWishes::default()) else {
            panic!("it is tried")
        };
        assert_eq!((job.way, job.source.as_str()), (Way::Mount, "/dev/vdb"));
        assert_eq!(job.flags, ["noatime", "ro"]);
        assert_eq!((names(&job.options), names(&job.added)), (vec!["logbsize"], vec!["ro", "norecovery"]));
        let exact = RehearsalWishes { exact: true, ..RehearsalWishes::default() };
        let Plan::Try(job) = planned(&host(), line, exact) else { panic!("it is tried") };
        assert!(job.added.is_empty() && job.flags == ["noatime"]);
    }

    #[test]
    fn a_device_in_use_is_only_asked_about() {
        let mut record = host();
        record.mounts = Some(vec![mounted("/dev/vdb", "/srv/gauges", "xfs")]);
        let line = "LABEL=gauges /srv/gauges xfs defaults 0 0";
        let Plan::Try(job) = planned(&record, line, RehearsalWishes::default()) else {
            panic!("it is tried")
        };
        assert_eq!((job.way, job.added.len()), (Way::Offer, 0));
        let exact = planned(&record, line, RehearsalWishes { exact: true, ..RehearsalWishes::default() });
        assert!(matches!(exact, Plan::Skipped(_)));
    }

    #[test]
    fn what_is_not_tried_is_told_or_left() {
        let told = |line: &str| match planned(&host(), line, RehearsalWishes::default()) {
            Plan::Told(works, _) => Some(works),
            _ => None,
        };
        assert_eq!(told("LABEL=lost /srv/lost ext4 nofail 0 2"), Some(false));
        assert_eq!(told("LABEL=gauges none swap sw 0 0"), Some(false));
        let skipped = |line: &str, wishes| matches!(planned(&host(), line, wishes), Plan::Skipped(_));
        let share = "buoy.example:/x /net/x nfs nofail 0 0";
        assert!(skipped(share, RehearsalWishes::default()));
        assert!(!skipped(share, RehearsalWishes { network: true, ..RehearsalWishes::default() }));
        assert!(skipped("/srv/a.img /srv/a auto loop 0 0", RehearsalWishes::default()));
        let all = RehearsalWishes { network: true, programs: true, exact: false };
        for line in [
            "/tmp/own#x /srv/a fuse nofail 0 0",
            "buoy.example:/x /srv/a fuse.sshfs nofail,_netdev 0 0",
            "x /srv/a fuse.own nofail 0 0",
            "buoy.example:/x /srv/a nfs nofail,helper=/tmp/own 0 0",
        ] {
            assert!(skipped(line, RehearsalWishes { programs: false, ..all }), "{line}");
            assert!(!skipped(line, all), "{line}");
        }
    }

    #[test]
    fn images_and_types_with_programs_are_tried_without_writing() {
        let try_it = |line: &str| match planned(&host(), line, RehearsalWishes::default()) {
            Plan::Try(job) => job,
            other => panic!("{other:?}"),
        };
        let job = try_it("/srv/a.img /srv/a ext4 loop,offset=1048576,noatime 0 0");
        let part = Part { offset: 1 << 20, size: 0, read_only: true };
        assert_eq!((job.way, job.image, names(&job.options)), (Way::Mount, Some(part), vec![]));
        assert_eq!(names(&job.added), ["ro", "noload"]);
        let mut record = host();
        let disk = record.devices.as_mut().unwrap().iter_mut().find(|d| d.path == "/dev/sdb1").unwrap();
        disk.content.as_mut().unwrap().fstype = Some("ntfs".into());
        let line = "LABEL=FIELD /media/field ntfs-3g uid=1000,nofail 0 0";
        let Plan::Try(job) = planned(&record, line, RehearsalWishes::default()) else {
            panic!("it is tried")
        };
        assert_eq!((job.way, job.flags.as_slice()), (Way::Program, &["ro".to_owned()][..]));
    }

    #[test]
    fn a_journal_that_is_left_alone_takes_no_options() {
        let mut record = host();
        let disk = record.devices.as_mut().unwrap().iter_mut().find(|d| d.path == "/dev/vdb").unwrap();
        disk.content.as_mut().unwrap().fstype = Some("ext4".into());
        let line = "LABEL=gauges /srv/gauges ext4 data=journal,errors=remount-ro 0 2";
        let Plan::Try(job) = planned(&record, line, RehearsalWishes::default()) else {
            panic!("it is tried")
        };
        assert_eq!((names(&job.options), names(&job.left_out)), (vec!["errors"], vec!["data"]));
    }
}
