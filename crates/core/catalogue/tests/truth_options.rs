//! The option catalogue against what real kernels answered.
//!
//! `fixtures/options.tsv.zst` and `options-more.tsv.zst` (lab/option-lists.py,
//! from devices), `options-here.tsv.zst` (the same lists asked of the kernel of the machine that recorded them) and
//! `options-older` (those of `options-more` asked of 5.10), `options-helpers` (NFS, SMB, 9P, sshfs and ntfs-3g with their
//! servers, lab/record-helpers.py), `options-fuse` (other programs of FUSE, by the same) and `options-readers` (Ceph, virtiofs
//! and bcachefs: the kernel's reader alone): type, variant of the
//! image, options, and the answers: kernel, mount program (`m`: with the older mount call), and `+` (mounted), `i` (mounted, option ignored) or `-` (refused). Every answer is
//! held against the catalogue; those that depend on what no list can tell are
//! named with their reason.

#![allow(clippy::disallowed_methods, clippy::unwrap_used)] // fixtures are files

use bradawl_catalogue::fstypes::not_built_for;
use bradawl_catalogue::options::{About, Asked, MountSource, Verdict, check, of_type};
use bradawl_facts::Version;
use bradawl_facts::record::{Content, ContentKind, KernelBuild};
use bradawl_facts::table::Table;
use std::collections::{BTreeMap, BTreeSet};
use std::io::Read as _;

