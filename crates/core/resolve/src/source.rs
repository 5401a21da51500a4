use super::link::{decode_link, encode_link};
use bradawl_catalogue::fstypes::{FsType, Lives, known};
use bradawl_facts::path::tidy;
use bradawl_facts::table::Entry;
use std::fmt;

/// The tags a source may carry before `=`.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord)]
pub enum Tag {
    /// UUID of the content.
    Uuid,
    /// Label of the content.
    Label,
    /// UUID of the partition.
    PartUuid,
    /// Name of the partition.
    PartLabel,
}

impl Tag {
    /// All of them.
    pub const ALL: [Tag; 4] = [Tag::Uuid, Tag::Label, Tag::PartUuid, Tag::PartLabel];

    /// As it is written.
    pub fn name(self) -> &'static str {
        match self {
            Tag::Uuid => "UUID",
            Tag::Label => "LABEL",
            Tag::PartUuid => "PARTUUID",
            Tag::PartLabel => "PARTLABEL",
        }
    }

    /// The directory under /dev/disk with the names of this sort.
    pub fn folder(self) -> &'static str {
        match self {
            Tag::Uuid => "by-uuid",
            Tag::Label => "by-label",
            Tag::PartUuid => "by-partuuid",
            Tag::PartLabel => "by-partlabel",
        }
    }
}

impl fmt::Display for Tag {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

/// A source, told apart as the boot does it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Source {
    /// `UUID=…`, `LABEL=…` and their kin, or the same as a path under
    /// /dev/disk; the value without quotes.
    Tag(Tag, String),
    /// Another path under /dev.
    Device(String),
    /// A path elsewhere: a directory to bind, a swap file, an image.
    Path(String),
    /// Something a network file system understands.
    Network(String),
    /// A word for file systems that need no source: `tmpfs`, `none`, `proc`.
    Word(String),
    /// Looks like a device but is no name the boot understands: a bare UUID,
    /// a tag in lower case.
    Strange(String),
}

impl Source {
    /// Reads an entry's source in the light of its type.
    pub fn of(entry: &Entry) -> Source {
        let text = entry.source.as_str();
        if is_network_type(&entry.fstype) {
            // The init system waits for a device all the same.
            return match Source::parse(text) {
                tag @ Source::Tag(..) => tag,
                _ => Source::Network(text.to_owned()),
            };
        }
        match Source::parse(text) {
            // A directory, wherever it lies; the init system makes it if need be
            // (recorded).
            Source::Device(path) if entry.is_bind() => Source::Path(path),
            Source::Strange(word) | Source::Word(word) if needs_no_device(entry) => Source::Word(word),
            Source::Word(word) if looks_like_device(entry) => Source::Strange(word),
            other => other,
        }
    }

    /// Reads a name as it stands, without knowing its type.
    pub fn parse(text: &str) -> Source {
        // Points and doubled slashes on the way name the same (recorded).
        let rough = text.contains("/./") || text.contains("//");
        if text.starts_with("/dev/") && rough && !text.contains("/../") {
            return Source::parse(&tidy(text));
        }
        for tag in Tag::ALL {
            if let Some(value) = text.strip_prefix(tag.name()).and_then(|t| t.strip_prefix('=')) {
                return Source::Tag(tag, unquoted(value).to_owned());
            }
            let folder = text.strip_prefix("/dev/disk/").and_then(|t| t.strip_prefix(tag.folder()));
            // Only as the device manager spells it: a blank is no part of a link.
            if let Some(value) = folder.and_then(|t| t.strip_prefix('/'))
                && let decoded = decode_link(value)
                && encode_link(&decoded) == value
            {
                return Source::Tag(tag, decoded);
            }
        }
        if text.starts_with("/dev/") {
            Source::Device(text.to_owned())
        } else if text.starts_with('/') && !text.starts_with("//") {
            Source::Path(text.to_owned())
        } else if text.starts_with("//") || text.contains(":/") {
            Source::Network(text.to_owned())
        } else if text.contains('=') || is_uuid(text) {
            Source::Strange(text.to_owned())
        } else {
            Source::Word(text.to_owned())
        }
    }

