use super::doubt::Doubt;
use super::network::{self, Refused};
use crate::swap::{Area, Fate, Place, activate, file_system};
use bradawl_catalogue::fstypes::{FsType, Lives, known, least_size, missing_feature, near, not_built_for};
use bradawl_catalogue::options::{Asked, Checked, MountSource, Verdict, check};
use bradawl_catalogue::packages::program_version;
use bradawl_facts::Version;
use bradawl_facts::record::CommandLine;
use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, PathFacts, PathKind, Record};
use bradawl_facts::size;
use bradawl_facts::table::Entry;
use bradawl_resolve::{ByProgram, Source, is_network_type};

/// What mounting or activating ends in once everything it needs is there.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Trial {
    /// It works.
    Works,
    /// It is refused.
    Fails(Cause, String),
    /// Its unit is passed over, and nothing fails by it; why.
    PassedOver(String),
    /// The facts do not tell; what is missing.
    Unknown(Doubt),
}

/// What a refusal is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Cause {
    /// The source is no name of a device.
    Source,
    /// The device holds something else, or nothing.
    Content,
    /// An assertion of its unit does not hold.
    Assertion,
    /// There is no file system type of this name.
    NoSuchType,
    /// Kernels had the type once, and have it no more.
    Retired,
    /// This kernel does not have the type.
    Support,
    /// The program that mounts the type is not installed.
    Program,
    /// What the device holds has a feature this kernel does not know.
    Feature,
    /// The Btrfs does not have the subvolume.
    Subvolume,
    /// An option.
    Options,
    /// The server does not answer.
    Server,
    /// What lies at the target.
    Target,
    /// The check before it.
    Check,
}

/// What an entry is tried on, as far as it is known.
#[derive(Clone, Copy)]
pub(super) struct On<'a> {
    /// Its device.
    pub device: Option<&'a Device>,
    /// The file or directory that is its source.
    pub file: Option<&'a PathFacts>,
    /// Its target.
    pub target: Option<&'a PathFacts>,
    /// What is no directory on the way to it.
    pub in_the_way: Option<&'a PathFacts>,
}

/// What every trial on one host asks for, found out once.
#[derive(Clone, Copy)]
pub(super) struct Facts<'a> {
    pub record: &'a Record,
    kernel: Option<Version>,
    program: Option<Version>,
    scripts: bool,
    /// `fsck.mode=skip`: nothing is checked.
    checks_nothing: bool,
    /// Whether a check may give up: with `fsck.repair=yes` it mends without
    /// asking (recorded).
    checks_fail: bool,
}

impl<'a> Facts<'a> {
    pub fn of(record: &'a Record) -> Self {
        let line = CommandLine::of(record);
        let version = |text: &Option<String>| text.as_deref().and_then(Version::parse);
        Facts {
            record,
            kernel: version(&record.host.kernel),
            program: version(&record.host.mount_program),
            checks_nothing: line.last("fsck.mode") == Some("skip") || line.has("fastboot"),
            checks_fail: line.last("fsck.repair") != Some("yes"),
            scripts: !record.host.boots_with().is_systemd(),
        }
    }
}

/// The verdict on each option of an entry, by the type it will be mounted
/// with: the one written, or for `auto` the one the device holds.
pub(super) fn option_verdicts(
    facts: Facts<'_>,
    entry: &Entry,
    source: &Source,
    content: Option<&Content>,
) -> Vec<Checked> {
    let Facts { record, kernel, program, .. } = facts;
    let source = match source {
        _ if ByProgram::of(entry).is_some() => MountSource::Unknown,
        Source::Path(_) => MountSource::File,
        _ if entry.has("loop") => MountSource::File,
        _ if source.wants_device() => MountSource::Device,
        _ => MountSource::Unknown,
    };
    let mounted = entry.target == "/";
    let fstype = mounted_type(entry, content);
    let versions = record.programs.as_ref().and_then(|p| p.versions.as_ref());
    let asked = Asked::new(fstype, &entry.options, kernel);
    check(&Asked {
        program,
        helper: versions.and_then(|versions| program_version(fstype, versions)),
        content,
        source,
        mounted,
        accounts: record.accounts.as_ref(),
        built: record.kernel_build.as_ref(),
        huge_pages: record.host.huge_page_sizes.as_deref(),
        labels: record.host.labels_count(),
        ..asked
    })
}

