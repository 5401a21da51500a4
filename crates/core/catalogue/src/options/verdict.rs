use super::built::objection;
use super::effective::flag_in_force;
use super::program::{
    MountBy, Names, SUPER_FLAGS, Taken, USUAL_PROGRAM, handed_on, program_of, taken, taken_early,
};
use super::{Digits, List, Opt, Reader, Spec, common, of_type, types};
use crate::fstypes::known as known_type;
use bradawl_facts::Version;
use bradawl_facts::record::{Accounts, Content, KernelBuild};
use bradawl_facts::table::OptionItem;
use smallvec::SmallVec;
use std::collections::HashSet;
use std::sync::LazyLock;

/// Near names are looked for in this many refused options of one list.
const MAX_NEAR: usize = 20;

/// Types that are never written to.
const READ_ONLY: [&str; 5] = ["iso9660", "squashfs", "erofs", "cramfs", "romfs"];

/// What a file system is mounted from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MountSource {
    /// It is not known.
    Unknown,
    /// A block device.
    Device,
    /// A file, through a loop device.
    File,
}

/// What becomes of an option, or of a whole list.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Verdict {
    /// Taken, and it has an effect.
    Accepted,
    /// Taken by nobody who matters: a comment.
    Ignored,
    /// Not in the catalogue for this type, or the type is not.
    Unknown,
    /// The mount fails because of it.
    Refused,
}

/// What a verdict on an option is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum About {
    /// Its name: the type has, or has not, such an option.
    Name,
    /// Its name, which other types have.
    OtherType,
    /// The kernel: too old or too new for it.
    Kernel,
    /// Its value.
    Value,
    /// Other options in the list, or what is mounted.
    Others,
    /// The version of the type's own program.
    Program,
}

/// The verdict on one option of a list.
#[derive(Debug, Clone)]
pub struct Checked {
    /// Its place in the list.
    pub index: usize,
    /// What becomes of it.
    pub verdict: Verdict,
    /// What the verdict is about.
    pub about: About,
    /// Why, when it is not simply accepted.
    pub why: String,
    /// Names that exist for this type and look alike.
    pub near: Vec<&'static str>,
}

/// A list of options and what it is for.
#[derive(Debug, Clone, Copy)]
pub struct Asked<'a> {
    /// The type it is mounted with.
    pub fstype: &'a str,
    /// The list.
    pub options: &'a [OptionItem],
    /// The kernel, if known.
    pub kernel: Option<Version>,
    /// Version of the mount program; absent: the one of the kernel's time.
    pub program: Option<Version>,
    /// What is mounted, where that is known.
    pub content: Option<&'a Content>,
    /// What the source is.
    pub source: MountSource,
    /// Whether it is mounted already, as the root file system is: `remount` needs it.
    pub mounted: bool,
    /// The users and groups that names are looked up in, where they are known.
    pub accounts: Option<&'a Accounts>,
    /// Whether to take what is not known as usual: users and groups that every
    /// host has, a file system as it is made by default. Else what is not
    /// known refuses nothing.
    pub typical: bool,
    /// What the kernel was built with, where that is known.
    pub built: Option<&'a KernelBuild>,
    /// The mount program: the small ones of an initramfs hand most options to the
    /// kernel as they stand.
    pub by: MountBy,
}

impl<'a> Asked<'a> {
    /// Version of the mount program, or of the kernel's time.
    pub fn program(&self) -> Version {
        self.program.or(self.kernel.map(program_of)).unwrap_or(USUAL_PROGRAM)
    }

    fn new_program(&self) -> bool {
        self.program() >= Version(2, 39)
    }

    /// A list for a type on a kernel, with nothing else known.
    pub fn new(fstype: &'a str, options: &'a [OptionItem], kernel: Option<Version>) -> Self {
        Asked {
            fstype,
            options,
            kernel,
            program: None,
            content: None,
            source: MountSource::Unknown,
            mounted: false,
            accounts: None,
            typical: false,
            built: None,
            by: MountBy::System,
        }
    }
}

