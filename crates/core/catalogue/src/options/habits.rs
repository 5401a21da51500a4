//! What programs behind FUSE make of the flags of a mount: some hold to a flag whatever
//! the list says, some hand the kernel only a few (recorded: `options-shown-fuse`).

use bradawl_facts::table::OptionItem;

/// What a program holds to.
struct Habit {
    /// Its type, without `fuse.`.
    of: &'static str,
    /// Words that hold in place of others, whatever the list says.
    always: &'static [(&'static str, &'static str)],
    /// Flags of a list that do not reach the mount.
    unheard: &'static [&'static str],
}

/// What a program of the library is mounted with by another one, which lets root's
/// programs and devices not hold.
const BY_ANOTHER: &[(&str, &str)] = &[("suid", "nosuid"), ("dev", "nodev")];

const HABITS: [Habit; 3] = [
    Habit {
        of: "davfs",
        always: BY_ANOTHER,
        unheard: &["noatime", "nodiratime", "strictatime", "nosymfollow", "lazytime", "sync", "dirsync"],
    },
    Habit {
        of: "rclone",
        always: BY_ANOTHER,
        unheard: &[
            "noexec",
            "noatime",
            "nodiratime",
            "strictatime",
            "nosymfollow",
            "lazytime",
            "sync",
            "dirsync",
        ],
    },
    Habit {
        of: "fuse-overlayfs",
        always: &[("relatime", "noatime"), ("strictatime", "noatime")],
        unheard: &["nosymfollow", "lazytime", "sync", "dirsync"],
    },
];

/// Types whose library mounts through a program of its own where `auto_unmount` is asked
/// for. Of squashfuse one release does, and one does not: not counted on.
const UNMOUNTED: [&str; 5] = ["bindfs", "mergerfs", "s3fs", "sshfs", "unionfs"];

/// Changes the normal form of a list to what the program of the type makes of it.
pub(super) fn apply(fstype: &str, options: &[OptionItem], normal: &mut Vec<String>) {
    let name = fstype.strip_prefix("fuse.").unwrap_or(fstype);
    let habit = HABITS.iter().find(|habit| habit.of == name);
    let through_another = UNMOUNTED.contains(&name) && options.iter().any(|o| o.name == "auto_unmount");
    let always = habit.map(|h| h.always).or(through_another.then_some(BY_ANOTHER)).unwrap_or_default();
    normal.retain_mut(|word| {
        if habit.is_some_and(|h| h.unheard.contains(&word.as_str())) {
            match usual(word) {
                Some(usual) => *word = usual.to_owned(),
                None => return false,
            }
        }
        if let Some((_, held)) = always.iter().find(|(other, _)| other == word) {
            *word = (*held).to_owned();
        }
        true
    });
    if name == "rclone" && options.iter().any(reads_only) {
        normal.iter_mut().filter(|word| *word == "rw").for_each(|word| *word = "ro".to_owned());
    }
}

/// What holds where a flag does not; `None`: nothing is said of it then.
fn usual(flag: &str) -> Option<&'static str> {
    match flag {
        "noexec" => Some("exec"),
        "sync" => Some("async"),
        "noatime" | "strictatime" => Some("relatime"),
        _ => None,
    }
}

/// The word by which rclone mounts read-only, in any spelling that it takes.
fn reads_only(option: &OptionItem) -> bool {
    let name = option.name.to_ascii_lowercase().replace('_', "-");
    let value = option.value.as_deref().map(str::to_ascii_lowercase);
    name == "read-only" && !matches!(value.as_deref(), Some("0" | "f" | "false"))
}
