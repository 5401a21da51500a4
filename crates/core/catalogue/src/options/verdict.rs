use super::List;
use super::effective::flag_in_force;
use super::judge::one;
use super::kind::Kind;
use super::near::near_names;
use super::program::{MountBy, USUAL_PROGRAM, program_of};
use bradawl_facts::Version;
use bradawl_facts::record::{Accounts, Content, KernelBuild};
use bradawl_facts::table::OptionItem;
use smallvec::SmallVec;

/// Near names are looked for in this many refused options of one list.
const MAX_NEAR: usize = 20;

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
    /// Version of the program that mounts the type, where that is another one and known.
    pub helper: Option<Version>,
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
    /// Sizes of huge pages that the processor has, in bytes, where they are known.
    pub huge_pages: Option<&'a [u64]>,
    /// Whether labels of SELinux count, where that is known.
    pub labels: Option<bool>,
    /// The mount program: the small ones of an initramfs hand most options to the
    /// kernel as they stand.
    pub by: MountBy,
}

impl<'a> Asked<'a> {
    /// Version of the mount program, or of the kernel's time.
    pub fn program(&self) -> Version {
        self.program.or(self.kernel.map(program_of)).unwrap_or(USUAL_PROGRAM)
    }

    pub(super) fn new_program(&self) -> bool {
        self.program() >= Version(2, 39)
    }

    /// A list for a type on a kernel, with nothing else known.
    pub fn new(fstype: &'a str, options: &'a [OptionItem], kernel: Option<Version>) -> Self {
        Asked {
            fstype,
            options,
            kernel,
            program: None,
            helper: None,
            content: None,
            source: MountSource::Unknown,
            mounted: false,
            accounts: None,
            typical: false,
            built: None,
            huge_pages: None,
            labels: None,
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
    let list = List {
        options: asked.options,
        verdicts: &verdicts,
        kernel,
        content,
        huge_pages: asked.huge_pages,
        typical: asked.typical,
    };
    (kind.spec?.whole)(&list)
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
    fn what_the_machine_has_decides() {
        let labels = Table::parse("s /t ext4 context=system_u:object_r:tide_t:s0,noatime");
        let pages = Table::parse("s /t hugetlbfs pagesize=16M,mode=0700");
        let worst = |table: &Table, fstype: &str, huge: Option<&[u64]>, labels: Option<bool>| {
            let entry = &table.entries()[0];
            let bare = Asked::new(fstype, &entry.options, Some(Version(6, 12)));
            let checked = check(&Asked { huge_pages: huge, labels, ..bare });
            checked.iter().map(|c| c.verdict).max()
        };
        for (sizes, expected) in [
            (None, Verdict::Accepted),
            (Some([2 << 20, 1 << 30]), Verdict::Refused),
            (Some([64 << 10, 16 << 20]), Verdict::Accepted),
        ] {
            let sizes = sizes.as_ref().map(|all: &[u64; 2]| all.as_slice());
            assert_eq!(worst(&pages, "hugetlbfs", sizes, None), Some(expected), "{sizes:?}");
        }
        let short = Table::parse("s /t ext4 context=system_u:object_r:tide_t");
        for (count, whole, without_level) in [
            (None, Verdict::Accepted, Verdict::Accepted),
            (Some(false), Verdict::Ignored, Verdict::Ignored),
            (Some(true), Verdict::Accepted, Verdict::Refused),
        ] {
            assert_eq!(worst(&labels, "ext4", None, count), Some(whole), "{count:?}");
            assert_eq!(worst(&short, "ext4", None, count), Some(without_level), "{count:?}");
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