/// Judges a list of options as the mount would end.
///
/// Swap is judged as swapon and the init system do: they refuse nothing they
/// do not know.
pub fn check(asked: &Asked<'_>) -> Vec<Checked> {
    let kind = Kind::of(asked);
    let mut checked: Vec<Checked> =
        asked.options.iter().enumerate().map(|(index, option)| one(asked, &kind, option, index)).collect();
    let refused =
        |c: &&mut Checked| c.verdict == Verdict::Refused && matches!(c.about, About::Name | About::OtherType);
    for one in checked.iter_mut().filter(refused).take(MAX_NEAR) {
        one.near = near_names(asked.fstype, &asked.options[one.index].name, asked.kernel);
    }
    let sound = checked.iter().all(|c| c.verdict != Verdict::Refused);
    if sound
        && let Some((index, why)) = beside(asked, &kind).or_else(|| whole(asked, &kind, &checked))
        && let Some(one) = checked.get_mut(index)
    {
        *one = Checked { index, verdict: Verdict::Refused, about: About::Others, why, near: Vec::new() };
    }
    checked
}

/// What the list's type and the mount program say to every option alike.
struct Kind {
    spec: Option<&'static Spec>,
    /// Whether the type has its options handed over one by one.
    one_by_one: bool,
    on_device: bool,
    /// Whether the mount program knows the type for a share.
    is_share: bool,
}

/// The types that the mount program knows for shares (libmount's list).
const SHARES: [&str; 13] = [
    "cifs",
    "smb3",
    "smbfs",
    "nfs",
    "nfs3",
    "nfs4",
    "afs",
    "ncpfs",
    "glusterfs",
    "fuse.curlftpfs",
    "fuse.sshfs",
    "9p",
    "ncp",
];

impl Kind {
    fn helper(&self) -> bool {
        self.spec.is_some_and(|spec| spec.reader == Reader::Helper)
    }

    /// Whether the mount program looks at its source although its own program mounts
    /// it: not where it knows it for a share.
    fn is_given_a_path(&self) -> bool {
        self.helper() && !self.on_device && !self.is_share
    }

    fn is_handed_flags(&self) -> bool {
        self.spec.is_some_and(|spec| spec.handed_flags.is_some())
    }

    fn takes_as_flag(&self, name: &str) -> bool {
        self.spec.and_then(|spec| spec.handed_flags).is_some_and(|taken| taken.contains(&name))
    }

    fn stops_at(&self, name: &str, program: Version) -> bool {
        self.spec.is_some_and(|spec| spec.stops_at(name, program))
    }

    fn of(asked: &Asked<'_>) -> Self {
        let spec = of_type(asked.fstype);
        let since = spec.and_then(|s| s.one_by_one);
        Kind {
            spec,
            one_by_one: since.zip(asked.kernel).is_some_and(|(since, k)| k >= since),
            on_device: known_type(asked.fstype).is_some_and(|t| t.is_on_device()),
            is_share: SHARES.contains(&asked.fstype),
        }
    }
}

/// The first option that lacks what its row needs, or stands beside what its
/// row conflicts with.
fn beside(asked: &Asked<'_>, kind: &Kind) -> Option<(usize, String)> {
    let given = |wanted: &str| match wanted.split_once('=') {
        _ if wanted == "ro" => flag_in_force(asked.options, "ro", asked.program()),
        None => asked.options.iter().any(|o| o.name == wanted),
        Some((name, value)) => {
            let last = asked.options.iter().rfind(|o| o.name == name);
            last.is_some_and(|o| o.value.as_deref() == Some(value))
        }
    };
    let rows = kind.spec?.rows;
    let objection = |option: &OptionItem| {
        let row = rows.iter().find(|row| row.name == option.name && row.taken_by(asked.kernel))?;
        let off = matches!(option.value.as_deref(), Some("off" | "no" | "0"));
        let lacking = row.needs.iter().find(|other| !given(other));
        let clash = row.conflicts.iter().find(|other| given(other));
        match (lacking, clash) {
            _ if off => None,
            (Some(other), _) => Some(format!("it needs {other} beside it")),
            (None, Some(other)) => Some(format!("it does not go with {other}")),
            (None, None) => None,
        }
    };
    asked.options.iter().enumerate().find_map(|(index, option)| Some((index, objection(option)?)))
}

