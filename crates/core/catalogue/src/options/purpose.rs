//! What people want of a mount, in their own words, and the options that do it.
//! Sources: the manual page of each type, and the kernel's documentation of it.

/// Something that is wanted.
#[derive(Debug, Clone, Copy)]
pub struct Purpose {
    /// In a few words.
    pub title: &'static str,
    /// Words that ask for it, in small letters.
    pub words: &'static [&'static str],
    /// What does it.
    pub advice: &'static [Advice],
}

/// An option that serves a purpose.
#[derive(Debug, Clone, Copy)]
pub struct Advice {
    /// Types that take it; empty: all.
    pub types: &'static [&'static str],
    /// The option as it is written.
    pub option: &'static str,
    /// What it does for the purpose.
    pub why: &'static str,
    /// What it costs; empty: nothing worth knowing.
    pub cost: &'static str,
}

impl Advice {
    /// Whether a type takes it.
    pub fn is_for(&self, fstype: &str) -> bool {
        self.types.is_empty() || self.types.contains(&fstype)
    }

    /// Whether it is about an option of this name.
    pub fn names(&self, option: &str) -> bool {
        self.option.split(',').any(|o| o.split('=').next() == Some(option))
    }
}

const fn all(option: &'static str, why: &'static str, cost: &'static str) -> Advice {
    Advice { types: &[], option, why, cost }
}

const fn of(
    types: &'static [&'static str],
    option: &'static str,
    why: &'static str,
    cost: &'static str,
) -> Advice {
    Advice { types, option, why, cost }
}

/// All purposes.
pub const PURPOSES: &[Purpose] = &[
    Purpose {
        title: "fewer writes",
        words: &["wear", "write", "flash", "ssd", "card", "endurance"],
        advice: &[
            all(
                "noatime",
                "reading a file writes nothing",
                "programs that ask when a file was read do not learn it",
            ),
            all(
                "lazytime",
                "times are written beside other changes, or once a day",
                "after a power failure they may be old",
            ),
            of(
                &["ext3", "ext4", "btrfs"],
                "commit=60",
                "changes are collected for a minute",
                "that minute is lost when power fails",
            ),
            of(&["btrfs"], "compress=zstd", "what compresses well takes fewer blocks", "processor time"),
        ],
    },
    Purpose {
        title: "faster",
        words: &["fast", "speed", "quick", "performance", "slow"],
        advice: &[
            all(
                "noatime",
                "reading a file writes nothing",
                "programs that ask when a file was read do not learn it",
            ),
            of(
                &["xfs"],
                "logbsize=256k",
                "many small changes share a write of the log",
                "1 MiB of memory more",
            ),
            of(
                &["ext3", "ext4"],
                "data=writeback",
                "data is not ordered before its metadata",
                "after a crash files may hold old blocks of others",
            ),
            of(
                &["nfs", "nfs4"],
                "nconnect=4",
                "several connections share the work",
                "as many ports on the server",
            ),
        ],
    },
    Purpose {
        title: "safe after a crash",
        words: &["safe", "crash", "power", "durab", "integrity", "corrupt"],
        advice: &[
            of(
                &["ext3", "ext4"],
                "data=journal",
                "data passes through the journal too",
                "everything is written twice",
            ),
            of(
                &["ext2", "ext3", "ext4", "vfat", "exfat"],
                "errors=remount-ro",
                "after an error nothing more is written",
                "programs that write get errors",
            ),
            of(&["vfat"], "flush", "data is on the medium soon after a file is closed", "writing is slower"),
            all("sync", "a write returns when it is on the medium", "every write waits; flash wears sooner"),
        ],
    },
    Purpose {
        title: "nobody else may read",
        words: &["private", "secret", "permission", "nobody", "others", "read by"],
        advice: &[
            of(
                &["vfat", "msdos", "exfat", "ntfs3"],
                "umask=077",
                "files belong to the owner of the mount alone",
                "give uid= and gid= too where that is not root",
            ),
            of(&["tmpfs"], "mode=0700", "only its owner enters it", ""),
            of(
                &["proc"],
                "hidepid=2",
                "processes of others are not seen",
                "services that look at all processes need gid=",
            ),
        ],
    },
    Purpose {
        title: "no programs run from it",
        words: &["exec", "program", "harden", "security", "secure", "untrusted"],
        advice: &[
            all("noexec", "programs on it are not started", "scripts still are, by their interpreter"),
            all("nosuid", "set-user-ID programs run without extra rights", ""),
            all("nodev", "device files on it are ignored", ""),
        ],
    },
    Purpose {
        title: "less room",
        words: &["space", "room", "compress", "full", "limit"],
        advice: &[
            of(&["btrfs"], "compress=zstd", "new files are compressed", "processor time"),
            of(&["tmpfs"], "size=1G", "it never takes more memory than that", "programs see it full"),
            of(&["tmpfs"], "nr_inodes=100k", "it never has more files than that", ""),
        ],
    },
    Purpose {
        title: "may be absent at boot",
        words: &["absent", "removable", "usb", "missing", "optional", "boot without", "hang"],
        advice: &[
            all("nofail", "the boot continues without it", "services may find an empty directory"),
            all(
                "x-systemd.device-timeout=10s",
                "the boot waits 10 s and not 90 s",
                "a slow disk may come too late",
            ),
            all("x-systemd.automount", "it is mounted when somebody looks into it", "who looks waits"),
            all("noauto", "the boot leaves it alone", "somebody has to mount it"),
        ],
    },
    Purpose {
        title: "nothing is changed",
        words: &["read-only", "read only", "evidence", "rescue", "recover", "forensic"],
        advice: &[
            all("ro", "nothing is written by programs", "the journal may still be replayed"),
            of(
                &["ext3", "ext4"],
                "ro,noload",
                "the journal is not replayed either",
                "what is in it is not seen",
            ),
            of(&["xfs"], "ro,norecovery", "the log is not replayed either", "what is in it is not seen"),
            of(
                &["btrfs"],
                "ro,rescue=nologreplay",
                "the log is not replayed either",
                "what is in it is not seen",
            ),
        ],
    },
    Purpose {
        title: "freed blocks are told to the device",
        words: &["trim", "discard", "thin", "unmap"],
        advice: &[
            of(
                &["ext4", "xfs", "f2fs"],
                "discard",
                "at once",
                "deleting is slower; fstrim.timer does it once a week",
            ),
            of(&["btrfs"], "discard=async", "a little later, in groups", ""),
        ],
    },
    Purpose {
        title: "each user has a limit",
        words: &["quota", "limit", "share of"],
        advice: &[
            of(
                &["ext4"],
                "usrquota,grpquota",
                "what each user and group takes is counted",
                "the quota tools switch it on",
            ),
            of(&["xfs"], "uquota,gquota", "what each user and group takes is counted", ""),
            of(&["tmpfs"], "size=1G", "all users together", ""),
        ],
    },
    Purpose {
        title: "others than root may use it",
        words: &["others", "everybody", "users", "access"],
        advice: &[
            of(
                &["fuse.sshfs", "fuse.s3fs", "rclone", "fuse.squashfuse"],
                "allow_other,default_permissions",
                "owner and mode of each file count, as on a disk",
                "without the second everybody may do what root may",
            ),
            of(
                &["fuse.mergerfs", "fuse.unionfs", "fuse.gocryptfs"],
                "allow_other",
                "owner and mode of each file count, as on a disk",
                "",
            ),
        ],
    },
    Purpose {
        title: "programs do not hang on a server that is gone",
        words: &["hang", "gone", "lost server", "stuck", "unreachable"],
        advice: &[
            of(
                &["fuse.sshfs"],
                "reconnect,ServerAliveInterval=15",
                "the connection is given up after 45 s, and made again",
                "what was open then fails",
            ),
            of(
                &["nfs", "nfs4"],
                "softerr",
                "requests fail after some minutes",
                "what was written may be lost",
            ),
        ],
    },
    Purpose {
        title: "fewer requests to the server",
        words: &["requests", "latency", "remember", "cache"],
        advice: &[
            of(
                &["fuse.sshfs"],
                "dcache_timeout=300",
                "names are remembered for five minutes",
                "changes are seen later",
            ),
            of(
                &["nfs", "nfs4"],
                "actimeo=60",
                "attributes are remembered for a minute",
                "changes are seen later",
            ),
            of(
                &["rclone"],
                "vfs-cache-mode=full",
                "what was read stays on the disk",
                "it takes room: see vfs-cache-max-size",
            ),
            of(
                &["fuse.s3fs"],
                "use_cache=/var/cache/tides",
                "what was read stays on the disk",
                "it grows without end: see ensure_diskfree",
            ),
        ],
    },
];