/// Answers that the list of options does not decide: type, variant, what the
/// options contain, and why.
const NOT_OURS: &[(&str, &str, &str, &str)] = &[
    ("*", "*", "noatime\"", "a stray quote, read as part of nothing by one mount program"),
    ("*", "*", "X-mount.subdir=", "depends on the directories in the image"),
    ("*", "*", "X-mount.idmap=b:", "depends on id-mapped mounts of the type"),
    ("*", "*", "X-mount.idmap=0:0:1", "depends on id-mapped mounts of the type"),
    ("xfs", "*", "max_atomic_write", "depends on what the disk writes at once"),
    ("overlay", "*", "+=/", "depends on the directories"),
    ("overlay", "*", "w,workdir=/", "depends on the directories"),
    ("hugetlbfs", "*", "nr_inodes=18446744073709551616", "wraps around"),
    ("ntfs-3g", "*", " ro", "a stray blank"),
    ("davfs", "*", " ro", "a stray blank"),
    ("ext4", "default", "ro=vfs", "one kernel and program of four refuse it"),
    ("ext4", "nojournal", "sb=8193", "the image has no copy there"),
    ("ext4", "nojournal", "fc_debug_force", "a kernel built for debugging"),
    ("btrfs", "*", "subvol", "depends on the subvolumes in the image"),
    ("btrfs", "degraded", "", "a device of the image is absent"),
    ("btrfs", "default", "ro,rescue=ignorebadroots:ignoredatacsums", "answers differ without order"),
    ("hugetlbfs", "*", "pagesize=1", "depends on the processor and its memory"),
    ("iso9660", "*", "sbsector=", "depends on where the image begins"),
    ("iso9660", "*", "session=99", "depends on the sessions of the disc"),
    ("iso9660", "*", "private", "one kernel refuses it on what cannot be written to"),
    ("iso9660", "*", "unbindable", "one kernel refuses it on what cannot be written to"),
    ("udf", "*", "session=", "depends on the sessions of the disc"),
    ("udf", "*", "bs=", "depends on the block size of the image"),
    ("proc", "*", "gid=4294967295", "the number that means none"),
    ("overlay", "*", "w,upperdir=/", "depends on the directories"),
    ("ntfs", "*", "", "the kernels do not have the type"),
    ("ntfs3", "*", "", "two kernels do not have the type"),
    ("overlay", "*", "nosuch", "depends on the directories"),
    ("overlay", "*", "lowerdir=/ov/u,upperdir=/ov/u", "depends on the directories"),
    ("cgroup", "*", "cpu,cpuacct", "depends on controllers in use elsewhere"),
    ("udf", "*", "uid=1000,uid=forget", "one kernel of three takes it"),
    ("9p", "*", "access=", "what is mounted is another's"),
    ("cifs", "*", "sec=krb5", "needs a ticket"),
    ("cifs", "*", "handletimeout=2147483647", "longer than kernels since some between 6.1 and 6.12 wait"),
    ("nfs", "*", "port=0x", "read as nothing by one kernel"),
    ("cifs", "*", "compress", "depends on how the kernel was built since 6.9"),
    ("cifs", "*", "dir_mode=2147483647", "the mounting program makes something else of it"),
    ("nfs", "*", "sec=krb5", "needs a ticket"),
    ("nfs", "*", "sec=lkey", "the server does not offer it"),
    ("nfs", "*", "sec=n", "the server does not offer it"),
    ("nfs", "*", "rdma", "needs a device for it"),
    ("nfs", "*", "proto=tcp6", "the server's address is of the other kind"),
    ("nfs", "*", "proto=udp", "few kernels are built for it"),
    ("nfs", "*", "v2", "depends on how kernel and server were built"),
    ("nfs", "*", "vers=2", "depends on how kernel and server were built"),
    ("nfs", "*", "mountvers=1", "depends on how kernel and server were built"),
    ("nfs", "*", "mounthost=", "depends on which names are known"),
    ("nfs", "*", "xprtsec=", "needs a program that encrypts"),
    ("nfs4", "*", "xprtsec=", "needs a program that encrypts"),
    ("fuse.sshfs", "*", "nofail", "the init system takes it out of what it hands on"),
    ("fuse.sshfs", "*", "context", "a label where there are none"),
    ("ntfs-3g", "*", "user=", "the name of who mounts it, where there is a list of mounts"),
    ("fuse.sshfs", "*", "atime,noatime", "one word takes the other back before they are handed on"),
    ("*", "*", "setuid=", "depends on which users there are"),
    ("fuse.bindfs", "*", "drop_privileges", "a word of what starts it, in Debian 13"),
    ("fuse.gocryptfs", "*", "fsname", "a value that is left out is the next word"),
    ("fuse.gocryptfs", "*", "d=TRUE", "stays in the foreground"),
    ("fuse.gocryptfs", "*", "bind", "its source is a directory"),
    ("fuse.bindfs", "*", "group=1", "a flag with a value"),
    ("fuse.bindfs", "*", "context", "a label where there are none"),
    ("fuse.s3fs", "*", "parallel_", "depends on how many threads there may be"),
    ("rclone", "*", "rgs2env", "a word that is not read as the others"),
    ("rclone", "*", "cache-dir,cache-dir", "a value that is left out is the next word"),
    ("rclone", "*", "id=+1", "one release of two takes it"),
    ("fuse.gocryptfs", "*", "user=", "a word with a value, which it takes for its own"),
    ("fuse.gocryptfs", "*", "ctlsock", "what is named has to be there, or is the next word"),
    ("fuse.gocryptfs", "*", "fido2", "a value that is left out is the next word"),
    ("fuse.gocryptfs", "*", "badname", "a value that is left out is the next word"),
    ("fuse.gocryptfs", "*", "exclude-from", "a value that is left out is the next word"),
    ("fuse.gocryptfs", "*", "trace", "a value that is left out is the next word"),
    ("fuse.gocryptfs", "*", "wpanic", "depends on what it warns of"),
    ("fuse.bindfs", "*", "bind", "its source is a directory"),
    ("davfs", "*", "uid=", "depends on which users there are"),
    ("davfs", "*", "gid=", "depends on which users there are"),
    ("davfs", "*", "move", "its source is no path"),
    ("davfs", "*", "file_mode", "one release of two takes it without a value"),
    ("rclone", "*", "user=", "a word with a value, which it takes for its own"),
    ("fuse.s3fs", "*", "bucket=", "what is named has to be there"),
    ("fuse.unionfs", "*", "context", "a label where there are none"),
    ("fuse.squashfuse", "*", "offset", "its source is a file"),
    ("fuse.s3fs", "*", "ensure_diskfree=", "depends on how much room there is"),
    ("fuse.s3fs", "*", "multipart_size=5120", "depends on how much room there is"),
    ("fuse.fuse-overlayfs", "*", "nolowerdir", "the recorder left out the layers"),
    ("fuse.s3fs", "*", "retries=", "wraps around in one release"),
    ("fuse.s3fs", "*", "credlib_opts=0", "what names nothing asks for nothing"),
    ("*", "*", ":tide_t", "the policy knows no such type"),
    ("*", "*", "context=\"", "a stray quote"),
    ("debugfs", "*", "context", "it is mounted already, without a label"),
    ("fuse.gocryptfs", "*", "nofail=1", "a flag with a value, which it takes for the flag"),
    ("fuse.mergerfs", "*", "context", "a label where there are none"),
    ("fuse.bindfs", "*", "fsname=", "it has a name of its own"),
    ("fuse.gocryptfs", "*", "suid=", "the flag, for one mount program"),
    ("fuse.gocryptfs", "*", "e=0", "what names nothing asks for nothing"),
    ("fuse.squashfuse", "*", "fsname=-1", "one release takes it for a word of its own"),
    ("fuse.s3fs", "*", "free_space_ratio=4294967296", "wraps around"),
    ("fuse.fuse-overlayfs", "*", "max_write", "without its value it is another's word"),
    ("fuse.gocryptfs", "*", "dev=", "the flag, for one mount program"),
    ("fuse.gocryptfs", "*", "exec=", "the flag, for one mount program"),
    ("fuse.unionfs", "*", "max_files=", "how many may be open hangs on the host"),
    ("fuse.unionfs", "*", "silent,loud", "one word takes the other back before they are handed on"),
    ("fuse.s3fs", "*", "fake_diskfree=", "version 1.90 takes as much as there is room for"),
    ("fuse.s3fs", "*", "createbucket", "version 1.90 alone knows it"),
    ("fuse.s3fs", "*", "context", "a label where there are none"),
    ("fuse.s3fs", "*", "private=", "a flag with a value"),
    ("fuse.squashfuse", "*", "context", "a label where there are none"),
    ("fuse.squashfuse", "*", "max_read=", "the kernel and its library have to agree"),
    ("fuse.squashfuse", "*", "subtype=-1", "one release of two refuses it"),
    ("fuse.squashfuse", "*", "sizelimit", "its source is a file"),
    ("fuse.fuse-overlayfs", "*", "context", "a label where there are none"),
    ("fuse.fuse-overlayfs", "*", "remount", "nothing is mounted there"),
    ("davfs", "*", "remount", "nothing is mounted there"),
    ("fuse.fuse-overlayfs", "*", "no_splice_write=1", "one release of two refuses it"),
    ("fuse.fuse-overlayfs", "*", "move", "its source is no path"),
    ("*", "*", "auto=", "the older mount program takes a value"),
    ("*", "*", "loop=", "another loop device over what is one"),
];