/// The type the entry is mounted with.
pub(super) fn mounted_type<'a>(entry: &'a Entry, content: Option<&'a Content>) -> &'a str {
    if entry.is_bind() {
        return "none";
    }
    let held = content.and_then(|c| c.fstype.as_deref());
    let mut types = entry.types();
    match (types.next(), types.next()) {
        (None, _) | (Some("auto"), None) => held.unwrap_or("auto"),
        (Some(only), None) => only,
        (Some(first), Some(_)) => entry.types().find(|t| Some(*t) == held).unwrap_or(first),
    }
}

/// Tries a mount in thought.
pub(super) fn mount(
    facts: Facts<'_>,
    entry: &Entry,
    source: &Source,
    on: On<'_>,
    verdicts: &[Checked],
) -> Trial {
    let On { device, file, target, in_the_way } = on;
    let content = device.and_then(|d| d.content.as_ref()).or_else(|| file.and_then(|f| f.content.as_ref()));
    if let Source::Strange(name) = source {
        return Trial::Fails(
            Cause::Source,
            format!("{name} is no name of a device that the boot understands"),
        );
    }
    let unsupported = support_objection(facts, entry, content);
    if let Some((Cause::NoSuchType, objection)) = unsupported {
        return Trial::Fails(Cause::NoSuchType, objection);
    }
    if device.is_some_and(|d| d.kind == DeviceKind::Optical) && entry.switched("noauto", "auto") {
        return Trial::Unknown(Doubt::event("what will be in the drive is not known"));
    }
    if entry.has("remount") && entry.target != "/" {
        return Trial::Fails(Cause::Options, "there is nothing mounted to remount".to_owned());
    }
    let refused = device
        .and_then(|device| too_small(entry, device))
        .or_else(|| content.and_then(|c| type_objection(entry, c)))
        .map(|why| (Cause::Content, why))
        .or(unsupported)
        .or_else(|| network_objection(facts, entry))
        .or_else(|| Some((Cause::Check, check_objection(facts, entry, content?)?)))
        .or_else(|| option_objection(entry, verdicts))
        .or_else(|| content.and_then(|c| lost_subvolume(entry, c)))
        .or_else(|| target_objection(entry, target, in_the_way));
    match refused {
        Some((cause, why)) => Trial::Fails(cause, why),
        None => unknown(facts, entry, source, content).map_or(Trial::Works, Trial::Unknown),
    }
}

/// What the mount program rejects before it asks any server.
fn network_objection(facts: Facts<'_>, entry: &Entry) -> Option<(Cause, String)> {
    match network::objection(facts.record, entry)? {
        Refused::Source(why) => Some((Cause::Source, why)),
        Refused::Options(why) => Some((Cause::Options, why)),
    }
}

/// The first option that is rejected.
fn option_objection(entry: &Entry, verdicts: &[Checked]) -> Option<(Cause, String)> {
    let refused = verdicts.iter().find(|v| v.verdict == Verdict::Refused)?;
    let option = &entry.options[refused.index].name;
    Some((Cause::Options, format!("the option {option} is rejected: {}", refused.why)))
}

/// Why nothing can be mounted at the target.
fn target_objection(
    entry: &Entry,
    target: Option<&PathFacts>,
    in_the_way: Option<&PathFacts>,
) -> Option<(Cause, String)> {
    let why = match target.map(|f| f.kind) {
        Some(PathKind::File | PathKind::Other) if !entry.is_bind() => {
            format!("{} is not a directory", entry.target)
        }
        Some(PathKind::Absent) if ["/sys/", "/proc/"].iter().any(|f| entry.target.starts_with(f)) => {
            "no directory can be made there".to_owned()
        }
        _ => format!("{} is not a directory", in_the_way?.path),
    };
    Some((Cause::Target, why))
}