/// What the whole list runs into, once each option is fine.
fn whole(asked: &Asked<'_>, kind: &Kind, checked: &[Checked]) -> Option<(usize, String)> {
    let verdicts: SmallVec<[Verdict; 8]> = checked.iter().map(|c| c.verdict).collect();
    let (kernel, content) = (asked.kernel?, asked.content);
    let list = List { options: asked.options, verdicts: &verdicts, kernel, content, typical: asked.typical };
    (kind.spec?.whole)(&list)
}

fn one(asked: &Asked<'_>, kind: &Kind, option: &OptionItem, index: usize) -> Checked {
    let (verdict, about, why) = judge(asked, kind, option);
    Checked { index, verdict, about, why, near: Vec::new() }
}

fn judge(asked: &Asked<'_>, kind: &Kind, option: &OptionItem) -> (Verdict, About, String) {
    let (name, value) = (option.name.as_str(), option.value.as_deref());
    if asked.fstype == "swap" {
        return of_swap(name, value);
    }
    let names = Names { accounts: asked.accounts, typical: asked.typical };
    let taken = match asked.by {
        // Its program takes them for the flags they begin with.
        MountBy::System if value.is_some() && kind.takes_as_flag(name) => Taken::Here,
        MountBy::System if kind.is_handed_flags() && handed_on(name, value) => Taken::PassedOn,
        MountBy::System => taken(name, value, asked.program(), kind.one_by_one, names),
        MountBy::Kernel if kind.one_by_one && SUPER_FLAGS.contains(&name) => Taken::Here,
        MountBy::Kernel => Taken::PassedOn,
        small @ (MountBy::Klibc | MountBy::Busybox | MountBy::Tiny) => taken_early(small, name, value),
    };
    let own = match taken {
        Taken::Refused(why) => return (Verdict::Refused, About::Value, why),
        Taken::Here
            if asked.by == MountBy::System && kind.stops_at(name, asked.program()) && handed(asked, name) =>
        {
            let why = format!("the program that mounts {} does not know it, and ends", asked.fstype);
            return (Verdict::Refused, About::Name, why);
        }
        // It only passes over what is for files and their layers.
        Taken::Here if asked.by == MountBy::Tiny => return (Verdict::Accepted, About::Name, String::new()),
        // Some types read flags for themselves as well.
        Taken::Here => return here(asked, kind, name, value),
        Taken::AsNumber => Some("0"),
        Taken::PassedOn => value,
    };
    let Some(spec) = kind.spec else {
        let why = format!("options of {} are not in the catalogue", asked.fstype);
        return (Verdict::Unknown, About::Name, why);
    };
    let rows = || spec.rows.iter().filter(|row| spec.is_about(row, name));
    match rows().find(|row| row.taken_by(asked.kernel)) {
        Some(row) => {
            if let Some(why) = names.objection(row.form, own) {
                return (Verdict::Refused, About::Value, why);
            }
            if let Some(since) = row.reader_since.filter(|_| kind.helper() && row.reader.is_none()) {
                return (Verdict::Unknown, About::Program, by_version(asked.fstype, since, "knows it"));
            }
            let said = known(row, own, asked.kernel, spec.digits_on(asked.kernel));
            if let Some(since) = row.judged_since.filter(|_| said.0 == Verdict::Refused) {
                let why = by_version(asked.fstype, since, "refuses the value") + &format!(": it {}", said.2);
                return (Verdict::Unknown, About::Program, why);
            }
            let taken = said.0 == Verdict::Accepted;
            let built = || {
                objection(asked.built, asked.fstype, name)
                    .filter(|_| !taken_back(asked.options, name) && own != Some("never"))
            };
            let objected = taken.then(built).flatten();
            objected.map_or(said, |(verdict, why)| (verdict, About::Kernel, why))
        }
        None if lenient(spec, asked.kernel) => (Verdict::Ignored, About::Name, passed_over(asked.fstype)),
        None => match rows().next() {
            Some(row) => other_kernel(asked, row),
            None if spec.open => {
                let why = format!("the program that mounts {} may know it", asked.fstype);
                (Verdict::Unknown, About::Name, why)
            }
            None => no_such(asked.fstype, name),
        },
    }
}