/// What was recorded after the first lists, from devices.
const OTHERS: [&str; 7] = [
    "options-more",
    "options-older",
    "options-here",
    "options-helpers",
    "options-fuse",
    "options-readers",
    SELINUX,
];
/// With SELinux and the policy of Debian.
const SELINUX: &str = "options-selinux";

struct Row {
    source: MountSource,
    fstype: String,
    variant: String,
    options: String,
    /// Whether SELinux ran.
    labels: bool,
    answers: Vec<Answer>,
}

struct Answer {
    kernel: Version,
    program: Version,
    accepted: bool,
}

/// The fixtures' rows; those of another collection where `BRADAWL_OPTIONS` names
/// one, unpacked.
fn rows() -> Vec<Row> {
    match std::env::var_os("BRADAWL_OPTIONS") {
        Some(other) => {
            let text = std::fs::read_to_string(&other).unwrap();
            parsed(&text, MountSource::Device, other.to_string_lossy().contains("selinux"))
        }
        None => {
            let mut rows = parsed(&unpacked("options"), MountSource::Unknown, false);
            for name in OTHERS {
                rows.extend(parsed(&unpacked(name), MountSource::Device, name == SELINUX));
            }
            rows
        }
    }
}

fn unpacked(name: &str) -> String {
    let path = format!("{}/tests/fixtures/{name}.tsv.zst", env!("CARGO_MANIFEST_DIR"));
    let packed = std::fs::read(path).unwrap();
    let mut text = String::new();
    ruzstd::decoding::StreamingDecoder::new(packed.as_slice()).unwrap().read_to_string(&mut text).unwrap();
    text
}

