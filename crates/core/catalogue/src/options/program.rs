//! What the mount program makes of an option before the kernel sees it.
//!
//! Since version 2.39 it talks to the kernel through the new mount calls and
//! is stricter about its own words; recorded for 2.36, 2.38 and 2.41.

use super::{Form, Opt, common};
use bradawl_facts::Version;
use bradawl_facts::record::{Accounts, Record};

/// What becomes of an option at the mount program.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(super) enum Taken {
    /// Its own affair, or a flag that every kernel takes.
    Here,
    /// It refuses the mount.
    Refused(String),
    /// It goes on to the kernel, as a word of the file system.
    PassedOn,
    /// It goes on as a number: the name of a user or group.
    AsNumber,
}

/// The version taken where none is known.
pub(super) const USUAL_PROGRAM: Version = Version(2, 38);

/// The first version with the new mount calls.
pub(super) const NEW: Version = Version(2, 39);

/// Flags that the kernel reads for every type that takes its options one by
/// one, whatever value stands behind them.
pub(super) const SUPER_FLAGS: [&str; 9] =
    ["ro", "rw", "sync", "async", "dirsync", "mand", "nomand", "lazytime", "nolazytime"];

/// Users and groups that every host has.
const USERS: [&str; 10] =
    ["root", "daemon", "bin", "sys", "games", "man", "mail", "news", "www-data", "nobody"];
const GROUPS: [&str; 16] = [
    "root", "daemon", "bin", "sys", "adm", "tty", "disk", "mail", "audio", "video", "cdrom", "floppy",
    "users", "plugdev", "games", "nogroup",
];

/// Where the names of users and groups are looked up.
#[derive(Debug, Clone, Copy)]
pub(super) struct Names<'a> {
    /// Those of the host.
    pub accounts: Option<&'a Accounts>,
    /// Whether there are only those of every host.
    pub typical: bool,
}

impl Names<'_> {
    /// Whether there is such a user or group; `None` when that is not known.
    fn has(self, option: &str, name: &str) -> Option<bool> {
        let usual: &[&str] = if option == "uid" { &USERS } else { &GROUPS };
        match self.accounts {
            Some(accounts) => Some(accounts.number(option, name).is_some()),
            None if usual.contains(&name) => Some(true),
            None => self.typical.then_some(false),
        }
    }

    /// What stands against a user or group that its program looks up.
    pub(super) fn objection(self, form: Form, value: Option<&str>) -> Option<String> {
        let (Form::FlagOrAccount(of), Some(value)) = (form, value) else { return None };
        let by_name = !value.is_empty() && !value.starts_with(|c: char| c.is_ascii_digit() || c == '+');
        (by_name && self.has(of, value) == Some(false)).then(|| self.unknown(of))
    }

    /// Why a name is refused.
    fn unknown(self, option: &str) -> String {
        let what = if option == "uid" { "user" } else { "group" };
        match self.accounts {
            Some(_) => format!("the host knows no such {what} when it boots"),
            None => format!("names no {what} of every host: write the number"),
        }
    }
}

/// The mount program of a host: its version, else that of its kernel's time.
pub fn program_on(record: &Record) -> Version {
    let version = |text: &Option<String>| text.as_deref().and_then(Version::parse);
    let of_time = || version(&record.host.kernel).map(program_of);
    version(&record.host.mount_program).or_else(of_time).unwrap_or(USUAL_PROGRAM)
}

/// The mount program of a kernel's time.
pub fn program_of(kernel: Version) -> Version {
    match kernel {
        k if k < Version(5, 16) => Version(2, 36),
        k if k < Version(6, 7) => Version(2, 38),
        k if k < Version(6, 10) => Version(2, 39),
        _ => Version(2, 41),
    }
}

/// Whose mount program is asked.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum MountBy {
    /// That of the running system: util-linux's.
    System,
    /// klibc's, in an initramfs of initramfs-tools.
    Klibc,
    /// busybox's, in an initramfs of initramfs-tools where busybox is installed.
    Busybox,
    /// tiny-initramfs itself.
    Tiny,
    /// None: the kernel hands the options of root to its type.
    Kernel,
}

