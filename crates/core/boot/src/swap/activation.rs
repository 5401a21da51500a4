use super::{Priority, written_priority};
use bradawl_facts::Version;
use bradawl_facts::record::{Content, ContentKind, PathFacts, PathKind};
use bradawl_facts::table::OptionItem;

/// Where a swap area lies.
#[derive(Debug, Clone, Copy)]
pub enum Place<'a> {
    /// On a device, of this many bytes.
    Device(Option<u64>),
    /// In a file, on a file system of this type.
    File(&'a PathFacts, Option<&'a str>),
}

/// A swap area before it is activated.
#[derive(Debug, Clone, Copy)]
pub struct Area<'a> {
    /// Where it lies.
    pub place: Place<'a>,
    /// What is there.
    pub content: Option<&'a Content>,
    /// The host's page size.
    pub page_size: Option<u64>,
    /// Version of the mount program, of which swapon is a part.
    pub program: Option<Version>,
}

/// What activating an area ends in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Activation {
    /// Whether it is taken.
    pub fate: Fate,
    /// When it is used.
    pub priority: Priority,
    /// What swapon warns of.
    pub warnings: Vec<Warning>,
}

/// Whether an area is taken.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Fate {
    /// It is.
    Taken,
    /// It is not; why.
    Refused(String),
    /// The facts do not tell; what is missing.
    Unknown(String),
}

/// What swapon warns of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Warning {
    /// Others may read the file: its permission bits.
    Mode(u32),
    /// It belongs to somebody else than root: whose number.
    Owner(u32),
}

impl Warning {
    /// What is unwise, in words.
    pub fn words(self) -> String {
        match self {
            Warning::Mode(mode) => format!("others may read it: mode {mode:04o}"),
            Warning::Owner(uid) => format!("it belongs to user {uid}, not to root"),
        }
    }
}

/// File systems whose files are never taken (recorded for nilfs2; the others
/// have no blocks that swap could be written to, mm/swapfile.c).
const NEVER: [&str; 6] = ["nilfs2", "tmpfs", "ramfs", "overlay", "squashfs", "zfs"];

/// What swapon does with an area and a list of options (recorded for kernels
/// 5.10 to 6.18).
pub fn activate(area: &Area<'_>, options: &[OptionItem]) -> Activation {
    let mut warnings = Vec::new();
    if let Place::File(facts, _) = area.place {
        warnings.extend(facts.mode.map(|m| m & 0o7777).filter(|m| m & 0o077 != 0).map(Warning::Mode));
        warnings.extend(facts.uid.filter(|uid| *uid != 0).map(Warning::Owner));
    }
    Activation { fate: fate(area), priority: written_priority(options, area.program), warnings }
}

fn fate(area: &Area<'_>) -> Fate {
    let file = match area.place {
        Place::Device(_) => None,
        Place::File(facts, fstype) => file_objection(facts, fstype),
    };
    if let Some(why) = file {
        return Fate::Refused(why);
    }
    let Some(content) = area.content else {
        return Fate::Unknown("what it holds was not read".to_owned());
    };
    let size = match area.place {
        Place::Device(size) => size,
        Place::File(facts, _) => facts.size,
    };
    header_objection(content, size, area.page_size).map_or(Fate::Taken, Fate::Refused)
}

fn file_objection(facts: &PathFacts, fstype: Option<&str>) -> Option<String> {
    match facts.kind {
        PathKind::Absent => return Some(format!("there is no file {}", facts.path)),
        PathKind::Directory | PathKind::Other => return Some(format!("{} is not a file", facts.path)),
        PathKind::File => {}
    }
    if let Some(fstype) = fstype.filter(|t| NEVER.contains(t)) {
        return Some(format!("a file on {fstype} cannot be swapped to"));
    }
    if facts.allocated.zip(facts.size).is_some_and(|(allocated, size)| allocated < size) {
        return Some("the swap file has holes".to_owned());
    }
    if facts.shared == Some(true) {
        return Some("some of its blocks are another file's too".to_owned());
    }
    (fstype == Some("btrfs") && facts.nocow == Some(false))
        .then(|| "its blocks are copied on writing (Btrfs without chattr +C)".to_owned())
}

fn header_objection(content: &Content, size: Option<u64>, page_size: Option<u64>) -> Option<String> {
    match content.kind {
        ContentKind::Swap | ContentKind::Ambiguous => {}
        ContentKind::Empty => return Some("it holds no swap area: it was never made with mkswap".to_owned()),
        ContentKind::Unknown => return Some("it holds no swap area".to_owned()),
        _ => return Some(format!("it holds {}, not swap", content.words())),
    }
    if let Some((made, here)) = content.block_size.zip(page_size).filter(|(made, here)| made != here) {
        return Some(format!("it was made for memory pages of {made} bytes, this machine has {here}"));
    }
    let short = content.size.zip(size).filter(|(says, is)| says > is);
    short.map(|(says, is)| format!("its header says {says} bytes, and there are {is}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn headers_that_do_not_fit() {
        let mut content = Content::new(ContentKind::Swap, Some("swap"));
        (content.block_size, content.size) = (Some(4096), Some(1 << 30));
        let fate = |size, page| {
            fate(&Area {
                place: Place::Device(size),
                content: Some(&content),
                page_size: page,
                program: None,
            })
        };
        assert_eq!(fate(Some(1 << 30), Some(4096)), Fate::Taken);
        assert_eq!(fate(None, None), Fate::Taken);
        assert!(matches!(fate(Some(1 << 30), Some(65536)), Fate::Refused(why) if why.contains("65536")));
        assert!(matches!(fate(Some(1 << 29), Some(4096)), Fate::Refused(why) if why.contains("header says")));
    }
}