fn parsed(text: &str, source: MountSource, labels: bool) -> Vec<Row> {
    let row = |line: &str| {
        let cells: Vec<&str> = line.split('\t').collect();
        let [fstype, variant, options, answers] = cells.as_slice() else { panic!("{line}") };
        Row {
            source: if *variant == "none" { MountSource::Unknown } else { source },
            fstype: (*fstype).to_owned(),
            variant: (*variant).to_owned(),
            options: (*options).to_owned(),
            labels,
            answers: answers.split(' ').map(answer).collect(),
        }
    };
    text.lines().map(row).collect()
}

/// `6.1/2.38+`.
fn answer(text: &str) -> Answer {
    let (versions, said) = text.split_at(text.len() - 1);
    let (kernel, program) = versions.trim_end_matches('m').split_once('/').unwrap();
    let version = |text| Version::parse(text).unwrap();
    Answer { kernel: version(kernel), program: version(program), accepted: said != "-" }
}

/// What a probe says of the images of a variant.
fn content(row: &Row) -> Content {
    let mut content = Content::new(ContentKind::Filesystem, Some(&row.fstype));
    let features: &[&str] = match (row.fstype.as_str(), row.variant.as_str()) {
        ("ext4", "nojournal") | ("ext2", _) => &["ext_attr"],
        ("ext4", "quota") => &["has_journal", "quota", "project"],
        ("ext3" | "ext4", _) => &["has_journal"],
        ("f2fs", "compress" | "compressed") => &["extra_attr", "compression"],
        ("f2fs", "quota") => &["extra_attr", "project_quota", "quota"],
        ("btrfs", "v1cache") => &["mixed-backref", "big-metadata"],
        ("btrfs", _) => &["free-space-tree", "mixed-backref", "big-metadata"],
        _ => &[],
    };
    content.features = features.iter().map(|f| (*f).to_owned()).collect();
    content.version = (row.variant == "v4").then(|| "4".to_owned());
    content
}

/// What the recorded kernels were built with: 6.18 is another's than Debian's.
fn built(kernel: Version) -> KernelBuild {
    let all =
        ["QFMT_V2", "UNICODE", "XFS_QUOTA", "XFS_SUPPORT_V4"].map(|n| format!("CONFIG_{n}=y\n")).concat();
    let none = all.replace("CONFIG_", "# CONFIG_").replace("=y", " is not set");
    let text = if kernel >= Version(6, 18) { none } else { all };
    KernelBuild::parse(
        "config",
        &(text + "# CONFIG_TMPFS_QUOTA is not set\n# CONFIG_CIFS_SWN_UPCALL is not set\n"),
    )
    .unwrap()
}

fn mounts_read_only(options: &[bradawl_facts::table::OptionItem]) -> bool {
    options.iter().any(|o| o.name == "ro")
}

/// How the catalogue is asked.
#[derive(Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Debug)]
enum Mode {
    /// With what is usual taken for what is not known: what the lists were
    /// recorded on.
    Typical,
    /// As audit asks: what the device holds is known, and so is the mount
    /// program; what is not known refuses nothing.
    Audit,
    /// As `bradawl options TYPE LIST` asks: the kernel alone is known.
    Reference,
}

/// What the catalogue says of the list.
enum Said {
    /// Whether it is taken.
    Taken(bool),
    /// That it hangs on the version of the type's own program.
    ByProgram,
    /// That it is not known.
    Unknown,
}