/// The words that both small mount programs know: found by asking klibc's of
/// Debian 12 and busybox 1.35 and 1.37 for every word of the catalogue.
const EARLY: [&str; 19] = [
    "defaults",
    "ro",
    "rw",
    "nodev",
    "dev",
    "nosuid",
    "suid",
    "noexec",
    "exec",
    "noatime",
    "atime",
    "nodiratime",
    "diratime",
    "sync",
    "async",
    "dirsync",
    "bind",
    "move",
    "remount",
];

/// The words that only busybox's knows.
const BUSYBOX: [&str; 20] = [
    "_netdev",
    "lazytime",
    "loop",
    "loud",
    "mand",
    "noauto",
    "nofail",
    "nolazytime",
    "nomand",
    "norelatime",
    "nostrictatime",
    "nosymfollow",
    "rbind",
    "relatime",
    "strictatime",
    "sw",
    "swap",
    "user",
    "users",
    "comment",
];

/// The words that tiny-initramfs knows, beside those that the kernel knows for every type:
/// found by asking version 0.1 of Debian for each.
const TINY: [&str; 31] = [
    "defaults",
    "exec",
    "noexec",
    "suid",
    "nosuid",
    "dev",
    "nodev",
    "nosync",
    "silent",
    "loud",
    "atime",
    "noatime",
    "diratime",
    "nodiratime",
    "relatime",
    "norelatime",
    "strictatime",
    "nostrictatime",
    "iversion",
    "noiversion",
    "_netdev",
    "auto",
    "noauto",
    "nouser",
    "users",
    "nousers",
    "owner",
    "noowner",
    "group",
    "nogroup",
    "nofail",
];

/// Those that it takes with a value or without.
const TINY_VALUES: [&str; 8] =
    ["user", "comment", "loop", "offset", "sizelimit", "encryption", "helper", "uhelper"];

/// What tiny-initramfs does with an option.
fn taken_by_tiny(name: &str, value: Option<&str>) -> Taken {
    let flag = value.is_none() && TINY.contains(&name);
    let own = flag || TINY_VALUES.contains(&name) || name.starts_with("x-");
    if own || SUPER_FLAGS.contains(&name) { Taken::Here } else { Taken::PassedOn }
}

/// What a small mount program does with an option. Only busybox's `comment` takes a
/// value, and must have one.
pub(super) fn taken_early(by: MountBy, name: &str, value: Option<&str>) -> Taken {
    if by == MountBy::Tiny {
        return taken_by_tiny(name, value);
    }
    // busybox does not mind capitals (recorded).
    let lower = name.to_ascii_lowercase();
    let name = if by == MountBy::Busybox { lower.as_str() } else { name };
    let both = value.is_none() && (EARLY.contains(&name) || SUPER_FLAGS.contains(&name));
    let own = match by {
        MountBy::Busybox => BUSYBOX.contains(&name) && value.is_some() == (name == "comment"),
        MountBy::Klibc => name == "recurse",
        MountBy::System | MountBy::Tiny | MountBy::Kernel => false,
    };
    if both || own { Taken::Here } else { Taken::PassedOn }
}

/// What the mount program does with an option.
///
/// `one_by_one`: the type takes its options through the new calls in this
/// kernel.
pub(super) fn taken(
    name: &str,
    value: Option<&str>,
    program: Version,
    one_by_one: bool,
    names: Names<'_>,
) -> Taken {
    if name.starts_with("X-mount.") {
        return of_mount(name, value, program);
    }
    if name.starts_with("verity.onc") && program < Version(2, 37) {
        return Taken::PassedOn;
    }
    if name.starts_with("x-") || name.starts_with("X-") {
        return Taken::Here;
    }
    if matches!(name, "uid" | "gid") {
        return owner(name, value, program, names);
    }
    let Some(row) = common().iter().find(|row| row.name == name) else { return Taken::PassedOn };
    // The old program takes an empty value for none.
    let value = value.filter(|v| !v.is_empty() || program >= NEW || takes_value(row));
    match (value, row.form.objection(value)) {
        (None, None) => Taken::Here,
        (None, Some(objection)) => Taken::Refused(objection),
        (Some(_), _) if takes_value(row) || program >= NEW => Taken::Here,
        (Some(_), _) if one_by_one && SUPER_FLAGS.contains(&name) => Taken::Here,
        (Some(_), _) => Taken::PassedOn,
    }
}

