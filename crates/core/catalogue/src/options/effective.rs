use super::habits;
use super::program::NEW;
use super::shown::shown;
use super::{Opt, common};
use bradawl_facts::Version;
use bradawl_facts::table::OptionItem;
use std::sync::LazyLock;

/// Whether an option is in force in a list: `nosuid`, or with its value
/// `size=1G`. Of contradicting ones the last counts, options bring others along
/// where they stand (mount(8)), and access times are a matter of the mount
/// program (`program`: its version).
pub fn in_force(options: &[OptionItem], wanted: &str, program: Version) -> bool {
    match Times::named(wanted) {
        Some(times) => Times::of(options, program) == times,
        None => flag_in_force(options, wanted, program),
    }
}

/// The same for all but access times.
pub(super) fn flag_in_force(options: &[OptionItem], wanted: &str, program: Version) -> bool {
    if let Some((name, value)) = wanted.split_once('=') {
        let last = options.iter().rev().find(|o| o.name == name);
        return last.is_some_and(|o| o.value.as_deref() == Some(value));
    }
    let Some((on, off)) = pair(wanted) else { return options.iter().any(|o| o.name == wanted) };
    let mut state = false;
    for (n, option) in options.iter().enumerate() {
        let name = option.name.as_str();
        if !counts(option, program) {
            continue;
        }
        // Since 2.39 `nouser` takes back all that `user` brought (recorded).
        let undone = || {
            let undoes = |o: &OptionItem| o.name.strip_prefix("no") == Some(name);
            program >= NEW && options[n + 1..].iter().any(undoes)
        };
        state = match name {
            _ if name != on && undone() => state,
            _ if name == on || brings_as_written(option, on, program) => true,
            _ if name == off => false,
            _ => state,
        };
    }
    state == (wanted == on)
}

/// Flags of the file system: the kernel finds them by their name, whatever value
/// stands behind (recorded: `lazytime=1`, `dirsync=1`).
const OF_SYSTEM: [&str; 8] = ["ro", "rw", "sync", "async", "dirsync", "lazytime", "nolazytime", "mand"];

/// Whether a flag comes with an option as it is written: `user=` is somebody's name,
/// the values of the others say nothing to programs since 2.39 (recorded).
fn brings_as_written(option: &OptionItem, flag: &str, program: Version) -> bool {
    let plain = option.value.is_none() || (program >= NEW && option.name != "user");
    plain && brings(&option.name, flag)
}

/// Whether an option with its value is the flag of its name: of those of a mount,
/// only programs since 2.39 pass over the value (recorded: `noatime=1`,
/// `nosymfollow=1`).
fn counts(option: &OptionItem, program: Version) -> bool {
    option.value.as_deref().is_none_or(str::is_empty)
        || program >= NEW
        || OF_SYSTEM.contains(&option.name.as_str())
}

/// The two words of a flag, the one that does not hold by itself first.
fn pair(word: &str) -> Option<(&'static str, &'static str)> {
    HOLDING.iter().find(|(on, off)| *on == word || *off == word).copied()
}

/// Whether a flag comes with another option, as its row says.
fn brings(name: &str, flag: &str) -> bool {
    // Few do, and each option of each list is asked.
    static BRINGING: LazyLock<Vec<&Opt>> =
        LazyLock::new(|| common().iter().filter(|row| !row.implies.is_empty()).collect());
    BRINGING.iter().any(|row| row.name == name && row.implies.contains(&flag))
}

/// Words that hold when nothing else is said, in the order of the normal form.
const HOLDING: [(&str, &str); 10] = [
    ("ro", "rw"),
    ("nosuid", "suid"),
    ("nodev", "dev"),
    ("noexec", "exec"),
    ("sync", "async"),
    ("noauto", "auto"),
    ("nodiratime", "diratime"),
    ("nofail", "fail"),
    ("lazytime", "nolazytime"),
    ("nosymfollow", "symfollow"),
];
/// Flags of a mount that do not hold by themselves, as the kernel shows them.
pub const FLAGS: [&str; 11] = [
    "ro",
    "nosuid",
    "nodev",
    "noexec",
    "noatime",
    "nodiratime",
    "strictatime",
    "nosymfollow",
    "lazytime",
    "sync",
    "dirsync",
];
/// Those of them that belong to the mount; the others are the file system's.
pub const MOUNT_FLAGS: &[&str] = FLAGS.split_at(8).0;

/// Of these the normal form says nothing while they hold.
const UNSAID: [&str; 4] = ["diratime", "fail", "nolazytime", "symfollow"];

/// How access times are kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Times {
    Relative,
    Never,
    Always,
}

impl Times {
    const fn word(self) -> &'static str {
        match self {
            Times::Relative => "relatime",
            Times::Never => "noatime",
            Times::Always => "strictatime",
        }
    }

    /// What one of the three words asks for.
    fn named(word: &str) -> Option<Self> {
        [Times::Relative, Times::Never, Times::Always].into_iter().find(|t| t.word() == word)
    }

    /// What a list asks for. Mount programs before 2.39 hand the kernel a set
    /// of flags, in which strictatime counts before noatime, and that before
    /// relatime; since then the last of the three words that is not taken back
    /// counts (recorded with 2.38 and 2.41: `option-pairs.tsv`).
    fn of(options: &[OptionItem], program: Version) -> Self {
        let mut asked: Vec<Times> = Vec::new();
        for option in options.iter().filter(|o| counts(o, program)) {
            let undone = match option.name.as_str() {
                "atime" => Some(Times::Never),
                "nostrictatime" => Some(Times::Always),
                "norelatime" => Some(Times::Relative),
                _ => None,
            };
            asked.retain(|times| Some(*times) != undone);
            asked.extend(Times::named(&option.name));
        }
        match () {
            () if program >= NEW => asked.last().copied().unwrap_or(Times::Relative),
            () if asked.contains(&Times::Always) => Times::Always,
            () if asked.contains(&Times::Never) => Times::Never,
            () => Times::Relative,
        }
    }
}

