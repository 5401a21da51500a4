use super::trial::{Cause, Trial, mount, option_verdicts, swap};
use super::unit_name::{mount_unit, swap_unit};
use crate::options::Checked;
use crate::path::tidy;
use crate::record::{Content, Device, LocalUnit, PathFacts, PathKind, Record};
use crate::resolve::{
    Index, Near, Purpose, Resolution, Source, encode_link, is_network_type, suggest, unread_partition,
};
use crate::table::{ByMount, Entry, Line, LineKind, Table, by_mount, encode};

/// What one entry asks the boot for, and what is known of it.
#[derive(Debug, Clone)]
pub struct Request<'a> {
    /// The entry.
    pub entry: Entry,
    /// Its source, told apart.
    pub source: Source,
    /// Whether the device it needs is there.
    pub need: Need<'a>,
    /// The target as a clean absolute path with links followed; `None` for
    /// swap and for lines whose target is no path.
    pub target: Option<String>,
    /// What trying it ends in.
    pub trial: Trial,
    /// The verdict on each of its options, by the type it is mounted with.
    pub options: Vec<Checked>,
    /// `nofail`.
    pub nofail: bool,
    /// `noauto`.
    pub noauto: bool,
    /// `x-systemd.automount`.
    pub automount: bool,
    /// Waits for the network: `_netdev` or a network type.
    pub network: bool,
    /// Facts about the target.
    pub facts: Option<&'a PathFacts>,
    /// Whether the init system never sees the line, because the one before it
    /// holds a NUL byte.
    pub lost: bool,
    /// Whether the mount program passes the line over.
    pub refused: bool,
    /// The unit file that takes the entry's place in systemd.
    pub local_unit: Option<&'a LocalUnit>,
}