/// Whether the mount program hands a flag on: those before 2.39 only what is in force in
/// the end.
fn handed(asked: &Asked<'_>, name: &str) -> bool {
    let opposite =
        |other: &str| other.strip_prefix("no") == Some(name) || name.strip_prefix("no") == Some(other);
    let last = asked.options.iter().rfind(|o| o.name == name || opposite(&o.name));
    asked.new_program() || last.is_some_and(|o| o.name == name)
}

/// What hangs on the version of the type's own program, which no record tells.
fn by_version(fstype: &str, since: Version, does: &str) -> String {
    let program = super::listed_as(fstype);
    format!("{program} {does} since version {since}, and the host's is not known")
}

/// Whether `noquota` behind an option takes it back before it is looked at.
fn taken_back(options: &[OptionItem], name: &str) -> bool {
    let last = options.iter().rposition(|o| o.name == name).unwrap_or_default();
    options[last..].iter().any(|o| o.name == "noquota")
}

/// Options that are dealt with before the file system sees them.
fn here(asked: &Asked<'_>, kind: &Kind, name: &str, value: Option<&str>) -> (Verdict, About, String) {
    let why = match name {
        "bind" | "rbind" if asked.fstype != "none" => "the source is no directory, which bind needs",
        "move" => "there is nothing mounted to move",
        "offset" | "sizelimit" if kind.is_given_a_path() && asked.source != MountSource::File => {
            "it is for files that are mounted as if they were devices"
        }
        "offset" | "sizelimit" if matches!(value, Some("0")) => {
            return (Verdict::Accepted, About::Name, String::new());
        }
        "offset" | "sizelimit" if value.is_none_or(str::is_empty) && asked.new_program() => {
            return (Verdict::Accepted, About::Name, String::new());
        }
        "offset" | "sizelimit" if kind.on_device && asked.source != MountSource::File => {
            "it is for files that are mounted as if they were devices"
        }
        "encryption" if kind.on_device && asked.source != MountSource::Device => {
            "files are not mounted with it; a container of crypttab takes its place"
        }
        "X-mount.owner" | "X-mount.group" | "X-mount.mode"
            if asked.new_program() && READ_ONLY.contains(&asked.fstype) =>
        {
            "the file system cannot be written to"
        }
        "remount" if !asked.mounted => "nothing is mounted there whose options it could change",
        "X-mount.idmap" if asked.new_program() && kind.helper() => {
            "the program that mounts it cannot have owners mapped"
        }
        "X-mount.noloop" if asked.new_program() && kind.on_device && asked.source != MountSource::Device => {
            "a file is mounted through a loop device, which it forbids"
        }
        "verity.hashdevice" | "verity.roothash" | "verity.hashoffset"
            if (kind.on_device || kind.is_given_a_path() && !asked.new_program()) && !verity(asked) =>
        {
            "a hash tree needs verity.hashdevice and verity.roothash or verity.roothashfile"
        }
        _ => return (Verdict::Accepted, About::Name, String::new()),
    };
    (Verdict::Refused, About::Name, why.to_owned())
}

/// Whether a list says all that opening a hash tree takes.
fn verity(asked: &Asked<'_>) -> bool {
    let has = |name: &str| asked.options.iter().any(|o| o.name == name);
    has("verity.hashdevice") && (has("verity.roothash") || has("verity.roothashfile"))
}

fn of_swap(name: &str, value: Option<&str>) -> (Verdict, About, String) {
    let rows = of_type("swap").map(|s| s.rows).unwrap_or_default();
    if name.starts_with("x-") || name.starts_with("X-") {
        return (Verdict::Accepted, About::Name, String::new());
    }
    match rows.iter().chain(common()).find(|row| row.name == name) {
        None => (Verdict::Ignored, About::Name, "swapon does not know it".to_owned()),
        Some(row) => match row.form.objection(value) {
            Some(objection) => (Verdict::Ignored, About::Value, objection),
            None => (Verdict::Accepted, About::Value, String::new()),
        },
    }
}