/// The subvolume that the entry asks for and the file system does not have,
/// where all of them are known.
fn lost_subvolume(entry: &Entry, content: &Content) -> Option<(Cause, String)> {
    let lost = |name: &str| Some((Cause::Subvolume, format!("the file system has no subvolume {name}")));
    // A number is only known to name nothing where there are no subvolumes.
    if let Some(number) = entry.option("subvolid").and_then(|o| o.value.as_deref()) {
        let top = matches!(number, "0" | "5");
        let none = content.subvolumes.as_ref().is_some_and(Vec::is_empty);
        if none && !top && entry.option("subvol").is_none() {
            return lost(number);
        }
    }
    let wanted = entry.option("subvol")?.value.as_deref()?;
    let path = wanted.trim_matches('/');
    let there = |all: &Vec<String>| path.is_empty() || all.iter().any(|s| s == path);
    content.subvolumes.as_ref().filter(|all| !there(all)).and_then(|_| lost(wanted))
}

fn unknown(facts: Facts<'_>, entry: &Entry, source: &Source, content: Option<&Content>) -> Option<Doubt> {
    let image = matches!(source, Source::Path(_)) && !entry.is_bind();
    if (source.wants_device() || image) && content.is_none() {
        let what = if image { "file" } else { "device" };
        return Some(Doubt::not_known(format!("what the {what} holds was not read")));
    }
    // A check that mends everything mends it; without one it may be anything.
    let hurt = content.filter(|c| has_errors(c) && !is_checked(facts, entry));
    if let Some(fstype) = hurt.and_then(|c| c.fstype.as_deref()) {
        return Some(Doubt::not_known(format!(
            "its {fstype} has recorded errors, and nothing mends them before it is mounted"
        )));
    }
    if entry.fstype == "virtiofs" {
        let tag = bradawl_facts::text::visible(&entry.source);
        return Some(Doubt::event(format!(
            "whether the virtual machine is given the share {tag} is not in the record"
        )));
    }
    is_network_type(&entry.fstype).then(|| Doubt::event("the network is not part of the record"))
}

/// Why the check before the mount may give up: recorded errors are looked
/// into without asking, and a check that cannot mend them fails (recorded).
/// The worse is taken, since what the check finds is not known. An entry with
/// noauto is only checked by the script-driven init.
fn check_objection(facts: Facts<'_>, entry: &Entry, content: &Content) -> Option<String> {
    let fstype = content.fstype.as_deref()?;
    (is_checked(facts, entry) && facts.checks_fail && has_errors(content))
        .then(|| format!("its {fstype} has recorded errors"))
}

/// Whether the boot checks what an entry mounts.
pub(super) fn is_checked(facts: Facts<'_>, entry: &Entry) -> bool {
    entry.pass > 0 && !facts.checks_nothing && (facts.scripts || !entry.switched("noauto", "auto"))
}

/// Whether its own check would look into it.
fn has_errors(content: &Content) -> bool {
    let checked = content.fstype.as_deref().and_then(known).is_some_and(|t| t.checked);
    checked && content.state.as_deref() == Some("errors")
}

/// Why the boot cannot make the file system on an empty device that the entry
/// wants made (recorded: XFS on 24 MiB stops the boot).
fn too_small(entry: &Entry, device: &Device) -> Option<String> {
    let empty = device.content.as_ref().is_some_and(|c| c.kind == ContentKind::Empty);
    let (least, has) = (least_size(&entry.fstype)?, device.size?);
    (empty && entry.has("x-systemd.makefs") && has < least).then(|| {
        let fstype = &entry.fstype;
        format!("{fstype} cannot be made on {}: it needs {}", size::binary(has), size::binary(least))
    })
}

