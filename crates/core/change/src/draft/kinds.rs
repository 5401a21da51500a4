//! What a type that lies on no device is given in a table: what its source is, its
//! options with their reasons, and how the host says who it is. From the manual pages of
//! the programs, each tried with the real one (lab/try-fuse-drafts.sh).

/// A type that a program or another host serves.
pub(super) struct Kind {
    types: &'static [&'static str],
    pub source: Sort,
    /// A source of that sort.
    pub example: &'static str,
    /// Options, each with its reason.
    pub options: &'static [(&'static str, &'static str)],
    /// Options without which there is nothing to mount, for the example.
    pub asked: &'static [&'static str],
    pub login: Login,
    /// Whether `uid=` and `gid=` say whose the files are.
    pub owned: bool,
    /// Whether it waits for the network, which the init system cannot tell from the type.
    pub remote: bool,
}

/// What stands in the first field.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Sort {
    /// Directories with colons between.
    Directories,
    Directory,
    Image,
    /// An address of a server.
    Address,
    /// A name that only the program knows, or none at all.
    Name,
}

/// How the host says who it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(super) enum Login {
    Nobody,
    /// A file that an option names: the option, how the file ends, what is written into
    /// it.
    File {
        option: &'static str,
        ends: &'static str,
        holds: &'static str,
    },
    /// A file that the program looks for by itself, and what is written into it.
    Known {
        file: &'static str,
        holds: &'static str,
    },
    /// What somebody does by hand.
    ByHand(&'static str),
}

const OTHERS: (&str, &str) = ("allow_other", "without it nobody but root may use it");
const CHECKED: (&str, &str) =
    ("default_permissions", "owner and mode of each file count; without it everybody may do what root may");

const NONE: Kind = Kind {
    types: &[],
    source: Sort::Address,
    example: "",
    options: &[],
    asked: &[],
    login: Login::Nobody,
    owned: false,
    remote: false,
};

const KINDS: &[Kind] = &[
    Kind { types: &["nfs", "nfs4"], example: "nas.example:/srv/tides", ..NONE },
    Kind {
        types: &["cifs", "smb3"],
        example: "//nas.example/tides",
        login: Login::File {
            option: "credentials",
            ends: "credentials",
            holds: "two lines: username=NAME and password=PASSWORD",
        },
        owned: true,
        ..NONE
    },
    Kind { types: &["glusterfs", "fuse.glusterfs"], example: "nas.example:/tides", ..NONE },
    Kind {
        types: &["fuse.sshfs", "sshfs"],
        example: "tides@buoy.example:/srv/tides",
        options: &[
            OTHERS,
            CHECKED,
            ("reconnect", "a connection that was lost is made again"),
            (
                "ServerAliveInterval=15",
                "a server that is gone is given up after 45 s; programs do not hang on it",
            ),
        ],
        login: Login::ByHand(
            "Let the server know a key of root without passphrase, and root the server: nobody can be asked at boot",
        ),
        ..NONE
    },
    Kind {
        types: &["davfs"],
        example: "https://nas.example/tides",
        login: Login::Known { file: "/etc/davfs2/secrets", holds: "a line: ADDRESS NAME PASSWORD" },
        owned: true,
        ..NONE
    },
    Kind {
        types: &["fuse.s3fs"],
        source: Sort::Name,
        example: "tides",
        options: &[OTHERS],
        asked: &["url=https://store.example"],
        login: Login::File { option: "passwd_file", ends: "key", holds: "a line: KEY:SECRET" },
        owned: true,
        remote: true,
    },
    Kind {
        types: &["rclone"],
        source: Sort::Name,
        example: "nas:tides",
        options: &[OTHERS, CHECKED, ("vfs-cache-mode=writes", "programs that change files in place need it")],
        login: Login::File {
            option: "config",
            ends: "conf",
            holds: "the store, as rclone config --config FILE writes it",
        },
        owned: true,
        remote: true,
        ..NONE
    },
    Kind {
        types: &["fuse.mergerfs", "mergerfs"],
        source: Sort::Directories,
        example: "/srv/disk1:/srv/disk2",
        options: &[
            OTHERS,
            ("category.create=mfs", "new files go where most is free, also where their directory is not yet"),
        ],
        ..NONE
    },
    Kind {
        types: &["fuse.unionfs", "fuse.unionfs-fuse"],
        source: Sort::Directories,
        example: "/srv/new=RW:/srv/old=RO",
        options: &[OTHERS, ("cow", "what changes is written to the first; the others stay as they are")],
        ..NONE
    },
    Kind { types: &["fuse.bindfs", "bindfs"], source: Sort::Directory, example: "/srv/tides", ..NONE },
    Kind {
        types: &["fuse.gocryptfs", "gocryptfs"],
        source: Sort::Directory,
        example: "/srv/sealed",
        options: &[OTHERS],
        login: Login::File { option: "passfile", ends: "phrase", holds: "the phrase, in a line" },
        ..NONE
    },
    Kind {
        types: &["fuse.squashfuse"],
        source: Sort::Image,
        example: "/srv/charts.squashfs",
        options: &[("ro", "such an image is never written to"), OTHERS, CHECKED],
        ..NONE
    },
    Kind {
        types: &["fuse.fuse-overlayfs"],
        source: Sort::Name,
        example: "overlay",
        asked: &["lowerdir=/srv/old", "upperdir=/srv/new", "workdir=/srv/work"],
        ..NONE
    },
    Kind { types: &["virtiofs"], source: Sort::Name, example: "tides", ..NONE },
    Kind {
        types: &["9p"],
        source: Sort::Name,
        example: "tides",
        options: &[("trans=virtio", "the machine that runs this guest hands it over")],
        ..NONE
    },
];

/// Each type of them.
#[cfg(test)]
pub(super) fn types() -> impl Iterator<Item = &'static str> {
    KINDS.iter().flat_map(|kind| kind.types.iter().copied())
}

/// What is known of a type; `None` for those of devices and of memory.
pub(super) fn kind(fstype: &str) -> Option<&'static Kind> {
    KINDS.iter().find(|kind| kind.types.contains(&fstype))
}

/// The directories that a source of several names, as far as they can be told: without how
/// each is used (`=RW`), and above a pattern.
pub(super) fn directories(source: &str) -> Vec<&str> {
    let one = |part: &str| -> Option<usize> {
        let end = part.find(['=', ',']).unwrap_or(part.len());
        let path = &part[..end];
        let known = path.find(['*', '?', '[']).map_or(end, |at| path[..at].rfind('/').unwrap_or(0));
        (known > 1 && path.starts_with('/')).then_some(known)
    };
    source.split(':').filter_map(|part| one(part).map(|end| &part[..end])).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_a_source_of_several_names() {
        for (source, paths) in [
            ("/srv/disk1:/srv/disk2", &["/srv/disk1", "/srv/disk2"][..]),
            ("/srv/new=RW:/srv/old=RO", &["/srv/new", "/srv/old"]),
            ("/srv/disk1=NC,4G", &["/srv/disk1"]),
            ("/srv/disk*", &["/srv"]),
            ("/*", &[]),
            ("disks", &[]),
        ] {
            assert_eq!(directories(source), paths, "{source}");
        }
    }
}