    /// The path of a directory or file that it is.
    pub fn file(&self) -> Option<&str> {
        if let Source::Path(path) = self { Some(path) } else { None }
    }

    /// The path that the init system waits for: for tags the link under
    /// /dev/disk.
    pub fn waited_for(&self) -> String {
        match self {
            Source::Tag(tag, value) => ["/dev/disk/", tag.folder(), "/", &encode_link(value)].concat(),
            Source::Device(text)
            | Source::Path(text)
            | Source::Network(text)
            | Source::Word(text)
            | Source::Strange(text) => text.clone(),
        }
    }

    /// Whether a block device has to answer to it.
    pub fn wants_device(&self) -> bool {
        matches!(self, Source::Tag(..) | Source::Device(_))
    }
}

/// Whether the type is reached over the network.
pub fn is_network_type(fstype: &str) -> bool {
    matches!(fstype, "fuse.sshfs" | "fuse.glusterfs") || known(fstype).is_some_and(FsType::is_network)
}

/// Whether the entry's type lives in memory or shows something existing.
fn needs_no_device(entry: &Entry) -> bool {
    let in_memory = |t: &FsType| matches!(t.lives, Lives::InKernel | Lives::InProgram) && t.name != "none";
    entry.is_bind() || entry.fstype.starts_with("fuse") || known(&entry.fstype).is_some_and(in_memory)
}

fn looks_like_device(entry: &Entry) -> bool {
    !needs_no_device(entry) && known(&entry.fstype).is_some_and(|t| t.is_on_device() && t.name != "auto")
}

/// The value without a pair of quotes around it, as the boot takes it.
fn unquoted(value: &str) -> &str {
    let strip = |q: char| value.strip_prefix(q).and_then(|v| v.strip_suffix(q));
    strip('"').or_else(|| strip('\'')).unwrap_or(value)
}

fn is_uuid(text: &str) -> bool {
    text.len() == 36
        && text.bytes().enumerate().all(|(i, b)| match i {
            8 | 13 | 18 | 23 => b == b'-',
            _ => b.is_ascii_hexdigit(),
        })
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_facts::table::Table;

    #[test]
    fn all_spellings() {
        let tag = |t, v: &str| Source::Tag(t, v.to_owned());
        for (text, expected) in [
            ("UUID=ab-cd", tag(Tag::Uuid, "ab-cd")),
            ("UUID=\"ab-cd\"", tag(Tag::Uuid, "ab-cd")),
            ("LABEL='press room'", tag(Tag::Label, "press room")),
            ("PARTUUID=0badc0de-01", tag(Tag::PartUuid, "0badc0de-01")),
            ("/dev/disk/by-label/press\\x20room", tag(Tag::Label, "press room")),
            ("/dev/disk/by-label/press room", Source::Device("/dev/disk/by-label/press room".into())),
            ("/dev/disk/by-id/usb-Stick", Source::Device("/dev/disk/by-id/usb-Stick".into())),
            ("/var/swap/good", Source::Path("/var/swap/good".into())),
            ("tidehost.example:/export", Source::Network("tidehost.example:/export".into())),
            ("//tidehost.example/log", Source::Network("//tidehost.example/log".into())),
            ("uuid=ab-cd", Source::Strange("uuid=ab-cd".into())),
            (
                "5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b",
                Source::Strange("5d0c1f0e-6a35-4b1c-9a55-0f6f1f1ab00b".into()),
            ),
            ("tmpfs", Source::Word("tmpfs".into())),
        ] {
            assert_eq!(Source::parse(text), expected, "{text}");
        }
    }

    #[test]
    fn the_type_decides_what_a_word_is() {
        let source = |line: &str| Source::of(&Table::parse(line).entries()[0]);
        assert_eq!(source("none /run/lock tmpfs"), Source::Word("none".into()));
        assert_eq!(source("gauge /srv/gauge ext4"), Source::Strange("gauge".into()));
        assert!(matches!(source("10.0.0.1:/x /srv/x nfs"), Source::Network(_)));
    }
}