/// Why a device with this content cannot be mounted with the entry's type;
/// `None` when it can, or when that cannot be told.
pub fn type_objection(entry: &Entry, content: &Content) -> Option<String> {
    let held = content.fstype.as_deref();
    match content.kind {
        ContentKind::Unknown | ContentKind::Ambiguous => None,
        ContentKind::Empty if entry.has("x-systemd.makefs") => None,
        ContentKind::Empty => Some("the device holds nothing: it was never formatted".to_owned()),
        ContentKind::Swap => Some("the device holds swap, which is not mounted".to_owned()),
        ContentKind::PoolMember if entry.types().any(|t| t == "zfs") => None,
        ContentKind::Journal => Some("the device holds another file system's journal".to_owned()),
        other if other.is_member() => {
            Some(format!("the device holds {}, not a file system", content.words()))
        }
        _ => {
            let held = held?;
            let mut types = entry.types().peekable();
            let any = types.peek().is_none() || types.any(|t| t == "auto" || type_takes(t, held));
            (!any).then(|| format!("the table says {}, the device holds {held}", entry.fstype))
        }
    }
}

/// Whether mounting with one type takes a content of another.
fn type_takes(wanted: &str, held: &str) -> bool {
    match wanted {
        // One driver for all three; it refuses newer features under the older
        // names (recorded: ext3 on an ext4 content stops boot).
        "ext4" => matches!(held, "ext2" | "ext3" | "ext4"),
        "ext3" => matches!(held, "ext3"),
        "ext2" => matches!(held, "ext2" | "ext3"),
        "msdos" | "umsdos" | "vfat" => held == "vfat",
        "ntfs" | "ntfs3" | "ntfs-3g" | "fuseblk" => matches!(held, "ntfs" | "exfat"),
        "exfat-fuse" => held == "exfat",
        other if other.starts_with("fuse") => true,
        // Its source is a word to it (recorded).
        other if known(other).is_some_and(|t| t.lives == Lives::InKernel) => true,
        other => other == held,
    }
}

/// Why the type cannot be mounted at all; `None` when it can, or when what
/// the host supports is not fully known.
fn support_objection(facts: Facts<'_>, entry: &Entry, content: Option<&Content>) -> Option<(Cause, String)> {
    let record = facts.record;
    let helpers = record.programs.as_ref().map(|p| p.mount_helpers.as_slice());
    let helped = |t: &str| helpers.is_some_and(|all| all.iter().any(|h| h == t || h == base(t)));
    if let Some(why) = names_no_program(entry) {
        return Some((Cause::Source, why));
    }
    let types: smallvec::SmallVec<[&str; 4]> = entry.types().collect();
    if types.is_empty() || entry.is_bind() || types.iter().any(|t| matches!(*t, "auto" | "none")) {
        return feature_objection(facts, entry, content);
    }
    if let [only] = types.as_slice()
        && known(only).is_some_and(FsType::needs_program)
    {
        let missing = helpers.is_some() && !helped(only);
        return missing
            .then(|| (Cause::Program, format!("the program mount.{} is not installed", base(only))));
    }
    let support = record.filesystems.as_ref();
    let mountable = |t: &&str| support.is_some_and(|s| s.of(t).is_some()) || helped(t);
    if types.iter().any(mountable) {
        return feature_objection(facts, entry, content);
    }
    if let Some(why) = types.iter().find_map(|t| retired(facts, t)) {
        return Some((Cause::Retired, why));
    }
    let fully_known = support.is_some_and(|s| s.modules.is_some()) && helpers.is_some();
    if types.iter().all(|t| known(t).is_none()) {
        let certain = fully_known || types.iter().any(|t| !near(t).is_empty());
        return certain
            .then(|| (Cause::NoSuchType, format!("there is no file system type {}", entry.fstype)));
    }
    match fully_known {
        true => {
            Some((Cause::Support, format!("neither the kernel nor a helper knows the type {}", entry.fstype)))
        }
        false => feature_objection(facts, entry, content),
    }
}

/// Why an entry whose type is `fuse` alone cannot be mounted.
fn names_no_program(entry: &Entry) -> Option<String> {
    let bare = matches!(entry.fstype.as_str(), "fuse" | "fuse3") && !entry.source.contains('#');
    match entry.fstype.as_str() {
        "fuse." => Some("the type names no program behind the dot".to_owned()),
        _ if bare => Some("no program is named: write fuse.PROGRAM as the type".to_owned()),
        _ => None,
    }
}

/// The name that the mount program of a `fuse.NAME` has.
fn base(fstype: &str) -> &str {
    if fstype.starts_with("fuse.") { "fuse" } else { fstype }
}