/// Whether the catalogue takes the list; `None` when it does not know.
fn verdict(row: &Row, answer: &Answer, mode: Mode) -> Option<bool> {
    match said(row, answer, mode) {
        Said::Taken(taken) => Some(taken),
        Said::ByProgram | Said::Unknown => None,
    }
}

fn said(row: &Row, answer: &Answer, mode: Mode) -> Said {
    let field = String::from_utf8(bradawl_facts::table::encode(row.options.as_bytes())).unwrap();
    let field = if field.is_empty() { "defaults" } else { &field };
    let table = Table::parse(format!("s /t {} {field}", row.fstype));
    let entry = table.entries().remove(0);
    let content = content(row);
    let built = built(answer.kernel);
    let mounted = mounts_read_only(&entry.options);
    if mode != Mode::Reference && not_built_for(&content, &built, mounted).is_some() {
        return Said::Taken(false);
    }
    let bare = Asked::new(&row.fstype, &entry.options, Some(answer.kernel));
    let program = Some(answer.program);
    let helper = helper(&row.fstype, answer.program);
    let known = Asked {
        program,
        helper,
        content: Some(&content),
        source: row.source,
        built: Some(&built),
        labels: Some(row.labels),
        ..bare
    };
    let asked = match mode {
        Mode::Typical => Asked { typical: true, ..known },
        Mode::Audit => known,
        Mode::Reference => Asked { typical: true, ..bare },
    };
    let checked = check(&asked);
    match checked.iter().map(|c| c.verdict).max().unwrap_or(Verdict::Accepted) {
        Verdict::Refused => Said::Taken(false),
        Verdict::Unknown if checked.iter().any(|c| c.about == About::Program) => Said::ByProgram,
        Verdict::Unknown => Said::Unknown,
        Verdict::Accepted | Verdict::Ignored => Said::Taken(true),
    }
}

/// The program of the type that was asked, told by the mount program beside it: Debian 12 and 13.
fn helper(fstype: &str, mount_program: Version) -> Option<Version> {
    let [older, newer] = match fstype.strip_prefix("fuse.").unwrap_or(fstype) {
        "mergerfs" => [Version(2, 33), Version(2, 40)],
        "s3fs" => [Version(1, 90), Version(1, 95)],
        "rclone" => [Version(1, 60), Version(1, 60)],
        "bindfs" => [Version(1, 14), Version(1, 14)],
        "gocryptfs" => [Version(2, 3), Version(2, 5)],
        "davfs" => [Version(1, 6), Version(1, 7)],
        "squashfuse" => [Version(0, 1), Version(0, 5)],
        _ => return None,
    };
    Some(if mount_program < Version(2, 39) { older } else { newer })
}

/// Whether its program has words that nobody lists.
fn is_open(fstype: &str) -> bool {
    of_type(fstype).is_some_and(|spec| spec.open)
}

fn exception(row: &Row) -> Option<usize> {
    NOT_OURS.iter().position(|(fstype, variant, part, _)| {
        let fits = |pattern: &str, text: &str| pattern == "*" || pattern == text;
        let whole = if part.is_empty() { true } else { row.options.contains(part) };
        fits(fstype, &row.fstype) && fits(variant, &row.variant) && whole
    })
}