/// The purposes that a word asks for.
pub fn purposes(word: &str) -> Vec<&'static Purpose> {
    let word = word.trim().to_lowercase();
    // Where a word begins: "hang" is no part of "changed".
    let begins = |text: &str| format!(" {text}").contains(&format!(" {word}"));
    let named = |name: &&str| word.contains(*name) || (word.len() > 3 && begins(name));
    let asked = |purpose: &&Purpose| begins(purpose.title) || purpose.words.iter().any(named);
    if word.is_empty() { Vec::new() } else { PURPOSES.iter().filter(asked).collect() }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::options::{Asked, Verdict, check, of_type};
    use bradawl_facts::Version;
    use bradawl_facts::table::Table;

    #[test]
    fn every_advice_is_taken_by_its_types() {
        for purpose in PURPOSES {
            for advice in purpose.advice {
                let types =
                    if advice.types.is_empty() { &["ext4", "xfs", "btrfs", "vfat"] } else { advice.types };
                for fstype in types {
                    assert!(of_type(fstype).is_some(), "{fstype}");
                    let table = Table::parse(format!("x /x {fstype} {} 0 0", advice.option));
                    let options = table.entries().remove(0).options;
                    let asked = Asked { typical: true, ..Asked::new(fstype, &options, Some(Version(6, 12))) };
                    for checked in check(&asked) {
                        let told = format!("{}: {fstype} {}: {}", purpose.title, advice.option, checked.why);
                        assert!(!matches!(checked.verdict, Verdict::Refused | Verdict::Unknown), "{told}");
                    }
                }
            }
        }
    }

    #[test]
    fn purposes_are_found_by_the_words_people_use() {
        for (word, title) in [
            ("wear", "fewer writes"),
            ("less wear", "fewer writes"),
            ("faster", "faster"),
            ("nobody else may read", "nobody else may read"),
            ("Private", "nobody else may read"),
            ("TRIM", "freed blocks are told to the device"),
            ("removable", "may be absent at boot"),
            ("evidence", "nothing is changed"),
            ("security", "no programs run from it"),
            ("full", "less room"),
            ("quotas", "each user has a limit"),
            ("power failure", "safe after a crash"),
            ("hang", "programs do not hang on a server that is gone"),
            ("other users", "others than root may use it"),
            ("latency", "fewer requests to the server"),
        ] {
            assert!(purposes(word).iter().any(|p| p.title == title), "{word}: {:?}", purposes(word));
        }
        assert_eq!(purposes("").len() + purposes("  ").len() + purposes("zebra").len(), 0);
    }
}