/// The kernel that dropped the type, if this one is later.
fn retired(facts: Facts<'_>, fstype: &str) -> Option<String> {
    let kernel = facts.kernel?;
    let until = known(fstype)?.until.filter(|until| kernel >= *until)?;
    Some(format!("the kernel has no {fstype} any more since {until}"))
}

/// A feature of what the device holds that this kernel is too old for.
fn feature_objection(facts: Facts<'_>, entry: &Entry, content: Option<&Content>) -> Option<(Cause, String)> {
    let built = facts.record.kernel_build.as_ref();
    let unbuilt = built.and_then(|built| not_built_for(content?, built, entry.has("ro")));
    if let Some(why) = unbuilt {
        return Some((Cause::Feature, why));
    }
    let missing = missing_feature(content?, facts.kernel?)?;
    let why = format!("it has the feature {}, which kernels take only since {}", missing.name, missing.since);
    Some((Cause::Feature, why))
}

/// Tries a swap file or an image of which this is known; `target`: facts about
/// its target.
pub(super) fn on_file(
    record: &Record,
    (entry, source): (&Entry, &Source),
    target: Option<&PathFacts>,
    file: &PathFacts,
) -> Trial {
    let on = On { device: None, file: Some(file), target, in_the_way: None };
    if entry.is_swap() {
        return swap(record, source, on);
    }
    let known = Facts::of(record);
    let verdicts = option_verdicts(known, entry, source, file.content.as_ref());
    mount(known, entry, source, on, &verdicts)
}

/// Tries swapon in thought.
pub(super) fn swap(record: &Record, source: &Source, on: On<'_>) -> Trial {
    let On { device, file: facts, .. } = on;
    let place = match (source, facts) {
        (Source::Path(path), None) => {
            return Trial::Unknown(Doubt::not_known(format!("nothing is known of {path}")));
        }
        (Source::Path(_), Some(facts)) => Place::File(facts, file_system(record, facts)),
        (Source::Strange(name) | Source::Word(name) | Source::Network(name), _) => {
            return Trial::Fails(Cause::Source, format!("{name} is no name of a device or file"));
        }
        _ => Place::Device(device.and_then(|d| d.size)),
    };
    let content = match place {
        Place::File(facts, _) => facts.content.as_ref(),
        Place::Device(_) => device.and_then(|d| d.content.as_ref()),
    };
    let area = Area { place, content, page_size: record.host.page_size, program: None };
    let missing = matches!(place, Place::File(facts, _) if facts.kind != PathKind::File);
    match activate(&area, &[]).fate {
        Fate::Taken => Trial::Works,
        Fate::Unknown(why) => Trial::Unknown(Doubt::not_known(why)),
        Fate::Refused(why) => Trial::Fails(if missing { Cause::Source } else { Cause::Content }, why),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    fn objection(line: &str, kind: ContentKind, held: &str) -> Option<String> {
        let content = Content::new(kind, Some(held).filter(|h| !h.is_empty()));
        type_objection(&Table::parse(line).entries()[0], &content)
    }

    #[test]
    fn types_against_contents() {
        use ContentKind::{Ambiguous, Empty, Filesystem, Swap};
        for (line, kind, held, fits) in [
            ("LABEL=a /a ext4", Filesystem, "ext2", true),
            ("LABEL=a /a ext3", Filesystem, "ext4", false),
            ("LABEL=a /a ext4", Filesystem, "xfs", false),
            ("LABEL=a /a ext4,xfs", Filesystem, "xfs", true),
            ("LABEL=a /a auto", Filesystem, "xfs", true),
            ("LABEL=a /a", Filesystem, "xfs", true),
            ("LABEL=a /a msdos", Filesystem, "vfat", true),
            ("LABEL=a /a ext4", Swap, "swap", false),
            ("LABEL=a /a auto", Empty, "", false),
            ("LABEL=a /a ext4 x-systemd.makefs", Empty, "", true),
            ("LABEL=a /a ext4", Ambiguous, "ext4+swap", true),
        ] {
            assert_eq!(objection(line, kind, held).is_none(), fits, "{line} on {held}");
        }
    }
}