/// Words that say how access times are kept.
const TIMES: [&str; 6] = ["relatime", "noatime", "strictatime", "norelatime", "atime", "nostrictatime"];

/// What a list really means by a mount program of this version, in a normal
/// form: the flags that hold, then how access times are kept, then every other
/// option once, as its last mention has it, by name.
pub fn effective(options: &[OptionItem], program: Version) -> Vec<String> {
    let mut normal: Vec<String> = Vec::new();
    for (on, off) in HOLDING {
        let word = if flag_in_force(options, on, program) { on } else { off };
        normal.extend((!UNSAID.contains(&word)).then(|| word.to_owned()));
    }
    normal.push(Times::of(options, program).word().to_owned());
    let mut others: Vec<&OptionItem> = Vec::new();
    for option in options {
        let name = option.name.as_str();
        let shown = name == "defaults"
            || (TIMES.contains(&name) || pair(name).is_some()) && counts(option, program)
            || matches!(name, "nouser" | "nogroup" | "noowner");
        others.retain(|o| o.name != name);
        if !shown {
            others.push(option);
        }
    }
    others.sort_by(|a, b| a.name.cmp(&b.name));
    normal.extend(others.into_iter().map(|option| written(option, program)));
    normal
}

/// The same of a type: what it is by itself comes to the flags, and values are in the
/// form in which the kernel shows them.
pub fn effective_of(fstype: &str, options: &[OptionItem], program: Version) -> Vec<String> {
    let mut normal = effective(options, program);
    for word in &mut normal {
        if let Some((name, value)) = word.split_once('=')
            && let Some(shown) = shown(fstype, name, value)
        {
            *word = format!("{name}={shown}");
        }
    }
    let has = |name: &str| options.iter().any(|o| o.name == name);
    if is_read_only(fstype, options)
        && let Some(word) = normal.iter_mut().find(|word| *word == "rw")
    {
        *word = "ro".to_owned();
    }
    habits::apply(fstype, options, &mut normal);
    // f2fs keeps times so unless it is told otherwise (recorded).
    let at = normal.iter().position(|word| TIMES.contains(&word.as_str()));
    if fstype == "f2fs" && !has("nolazytime") && !normal.iter().any(|word| word == "lazytime") {
        normal.insert(at.unwrap_or(normal.len()), "lazytime".to_owned());
    }
    normal
}

/// Whether a file system is read-only whatever the list says of it (recorded).
fn is_read_only(fstype: &str, options: &[OptionItem]) -> bool {
    let named = |name: &str, value: Option<&str>| {
        options.iter().any(|o| o.name == name && value.is_none_or(|v| o.value.as_deref() == Some(v)))
    };
    match fstype {
        "erofs" | "iso9660" | "squashfs" | "cramfs" | "romfs" => true,
        "overlay" => !named("upperdir", None),
        "vfat" | "msdos" => named("nfs", Some("nostale_ro")),
        _ => false,
    }
}

/// Whether a word of the normal form holds where nothing is said.
pub fn is_usual(word: &str) -> bool {
    word == Times::Relative.word() || HOLDING.iter().any(|(_, off)| *off == word)
}

fn written(option: &OptionItem, program: Version) -> String {
    match &option.value {
        Some(_) if FLAGS.contains(&option.name.as_str()) && counts(option, program) => option.name.clone(),
        Some(value) => format!("{}={value}", option.name),
        None => option.name.clone(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    #[test]
    fn truth_table() {
        for (list, wanted, expected) in [
            ("defaults", "nosuid", false),
            ("nosuid,defaults", "nosuid", true),
            ("nosuid,suid", "nosuid", false),
            ("user", "noexec", true),
            ("user,exec", "noexec", false),
            ("exec,user", "noexec", true),
            ("owner", "noexec", false),
            ("ro", "rw", false),
            ("defaults", "rw", true),
            ("nofail", "nofail", true),
            ("size=1G", "size=1G", true),
            ("size=1G,size=2G", "size=1G", false),
            ("user=tide", "noexec", false),
        ] {
            let table = Table::parse(format!("a /b ext4 {list}"));
            assert_eq!(
                in_force(&table.entries()[0].options, wanted, Version(2, 38)),
                expected,
                "{list}: {wanted}"
            );
        }
    }

    #[test]
    fn normal_forms() {
        for (list, normal) in [
            ("defaults", "rw suid dev exec async auto relatime"),
            ("user,umask=022", "rw nosuid nodev noexec async auto relatime umask=022 user"),
            ("exec,user", "rw nosuid nodev noexec async auto relatime user"),
            ("user,exec", "rw nosuid nodev exec async auto relatime user"),
            ("noatime,commit=5,commit=30", "rw suid dev exec async auto noatime commit=30"),
        ] {
            let table = Table::parse(format!("a /b ext4 {list}"));
            assert_eq!(effective(&table.entries()[0].options, Version(2, 38)).join(" "), normal, "{list}");
        }
    }
}
