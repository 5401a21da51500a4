//! The line an expert would write for a device and a use: the lasting name,
//! the type found, options with their reasons, and the steps around it.

mod choices;
mod kinds;
mod making;
mod moving;
mod recommended;
mod share;
mod source;
mod steps;
mod subvolume;

pub use recommended::{Recommended, recommended};

use crate::edit::{By, Fresh};
use crate::image;
use crate::steps::Step;
use bradawl_catalogue::options::{effective, program_on};
use bradawl_facts::record::{Content, ContentKind, Device, DeviceKind, PathFacts, PathKind, Record};
use bradawl_facts::table::{Table, decode, with_added};
use bradawl_facts::text::list;
use bradawl_resolve::{Index, Source};
use source::Found;
use std::collections::BTreeMap;

/// What the file system is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum DraftPurpose {
    /// Data that the host works with.
    Data,
    /// A medium that is plugged in and taken out.
    Removable,
    /// Copies, written now and then.
    Backup,
    /// What may be lost.
    Scratch,
    /// What the machine starts from.
    Boot,
    /// Data of several users.
    Shared,
}

impl DraftPurpose {
    /// Its word, as in JSON.
    pub fn name(self) -> &'static str {
        match self {
            DraftPurpose::Data => "data",
            DraftPurpose::Removable => "removable",
            DraftPurpose::Backup => "backup",
            DraftPurpose::Scratch => "scratch",
            DraftPurpose::Boot => "boot",
            DraftPurpose::Shared => "shared",
        }
    }
}

/// What an entry is wanted for.
#[derive(Debug, Clone, Default)]
pub struct DraftWishes {
    /// The source: any name, a size, `empty`, a directory, a share, `tmpfs`.
    pub source: String,
    /// The target; `none` or `swap` for swap.
    pub target: String,
    /// What it is for; else told from source and target.
    pub purpose: Option<DraftPurpose>,
    /// The user who is to own files on a file system that has no owners, or
    /// the top directory of one that has.
    pub owner: Option<String>,
    /// Nothing is to be written there.
    pub read_only: bool,
    /// The the boot continues without it, and does not wait long.
    pub may_be_absent: bool,
    /// The boot stops without it.
    pub required: bool,
    /// More options.
    pub options: Vec<String>,
    /// The type to make on an empty device.
    pub fstype: Option<String>,
    /// The sort of name to give the device.
    pub by: Option<By>,
    /// Who has something open on what is mounted, by target, where that was
    /// looked at.
    pub held_by: BTreeMap<String, Vec<String>>,
    /// Whether the disk is to have a partition first.
    pub partition: bool,
    /// Whether what the target holds is moved to it.
    pub move_data: bool,
    /// A UUID nobody has, for what is to be made on an empty device.
    pub fresh_uuid: Option<String>,
}

/// Why no entry can be drafted.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[non_exhaustive]
pub enum DraftError {
    /// The facts do not tell which device a name means; why.
    #[error("{name}: {why}")]
    NotKnown {
        /// The name.
        name: String,
        /// In words.
        why: String,
    },
    /// No device matches the name.
    #[error("no device matches {name}; {}", near_words(.near))]
    NoDevice {
        /// The name.
        name: String,
        /// Names near it.
        near: Vec<String>,
    },
    /// Several devices fit.
    #[error("{name} may be any of {}; name one of them", list(.paths))]
    Several {
        /// What was asked for.
        name: String,
        /// The devices.
        paths: Vec<String>,
    },
    /// No free device fits.
    #[error("no free device is {0}; \"bradawl devices --free\" lists them")]
    NoneFree(String),
    /// What the device holds is not known.
    #[error("what {0} holds could not be read; try as root")]
    Unread(String),
    /// The device holds another type than the one asked for.
    #[error("{path} holds {held}, not {wanted}; only an empty device is given a type")]
    HoldsOther {
        /// The device.
        path: String,
        /// What it holds.
        held: String,
        /// What was asked for.
        wanted: String,
    },
    /// The device has no name of the sort asked for.
    #[error("{path} has no {sort} to be named by")]
    NoName {
        /// The device.
        path: String,
        /// The word for the sort.
        sort: &'static str,
    },
    /// No program makes the type.
    #[error("no program here makes {0}: ext4, xfs, btrfs, vfat, exfat, ntfs3 and swap can be made")]
    NotMade(String),
    /// The device is too small for the type.
    #[error("{path} has {has}, and {fstype} needs {least} at least")]
    TooSmall {
        /// The device.
        path: String,
        /// Its size.
        has: String,
        /// The type.
        fstype: String,
        /// What it needs.
        least: String,
    },
    /// The host cannot mount the type.
    #[error("neither the kernel of the host nor a program of it mounts {0}")]
    NoSupport(String),
    /// An overlay without layers.
    #[error("an overlay needs its layers: --options lowerdir=DIRECTORY,upperdir=DIRECTORY,workdir=DIRECTORY")]
    NoLayers,
    /// The host runs from the directory.
    #[error("{0} cannot be moved while the host runs from it: do it from a rescue system")]
    InUse(String),
    /// The target holds nothing.
    #[error("there is nothing in {0} to move")]
    NothingToMove(String),
    /// The file holds something else than swap.
    #[error(
        "{0} holds something that is not swap, and mkswap would destroy it: name a file that is not there yet"
    )]
    NotSwap(String),
    /// The device ends with the running system.
    #[error("{path} is not there at the next boot: it is on {what}; --by uuid names it all the same")]
    Passing {
        /// The device.
        path: String,
        /// What it is on.
        what: String,
    },
    /// A partition is only made on a disk that is empty.
    #[error("{0} is no empty disk: a partition table would be written over what it holds")]
    NotEmptyDisk(String),
    /// The host knows no such user.
    #[error("there is no user {0} on the host: create it first, or give a number")]
    NoUser(String),
    /// What the device holds is not mounted.
    #[error("{path} cannot be mounted: {why}")]
    NotMountable {
        /// The device.
        path: String,
        /// In words.
        why: String,
    },
}