/// Flags that are nobody's when a value stands behind them: the program that mounts
/// the type is handed them as they are.
const FLAGS_ALONE: [&str; 30] = [
    "sync",
    "async",
    "dirsync",
    "lazytime",
    "nolazytime",
    "mand",
    "nomand",
    "iversion",
    "noiversion",
    "silent",
    "loud",
    "nosuid",
    "suid",
    "nodev",
    "dev",
    "noexec",
    "exec",
    "noatime",
    "atime",
    "nodiratime",
    "diratime",
    "relatime",
    "norelatime",
    "strictatime",
    "nostrictatime",
    "nosymfollow",
    "symfollow",
    "nofail",
    "users",
    "remount",
];

/// Whether a word of every type goes on to the program that mounts the type.
pub(super) fn handed_on(name: &str, value: Option<&str>) -> bool {
    value.is_some() && (FLAGS_ALONE.contains(&name) || matches!(name, "helper" | "uhelper"))
}

/// Words of the mount program that take a value in every version.
fn takes_value(row: &Opt) -> bool {
    matches!(
        row.name,
        "user"
            | "comment"
            | "loop"
            | "helper"
            | "uhelper"
            | "defaults"
            | "offset"
            | "sizelimit"
            | "encryption"
    ) || row.name.contains("context")
        || row.name.starts_with("smackfs")
        || row.name.starts_with("verity.")
}

/// `uid=` and `gid=` with a name are turned into numbers. The new program
/// refuses what is neither; the old one passes it on, and refuses nothing at
/// all.
fn owner(name: &str, value: Option<&str>, program: Version, names: Names<'_>) -> Taken {
    let old = program < NEW;
    let Some(value) = value.filter(|v| !v.is_empty()) else {
        return if old { Taken::Refused("needs a number or a name".to_owned()) } else { Taken::PassedOn };
    };
    let could_be_name = !value.starts_with(|c: char| c.is_ascii_digit() || c == '-');
    // Whoever mounts it (recorded: `uid=useruid`).
    if matches!(value, "useruid" | "usergid") {
        return Taken::AsNumber;
    }
    let known = names.has(name, value);
    if known == Some(true) {
        return Taken::AsNumber;
    }
    let number = value.bytes().all(|b| b.is_ascii_digit());
    match (number, old) {
        (true, _) | (false, true) => Taken::PassedOn,
        (false, false) if known.is_none() && could_be_name => Taken::AsNumber,
        (false, false) => Taken::Refused(names.unknown(name)),
    }
}

/// The words that begin with `X-mount.`: comments before 2.39, save subdir.
fn of_mount(name: &str, value: Option<&str>, program: Version) -> Taken {
    let value = value.unwrap_or_default();
    if name == "X-mount.subdir" && value.is_empty() && program >= Version(2, 38) {
        return Taken::Refused("needs a directory".to_owned());
    }
    if program < NEW {
        return Taken::Here;
    }
    let octal = !value.is_empty() && value.bytes().all(|b| matches!(b, b'0'..=b'7')) && value.len() <= 4;
    let refused = match name {
        "X-mount.mode" => !octal,
        "X-mount.owner" => !(USERS.contains(&value) || value.parse::<u32>().is_ok()),
        "X-mount.group" => !(GROUPS.contains(&value) || value.parse::<u32>().is_ok()),
        "X-mount.idmap" => value.is_empty() || !(value.starts_with('/') || value.contains(':')),
        _ => false,
    };
    match refused {
        true => Taken::Refused("has no value that the mount program understands".to_owned()),
        false => Taken::Here,
    }
}