/// Whether the block device a request needs is there.
#[derive(Debug, Clone)]
pub enum Need<'a> {
    /// It needs none.
    None,
    /// It is there.
    Present(Vec<&'a Device>),
    /// It is not; names that look alike.
    Missing(Vec<Near<'a>>),
    /// The facts do not tell; why.
    Unknown(String),
}

/// What every entry of a table asks for.
pub fn requests<'a>(record: &'a Record, index: &Index<'a>, table: &Table) -> Vec<Request<'a>> {
    let of_line = |line: &Line| {
        let lost = line.kind == LineKind::Lost;
        let refused = !lost && matches!(by_mount(table, line), ByMount::PassedOver(_));
        let request = request(record, index, Entry::read(table, line)?);
        Some(Request { lost, refused, ..request })
    };
    table.lines().iter().filter_map(of_line).collect()
}

fn request<'a>(record: &'a Record, index: &Index<'a>, entry: Entry) -> Request<'a> {
    let written = as_written(record, index, entry);
    let unit = match &written.target {
        Some(target) => mount_unit(target),
        None => swap_unit(&written.source_path()),
    };
    let local_unit = record.units.iter().flatten().find(|u| u.name == unit);
    // What is tried is what the unit file says; who waits for it is what the
    // entry says (recorded).
    let table = local_unit.and_then(as_line).map(Table::parse);
    match table.as_ref().and_then(|t| t.entries().pop()) {
        Some(entry) => {
            let Request { need, trial, .. } = as_written(record, index, entry);
            Request { need, trial, local_unit, ..written }
        }
        None => Request { local_unit, ..written },
    }
}

/// What a unit file asks for, as a line of a table.
fn as_line(unit: &LocalUnit) -> Option<Vec<u8>> {
    let swap = unit.name.ends_with(".swap");
    let target = if swap { Some("none") } else { unit.target.as_deref() };
    let fstype = if swap { "swap" } else { unit.fstype.as_deref().unwrap_or("auto") };
    let fields = [unit.what.as_deref()?, target?, fstype, unit.options.as_deref().unwrap_or("defaults")];
    Some(fields.map(|f| encode(f.as_bytes())).join(&b' '))
}

fn as_written<'a>(record: &'a Record, index: &Index<'a>, entry: Entry) -> Request<'a> {
    let source = Source::of(&entry);
    let facts = index.path(&entry.target);
    let target = target(&entry, facts);
    let purpose = match &target {
        Some(target) => Purpose::Mount(target),
        None if entry.is_swap() => Purpose::Swap,
        None => Purpose::Any,
    };
    let need = match index.resolve_for(&source, purpose) {
        Resolution::Found(devices) => Need::Present(devices),
        Resolution::Absent(_) if unread_partition(record, &source).is_some() => {
            Need::Unknown("the running kernel does not know the partition yet; the boot will".to_owned())
        }
        Resolution::Absent(_) => Need::Missing(suggest(index, &entry.source)),
        Resolution::Unknown(why) => Need::Unknown(why),
        Resolution::NotADevice => Need::None,
    };
    let device = match &need {
        Need::Present(devices) => devices.first().copied(),
        _ => None,
    };
    let swap_path = if let Source::Path(path) = &source { index.path(path) } else { None };
    let options = option_verdicts(record, &entry, device.and_then(|d| d.content.as_ref()));
    let trial = if entry.is_swap() {
        swap(&source, device, swap_path)
    } else {
        bind_trial(index, &entry, &source)
            .unwrap_or_else(|| mount(record, &entry, &source, device, facts, &options))
    };
    Request {
        target,
        nofail: entry.has("nofail"),
        noauto: entry.switched("noauto", "auto"),
        automount: entry.has("x-systemd.automount") || remark(&entry, "systemd.automount"),
        network: entry.has("_netdev") || is_network_type(&entry.fstype),
        entry,
        source,
        need,
        trial,
        options,
        facts,
        local_unit: None,
        lost: false,
        refused: false,
    }
}

/// A bind mount fails when its source is a file and its target a folder; a
/// source that is missing is made by the init system (recorded).
fn bind_trial(index: &Index<'_>, entry: &Entry, source: &Source) -> Option<Trial> {
    let Source::Path(path) = source else { return None };
    if !entry.is_bind() && entry.fstype == "none" {
        return Some(Trial::Fails(
            Cause::Options,
            "without bind among the options there is nothing of type none to mount".to_owned(),
        ));
    }
    let kind = |p: &str| index.path(p).map(|f| f.kind);
    let mismatch = match (kind(path), kind(&entry.target)) {
        (Some(PathKind::File), Some(PathKind::Directory)) => {
            Some(format!("{path} is a file and {} a folder", entry.target))
        }
        (Some(PathKind::Directory), Some(PathKind::File)) => {
            Some(format!("{path} is a folder and {} a file", entry.target))
        }
        _ => None,
    };
    mismatch.filter(|_| entry.is_bind()).map(|why| Trial::Fails(Cause::Target, why))
}

/// systemd also reads its options behind `comment=`.
fn remark(entry: &Entry, word: &str) -> bool {
    entry.options.iter().any(|o| o.name == "comment" && o.value.as_deref() == Some(word))
}

fn target(entry: &Entry, facts: Option<&PathFacts>) -> Option<String> {
    if entry.is_swap() || !entry.target.contains('/') {
        return None;
    }
    let canonical = facts.and_then(|f| f.canonical.as_deref());
    Some(tidy(canonical.unwrap_or(&entry.target)))
}

impl<'a> Request<'a> {
    /// Number of the entry's line.
    pub fn line(&self) -> usize {
        self.entry.line
    }

    /// The device it needs, when that is there; the first when several are.
    pub fn device(&self) -> Option<&'a Device> {
        match &self.need {
            Need::Present(devices) => devices.first().copied(),
            _ => None,
        }
    }

    /// What that device holds, as far as it was read.
    pub fn content(&self) -> Option<&'a Content> {
        self.device()?.content.as_ref()
    }

    /// Whether it is the entry of the root file system.
    pub fn is_root(&self) -> bool {
        self.target.as_deref() == Some("/")
    }

    /// The path the init system waits for and activates: for tags the name
    /// under /dev/disk.
    pub fn source_path(&self) -> String {
        match &self.source {
            Source::Tag(tag, value) => format!("/dev/disk/{}/{}", tag.folder(), encode_link(value)),
            Source::Device(path) | Source::Path(path) => path.clone(),
            Source::Network(text) | Source::Word(text) | Source::Strange(text) => text.clone(),
        }
    }

    /// The paths whose mounts have to be there first: the target's own
    /// folder, a bind source, a swap file, `x-systemd.requires-mounts-for=`.
    pub fn lies_under(&self) -> Vec<String> {
        let mut paths: Vec<String> = Vec::new();
        if let Some(target) = &self.target {
            paths.extend(target.rsplit_once('/').map(|(parent, _)| parent.to_owned()));
        }
        if let (Source::Path(path), true) = (&self.source, self.entry.is_bind() || self.entry.is_swap()) {
            paths.push(path.clone());
        }
        let named = self.entry.options.iter().filter(|o| o.name == "x-systemd.requires-mounts-for");
        paths.extend(named.filter_map(|o| o.value.clone()));
        paths
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_what_an_entry_asks_for() {
        let record = Record::new("mooring");
        let index = Index::new(&record);
        let table = Table::parse(
            "LABEL=a srv//a/ ext4 nofail,noauto\nb:/c /c nfs comment=systemd.automount\nLABEL=d none ext4\n/a/swap none swap\n",
        );
        let all = requests(&record, &index, &table);
        assert_eq!(all[0].target.as_deref(), Some("/srv/a"));
        assert!(all[0].nofail && all[0].noauto && !all[0].network);
        assert!(all[1].network && all[1].automount);
        assert_eq!(all[2].target, None);
        assert_eq!(all[3].lies_under(), ["/a/swap"]);
        assert_eq!(all[0].source_path(), "/dev/disk/by-label/a");
    }
}