fn near_words(near: &[String]) -> String {
    match near {
        [] => "\"bradawl devices\" shows what is there".to_owned(),
        names => format!("near it: {}", list(names)),
    }
}

/// A choice and its reason.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Choice {
    /// What was chosen: a field's text or an option.
    pub what: String,
    /// Why.
    pub why: String,
}

/// A drafted entry.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Draft {
    /// The entry.
    pub entry: Fresh,
    /// The device, as the kernel names it now.
    pub device: Option<String>,
    /// Whether the device is empty, and the file system has to be made first.
    pub to_make: bool,
    /// Whether the steps move what the target holds now to it.
    pub moves: bool,
    /// What it is for.
    pub purpose: Option<DraftPurpose>,
    /// Each choice with its reason.
    pub choices: Vec<Choice>,
    /// What its options mean in effect.
    pub effective: Vec<String>,
    /// What to do before the entry counts.
    pub before: Vec<Step>,
    /// What to do once it stands in the table.
    pub after: Vec<Step>,
}

/// Drafts an entry for a host.
///
/// # Errors
/// When the source is nothing that can be mounted, or not one thing only.
pub fn draft(record: &Record, wishes: &DraftWishes) -> Result<Draft, DraftError> {
    let index = Index::new(record);
    let found = source::find(record, &index, wishes)?;
    checked(record, wishes, &found)?;
    let mut plan = Plan { record, wishes, found: &found, choices: Vec::new(), options: Vec::new() };
    let fstype = plan.fstype();
    let (source, purpose) = (plan.source(), plan.purpose(&fstype));
    plan.options(&fstype, purpose);
    wishes.options.iter().for_each(|option| plan.chose(option.clone(), "as asked"));
    let (dump, pass) = plan.numbers(&fstype);
    let target = if fstype == "swap" { "none".to_owned() } else { wishes.target.clone() };
    let options = plan.merged();
    let entry = Fresh { source, target, fstype, options, dump, pass, comment: comment(&found, purpose) };
    let written = Table::parse(entry.line()).entries();
    let effective = written.first().map(|e| effective(&e.options, program_on(record))).unwrap_or_default();
    Ok(Draft {
        device: found.path(),
        to_make: found.to_make,
        moves: wishes.move_data,
        before: steps::before(record, &found, wishes, &entry),
        after: steps::after(record, wishes, &entry),
        choices: plan.choices,
        entry,
        purpose,
        effective,
    })
}

/// Refuses what cannot be done as it was asked for.
fn checked(record: &Record, wishes: &DraftWishes, found: &Found<'_>) -> Result<(), DraftError> {
    if let (Some(device), Some(fstype), true) = (found.device, &found.fstype, found.to_make) {
        making::objection(record, device, fstype).map_or(Ok(()), Err)?;
    }
    if let (Some(device), Some(by), false) = (found.device, wishes.by, found.to_make) {
        let path = device.path.clone();
        crate::edit::name_by(device, by).ok_or(DraftError::NoName { path, sort: by.word() })?;
    }
    if let (Source::Path(path), Some("swap")) = (&found.source, found.fstype.as_deref()) {
        let facts = record.paths.iter().find(|f| f.path == *path);
        let holds = |f: &PathFacts| f.kind != PathKind::Absent && !is_for_swap(f);
        if facts.is_some_and(holds) {
            return Err(DraftError::NotSwap(path.clone()));
        }
    }
    if let (Some(name), Some(accounts)) = (&wishes.owner, &record.accounts) {
        let known = name.parse::<u32>().is_ok() || accounts.number("uid", name).is_some();
        known.then_some(()).ok_or_else(|| DraftError::NoUser(name.clone()))?;
    }
    if wishes.move_data {
        let facts = record.paths.iter().find(|f| f.path == wishes.target);
        moving::objection(&wishes.target, facts).map_or(Ok(()), Err)?;
    }
    Ok(())
}