fn known(
    row: &Opt,
    value: Option<&str>,
    kernel: Option<Version>,
    digits: Option<Digits>,
) -> (Verdict, About, String) {
    match row.form.objection_to(value, digits) {
        Some(objection) => (Verdict::Refused, About::Value, objection),
        None if row.idle.is_some_and(|idle| kernel.is_none_or(|k| k >= idle)) => {
            (Verdict::Ignored, About::Kernel, format!("it has no effect: {}", row.meaning))
        }
        None => (Verdict::Accepted, About::Value, String::new()),
    }
}

fn lenient(spec: &Spec, kernel: Option<Version>) -> bool {
    kernel.is_some_and(|k| k < spec.strict)
}

fn passed_over(fstype: &str) -> String {
    match fstype {
        "none" => "a directory shown at a second place has the options of its file system".to_owned(),
        _ => format!("{fstype} passes over what it does not know"),
    }
}

/// A name the type takes on other kernels than this one.
fn other_kernel(asked: &Asked<'_>, row: &Opt) -> (Verdict, About, String) {
    let fstype = asked.fstype;
    match (row.since, row.until, asked.kernel) {
        (Some(since), _, Some(k)) if k < since => {
            (Verdict::Refused, About::Kernel, format!("{fstype} accepts it only since kernel {since}"))
        }
        (_, Some(until), Some(_)) => {
            let why = format!("removed from {fstype} in kernel {until}: {}", row.meaning);
            (Verdict::Refused, About::Kernel, why)
        }
        _ => (Verdict::Unknown, About::Kernel, "depends on the kernel, which is not known".to_owned()),
    }
}

fn no_such(fstype: &str, name: &str) -> (Verdict, About, String) {
    let (about, why) = match belongs_to(name).as_slice() {
        [] => (About::Name, format!("{fstype} has no such option")),
        types => {
            let types = types.join(", ");
            (About::OtherType, format!("{fstype} has no such option; it belongs to {types}"))
        }
    };
    (Verdict::Refused, about, why)
}

/// Types people meet first, in that order.
const USUAL: [&str; 8] = ["ext4", "xfs", "btrfs", "vfat", "exfat", "tmpfs", "nfs", "cifs"];

/// Up to four types that have such an option, the usual ones first.
fn belongs_to(name: &str) -> Vec<&'static str> {
    let has = |t: &&str| of_type(t).is_some_and(|spec| spec.rows.iter().any(|r| r.name == name));
    let others = types().filter(|t| !USUAL.contains(t));
    USUAL.into_iter().chain(others).filter(has).take(4).collect()
}

/// Names within two edits of this one that the type takes, nearest first; the
/// name itself alone where it is only spelt in capitals or with the other dash.
/// Never the opposite of what was written: `noexce` is not `exec`.
pub fn near_names(fstype: &str, name: &str, kernel: Option<Version>) -> Vec<&'static str> {
    let folded = name.to_ascii_lowercase();
    let limit = if folded.len() <= 4 { 1 } else { 2 };
    let rows = of_type(fstype).map(|spec| spec.rows).unwrap_or_default();
    // A word that its program ends at is no help, whichever mount program hands it on.
    let ends_it = |name: &str| of_type(fstype).is_some_and(|s| s.not_taken.iter().any(|w| w.name == name));
    let in_time = |row: &&Opt| row.taken_by(kernel) || kernel.is_none();
    let taken = || rows.iter().chain(common()).filter(in_time).filter(|row| !ends_it(row.name));
    let alike = |row: &&Opt| row.name != name && row.name.replace('_', "-") == folded.replace('_', "-");
    if let Some(same) = taken().find(alike) {
        return vec![same.name];
    }
    let turned = |other: &str| folded.starts_with("no") != other.starts_with("no");
    let mut near: Vec<(usize, &'static str)> = taken()
        .filter(|row| row.name.len().abs_diff(folded.len()) <= limit && !turned(row.name))
        .map(|row| (strsim::osa_distance(&folded, &row.name.to_ascii_lowercase()), row.name))
        .filter(|&(distance, _)| (1..=limit).contains(&distance))
        .collect();
    near.sort();
    // `ro` and `rw` are one letter apart and say the opposite.
    near.retain(|(_, name)| folded.len() > 2 || !matches!(*name, "ro" | "rw"));
    near.into_iter().map(|(_, name)| name).take(3).collect()
}