#[test]
fn every_recorded_answer_is_given() {
    let mut share: BTreeMap<(String, String), [usize; 2]> = BTreeMap::new();
    let mut wrong = Vec::new();
    let mut needed = vec![false; NOT_OURS.len()];
    let (mut by_program, mut open) = (0, 0);
    for row in rows() {
        for answer in &row.answers {
            let right = verdict(&row, answer, Mode::Typical) == Some(answer.accepted);
            let slot = share.entry((answer.kernel.to_string(), row.fstype.clone())).or_default();
            slot[1] += 1;
            slot[0] += usize::from(right);
            match exception(&row) {
                _ if right => {}
                _ if matches!(said(&row, answer, Mode::Typical), Said::ByProgram) => by_program += 1,
                _ if is_open(&row.fstype) && matches!(said(&row, answer, Mode::Typical), Said::Unknown) => {
                    open += 1
                }
                Some(n) => needed[n] = true,
                None => wrong.push(format!(
                    "{} [{}] {} on {} with {}: {}",
                    row.fstype, row.variant, row.options, answer.kernel, answer.program, answer.accepted
                )),
            }
        }
    }
    for ((kernel, fstype), [right, all]) in &share {
        println!("{kernel} {fstype}: {right} of {all}");
    }
    let total = share.values().fold([0, 0], |sum, n| [sum[0] + n[0], sum[1] + n[1]]);
    println!("{} of {} recorded answers given", total[0], total[1]);
    println!(
        "{by_program} hang on the version of a program, {open} are about words of a store that are not known"
    );
    assert!(wrong.is_empty(), "{} wrong: {wrong:#?}", wrong.len());
    let stale: Vec<_> = NOT_OURS.iter().zip(&needed).filter(|(_, needed)| !**needed).collect();
    assert!(stale.is_empty(), "no longer needed: {stale:?}");
    // The exceptions are few.
    assert!((total[0] + by_program + open) * 1000 >= total[1] * 992, "{total:?}");
}

/// The share of recorded answers in each mode, and how often a list that was
/// taken is said to be refused: audit has to be sure before it says so.
#[test]
fn audit_is_as_right_as_the_reference() {
    let mut share: BTreeMap<(String, Mode), [usize; 2]> = BTreeMap::new();
    let (mut all, mut said_refused) = (BTreeMap::new(), Vec::new());
    for row in rows() {
        for answer in &row.answers {
            for mode in [Mode::Typical, Mode::Audit, Mode::Reference] {
                let said = verdict(&row, answer, mode);
                let right = usize::from(said == Some(answer.accepted));
                for slot in
                    [share.entry((row.fstype.clone(), mode)).or_default(), all.entry(mode).or_insert([0, 0])]
                {
                    *slot = [slot[0] + right, slot[1] + 1];
                }
                if mode == Mode::Audit && said == Some(false) && answer.accepted && exception(&row).is_none()
                {
                    said_refused.push(format!("{} {} on {}", row.fstype, row.options, answer.kernel));
                }
            }
        }
    }
    let shown = |[right, all]: [usize; 2]| format!("{right} of {all}");
    for ((fstype, mode), count) in &share {
        if *mode == Mode::Typical {
            let of = |mode| shown(share[&(fstype.clone(), mode)]);
            println!(
                "{fstype}: {} as recorded, {} as audit asks, {} bare",
                shown(*count),
                of(Mode::Audit),
                of(Mode::Reference)
            );
        }
    }
    println!(
        "{}",
        all.iter().map(|(mode, n)| format!("{mode:?} {}", shown(*n))).collect::<Vec<_>>().join(", ")
    );
    assert!(said_refused.is_empty(), "refused by audit, taken by the kernel: {said_refused:#?}");
    // docs/model/verified.md tells these figures.
    let page = concat!(env!("CARGO_MANIFEST_DIR"), "/../../../docs/model/verified.md");
    let page = std::fs::read_to_string(page).unwrap();
    let grouped = |n: usize| format!("{},{:03}", n / 1000, n % 1000);
    let lists = rows().len();
    let types: BTreeSet<String> = rows().into_iter().map(|row| row.fstype).collect();
    let size = format!("{} option lists for {} types", grouped(lists), types.len());
    assert!(page.contains(&size), "docs/model/verified.md does not say {size}");
    for (mode, row) in [
        (Mode::Typical, "as recorded"),
        (Mode::Audit, "as audit asks"),
        (Mode::Reference, "the kernel alone"),
    ] {
        let [right, count] = all[&mode];
        let row = format!("| {row} | {} of {} |", grouped(right), grouped(count));
        assert!(page.contains(&row), "docs/model/verified.md has no row {row}");
    }
}