/// Whether a file holds swap, or nothing at all and enough of it.
fn is_for_swap(facts: &PathFacts) -> bool {
    let size = facts.size.is_none_or(|s| s >= 40 << 10);
    let kind = facts.content.as_ref().map(|c| c.kind);
    facts.kind == PathKind::File
        && size
        && matches!(kind, None | Some(ContentKind::Swap | ContentKind::Empty))
}

/// The host as it will be once what the draft needs is made: its device holds
/// the file system, with the UUID of the entry.
pub fn once_made(record: &Record, draft: &Draft) -> Record {
    let mut record = record.clone();
    if draft.moves {
        let target = record.paths.iter_mut().filter(|f| f.path == draft.entry.target);
        target.for_each(|f| f.entries = Some(0));
    }
    if draft.entry.fstype == "overlay" {
        for path in steps::written_layers(&draft.entry) {
            record.paths.retain(|f| f.path != path);
            record.paths.push(PathFacts::new(path, PathKind::Directory));
        }
    }
    share::once_there(&mut record, &draft.entry);
    image::once_named(&mut record, &draft.entry);
    swap_file_once_made(&mut record, &draft.entry);
    subvolume::once_made(&mut record, draft);
    let path = draft.device.as_ref().filter(|_| draft.to_make);
    let Some(path) = path else { return record };
    let devices = record.devices.get_or_insert_with(Vec::new);
    if !devices.iter().any(|d| d.path == *path) {
        devices.push(Device::new(path.clone(), DeviceKind::Partition));
    }
    if let Some(device) = devices.iter_mut().find(|d| d.path == *path) {
        let kind = if draft.entry.fstype == "swap" { ContentKind::Swap } else { ContentKind::Filesystem };
        let name = |tag: &str| draft.entry.source.strip_prefix(tag).map(str::to_owned);
        let (uuid, label) = (name("UUID="), name("LABEL="));
        // Both drivers of it are named otherwise than what they mount.
        let held = if draft.entry.fstype.starts_with("ntfs") { "ntfs" } else { &draft.entry.fstype };
        device.content = Some(Content { uuid, label, ..Content::new(kind, Some(held)) });
    }
    record
}

/// The swap file that the first step makes.
fn swap_file_once_made(record: &mut Record, entry: &Fresh) {
    let there = |f: &PathFacts| f.path == entry.source && f.kind != PathKind::Absent;
    if entry.fstype != "swap" || !entry.source.starts_with('/') || record.paths.iter().any(there) {
        return;
    }
    if Source::parse(&entry.source).wants_device() {
        return;
    }
    record.paths.retain(|f| f.path != entry.source);
    let content = Content::new(ContentKind::Swap, Some("swap"));
    record.paths.push(PathFacts {
        size: Some(1 << 30),
        allocated: Some(1 << 30),
        uid: Some(0),
        mode: Some(0o600),
        content: Some(content),
        ..PathFacts::new(entry.source.clone(), PathKind::File)
    });
}

/// What is being decided, and why.
struct Plan<'a> {
    record: &'a Record,
    wishes: &'a DraftWishes,
    found: &'a Found<'a>,
    choices: Vec<Choice>,
    options: Vec<String>,
}

impl Plan<'_> {
    fn chose(&mut self, what: impl Into<String>, why: impl Into<String>) {
        self.choices.push(Choice { what: what.into(), why: why.into() });
    }

    fn option(&mut self, option: impl Into<String>, why: impl Into<String>) {
        let option = option.into();
        self.options.push(option.clone());
        self.chose(option, why);
    }

    /// Those chosen and those asked for; a later one of a name takes its
    /// place.
    fn merged(&self) -> Vec<String> {
        let mut all: Vec<Vec<u8>> = Vec::new();
        for option in self.options.iter().chain(&self.wishes.options) {
            let list = with_added(all, std::slice::from_ref(option));
            all = list.split(|b| *b == b',').map(<[u8]>::to_vec).collect();
        }
        let words = all.iter().map(|o| String::from_utf8_lossy(&decode(o)).into_owned());
        words.filter(|o| o != "defaults").collect()
    }
}

/// What the device is, in words that last: for the line above the entry.
fn comment(found: &Found<'_>, purpose: Option<DraftPurpose>) -> Option<String> {
    let device = found.device?;
    let content = device.content.as_ref();
    let mut words: Vec<String> = Vec::new();
    words.extend(device.size.map(bradawl_facts::size::decimal));
    words.extend(found.fstype.clone());
    words.extend(content.and_then(|c| c.label.as_ref()).map(|label| format!("\"{label}\"")));
    words.extend(device.model.as_ref().map(|model| format!("on {}", model.trim())));
    let purpose = purpose.map(DraftPurpose::name);
    let about = words.join(" ");
    Some(match purpose {
        Some(purpose) => format!("{purpose}: {about}"),
        None => about,
    })
    .filter(|text| !text.is_empty())
}

#[cfg(test)]
mod tests;
