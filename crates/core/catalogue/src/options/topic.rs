/// What people want to do with an option.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Topic {
    /// Who owns the files, and with which permissions.
    Ownership,
    /// What is safe after a crash or a fault.
    Durability,
    /// How quick it is.
    Speed,
    /// Restrictions on what may be done there.
    Safety,
    /// How much room it has or takes.
    Space,
    /// Who may use how much.
    Quota,
    /// What the boot makes of it.
    Boot,
    /// Names and what is seen.
    Access,
    /// Anything else.
    Other,
}

impl Topic {
    /// All of them, in the order of the reference.
    pub const ALL: [Topic; 9] = [
        Topic::Ownership,
        Topic::Durability,
        Topic::Speed,
        Topic::Safety,
        Topic::Space,
        Topic::Quota,
        Topic::Boot,
        Topic::Access,
        Topic::Other,
    ];

    /// Its heading.
    pub fn title(self) -> &'static str {
        match self {
            Topic::Ownership => "Ownership and permissions",
            Topic::Durability => "Integrity",
            Topic::Speed => "Speed",
            Topic::Safety => "Restrictions",
            Topic::Space => "Space",
            Topic::Quota => "Quotas",
            Topic::Boot => "Boot and mounting",
            Topic::Access => "File names and visibility",
            Topic::Other => "Other options",
        }
    }
}

/// Words in a name that tell its topic; the first that is found counts.
const WORDS: [(Topic, &[&str]); 10] = [
    (Topic::Space, &["logdev", "rtdev"]),
    (Topic::Access, &["xattr", "time_offset", "check=", "uni_xlate", "tz="]),
    (Topic::Quota, &["quota", "noenforce", "jqfmt"]),
    (
        Topic::Ownership,
        &[
            "uid",
            "gid",
            "mask",
            "mode=",
            "dmode",
            "allow_utime",
            "grpid",
            "bsdgroups",
            "sysvgroups",
            "permission",
        ],
    ),
    (
        Topic::Safety,
        &[
            "suid",
            "exec",
            "dev=",
            "nodev",
            "ro=",
            "rw=",
            "symfollow",
            "context",
            "smack",
            "verity",
            "immutable",
            "hidepid",
            "user=",
        ],
    ),
    (
        Topic::Boot,
        &[
            "auto=",
            "noauto=",
            "nofail",
            "_netdev",
            "x-",
            "X-",
            "comment",
            "user",
            "owner",
            "group",
            "retry",
            "bg=",
            "fg=",
            "loop",
            "offset",
            "sizelimit",
            "helper",
            "remount",
            "bind",
            "private",
            "shared",
            "slave",
            "defaults",
        ],
    ),
    (
        Topic::Durability,
        &[
            "journal",
            "barrier",
            "commit",
            "data",
            "errors",
            "sync",
            "recover",
            "rescue",
            "check",
            "flush",
            "volatile",
            "order",
            "degraded",
            "norecovery",
            "noload",
            "nolog",
            "integrity",
            "hard=",
            "soft",
            "retrans",
            "timeo",
            "treelog",
            "volume",
        ],
    ),
    (
        Topic::Speed,
        &[
            "atime",
            "lazytime",
            "cache",
            "alloc",
            "ssd",
            "readahead",
            "batch",
            "init_itable",
            "log",
            "largeio",
            "stripe",
            "sunit",
            "swidth",
            "thread",
            "dioread",
            "dax",
            "huge",
            "defrag",
            "gc",
            "prefetch",
            "merge",
        ],
    ),
    (
        Topic::Space,
        &[
            "size", "nr_", "discard", "compress", "resize", "max_dir", "reserve", "resuid", "resgid",
            "inline", "prealloc", "sparse", "space",
        ],
    ),
    (
        Topic::Access,
        &[
            "charset",
            "codepage",
            "utf8",
            "nls",
            "shortname",
            "name",
            "xattr",
            "acl",
            "hide",
            "hidden",
            "dots",
            "case",
            "subvol",
            "rock",
            "joliet",
            "lowerdir",
            "upperdir",
            "workdir",
            "uuid",
        ],
    ),
];

/// The topic of an option, told from its name.
pub fn topic(name: &str) -> Topic {
    let ended = format!("{name}=");
    let found = WORDS.iter().find(|(_, words)| words.iter().any(|word| ended.contains(word)));
    found.map_or(Topic::Other, |(topic, _)| *topic)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_tell_topics() {
        for (name, expected) in [
            ("umask", Topic::Ownership),
            ("usrquota", Topic::Quota),
            ("noexec", Topic::Safety),
            ("nofail", Topic::Boot),
            ("commit", Topic::Durability),
            ("noatime", Topic::Speed),
            ("discard", Topic::Space),
            ("iocharset", Topic::Access),
            ("soft", Topic::Durability),
            ("bg", Topic::Boot),
            ("orlov", Topic::Other),
        ] {
            assert_eq!(topic(name), expected, "{name}");
        }
    }
}