/// Whether any type takes an option of this name, or every type does.
pub fn is_option(name: &str) -> bool {
    static NAMES: LazyLock<HashSet<&'static str>> = LazyLock::new(|| {
        let rows = types().filter_map(of_type).flat_map(|spec| spec.rows.iter());
        rows.chain(common()).map(|row| row.name).collect()
    });
    let own = ["x-", "X-"].iter().any(|prefix| name.starts_with(prefix));
    own || NAMES.contains(name)
}

/// The value that was meant where an option's value does not fit: the same
/// word with the other dash or in small letters, a word within two letters, a
/// size without what is too much behind it.
pub fn near_value(fstype: &str, name: &str, value: &str, kernel: Option<Version>) -> Option<String> {
    let rows = of_type(fstype).map(|spec| spec.rows).unwrap_or_default();
    let mut all = rows.iter().chain(common()).filter(|row| row.name == name);
    let row = all.find(|row| row.taken_by(kernel) || kernel.is_none())?;
    row.form.near(value)
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    fn verdict(fstype: &str, option: &str, kernel: Option<Version>) -> Checked {
        let table = Table::parse(format!("s /t {fstype} {option}"));
        check(&Asked::new(fstype, &table.entries()[0].options, kernel)).remove(0)
    }

    #[test]
    fn truth_table() {
        let k = Some(Version(6, 1));
        let cases = [
            ("ext4", "noatime", Verdict::Accepted),
            ("ext4", "noatme", Verdict::Refused),
            ("ext4", "uid=1000", Verdict::Refused),
            ("ext4", "x-anything.goes=1", Verdict::Accepted),
            ("xfs", "nobarrier", Verdict::Refused),
            ("xfs", "errors=remount-ro", Verdict::Refused),
            ("vfat", "umask=0077", Verdict::Accepted),
            ("vfat", "umask=999", Verdict::Refused),
            ("tmpfs", "size=lots", Verdict::Refused),
            ("tmpfs", "noswap", Verdict::Refused),
            ("swap", "pri=high", Verdict::Accepted),
            ("swap", "whatever", Verdict::Ignored),
            ("gfs2", "locktable=a", Verdict::Unknown),
            ("gfs2", "nofail", Verdict::Accepted),
        ];
        for (fstype, option, expected) in cases {
            assert_eq!(verdict(fstype, option, k).verdict, expected, "{fstype} {option}");
        }
    }

    #[test]
    fn says_what_to_write_instead() {
        assert_eq!(verdict("ext4", "noatme", None).near, ["noatime"]);
        assert_eq!(verdict("ext4", "NOEXEC", None).near, ["noexec"]);
        assert_eq!(verdict("ext4", "RO", None).near, ["ro"]);
        assert_eq!(verdict("ext4", "Nofail", None).near, ["nofail"]);
        assert_eq!(verdict("ext4", "noexce", None).near, ["noexec"]);
        assert_eq!(verdict("fuse.sshfs", "ServerAliveIntervall", None).near, ["ServerAliveInterval"]);
        assert_eq!(verdict("ext4", "strictatim", None).near, ["strictatime"]);
        assert_eq!(verdict("cifs", "strictatim", None).near, [] as [&str; 0]);
        assert_eq!(verdict("xfs", "-o", None).near, [] as [&str; 0]);
        assert!(
            verdict("xfs", "errors=remount-ro", None).why.contains("belongs to ext4, vfat, exfat, bcachefs")
        );
        assert!(verdict("xfs", "nobarrier", Some(Version(6, 1))).why.contains("in kernel 4.19"));
        assert_eq!(verdict("xfs", "nobarrier", None).verdict, Verdict::Unknown);
    }
}
