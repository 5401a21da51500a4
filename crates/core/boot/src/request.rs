use super::assembly::Lack;
use super::doubt::{Doubt, DoubtSort};
use super::generated;
use super::need::{Need, Needed, needed};
use super::trial::{Cause, Facts, On, Trial, is_checked, mount, mounted_type, option_verdicts, swap};
use super::unit_file::{SwitchedOff, as_line, switched_off, tried_at_once, unless_conditions};
use super::unit_name::{check_unit, device_unit, mount_unit, swap_unit};
use super::zram;
use bradawl_catalogue::SystemdVersion;
use bradawl_catalogue::fstypes::{FsType, known, waits_for_network};
use bradawl_catalogue::options::Checked;
use bradawl_facts::map::Set;
use bradawl_facts::path::{folders_above, tidy};
use bradawl_facts::record::{Content, Device, LocalUnit, PathFacts, PathKind, Record};
use bradawl_facts::table::{ByMount, Entry, Line, LineKind, OptionItem, Table, by_mount, stumble};
use bradawl_facts::text::visible;
use bradawl_facts::timespan::parse_timespan;
use bradawl_resolve::{Index, Near, Purpose, Source};
use smallvec::SmallVec;
use std::borrow::Cow;

/// What one entry asks the boot for, and what is known of it.
#[derive(Debug, Clone)]
pub struct Request<'a> {
    /// The entry.
    pub entry: Entry,
    /// Its source, told apart.
    pub source: Source,
    /// The path the init system waits for and activates: for tags the name
    /// under /dev/disk.
    pub path: String,
    /// systemd's name for it: `srv-tide.mount`, `swapfile.swap`.
    pub unit: String,
    /// Whether the device it needs is there.
    pub need: Need<'a>,
    /// What the device lacks, if it is made of several and not all are there.
    pub lack: Option<Lack>,
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
    /// Whether the init system never sees the line: the one before it holds a
    /// NUL byte, or a version that reads as the mount program does refuses it.
    pub lost: bool,
    /// Whether the mount program passes the line over.
    pub refused: bool,
    /// The unit file that takes the entry's place in systemd.
    pub local_unit: Option<Cow<'a, LocalUnit>>,
    /// Drop-ins of its device's unit.
    pub device_unit: Option<Cow<'a, LocalUnit>>,
    /// What switches its unit off, if anything does.
    pub switched_off: Option<SwitchedOff>,
    /// Whether the host's own generator, which was asked, makes no unit of it.
    pub unmade: bool,
    /// Whether its device ends with the running system.
    pub passing: bool,
}

/// What every entry of a table asks for, each by itself.
pub(super) fn each<'a>(record: &'a Record, index: &'a Index<'a>, table: &Table) -> Vec<Request<'a>> {
    let known = Facts::of(record);
    let made = generated::units(record, table.bytes());
    let strictly = record.host.boots_with().is_systemd() && SystemdVersion::of(record).reads_by_mount();
    let of_line = |line: &Line| {
        let swallowed = !strictly && line.kind == LineKind::Lost;
        let entry = Entry::read(table, line)?;
        let refused = !swallowed && stumble(table, line).is_some();
        let entry = match strictly.then(|| by_mount(table, line)) {
            Some(ByMount::Entry(read)) => entry.reread(&read),
            _ => entry,
        };
        let lost = swallowed || (strictly && refused);
        let mut request = request(known, index, entry);
        (request.lost, request.refused) = (lost, refused);
        request.unmade = made.as_ref().is_some_and(|made| !made.contains(request.unit.as_str()));
        Some(request)
    };
    table.lines().iter().filter_map(of_line).collect()
}

fn request<'a>(known: Facts<'a>, index: &'a Index<'a>, entry: Entry) -> Request<'a> {
    let record = known.record;
    let mut written = as_written(known, index, entry);
    let local_unit = index.unit(&written.unit);
    let local = local_unit.as_deref();
    written.switched_off = switched_off(record, &written.unit, local);
    // What is tried is what the unit file says; who waits for it is what the
    // entry says (recorded).
    let table = local.and_then(|unit| as_line(unit, &written.entry)).map(Table::parse);
    if let Some(entry) = table.as_ref().and_then(|t| t.entries().pop()) {
        let Request { need, trial, path, .. } = as_written(known, index, entry);
        written.path = path;
        let unit = local.filter(|_| !SystemdVersion::of(record).reads_tags_in_units());
        (written.need, written.trial) = tried_at_once(unit, need, trial);
    }
    written.device_unit =
        index.unit(&device_unit(&written.path)).filter(|_| written.path.starts_with("/dev/"));
    if zram::is_made(record, &written.unit) {
        (written.need, written.trial, written.passing) = (Need::None, Trial::Works, false);
    }
    // What another check finds is known to nobody.
    let checks = ["systemd-fsck@.service".to_owned(), check_unit(&written.path)];
    let other_check =
        checks.iter().filter_map(|name| index.unit(name)).find(|u| u.exec.is_some() && !u.masked);
    if let Some(check) = other_check
        && written.path.starts_with("/dev/")
        && !written.is_root()
        && !matches!(written.trial, Trial::Fails(..))
        && is_checked(known, &written.entry)
    {
        let why = format!("{} has another check come before it", visible(&check.path));
        written.trial = Trial::Unknown(Doubt::not_known(why));
    }
    if let Some(trial) = local.and_then(|unit| unless_conditions(record, index, unit, &written.trial)) {
        written.trial = trial;
    }
    written.local_unit = local_unit;
    written
}

/// The entry as it stands in the unit that the init system makes: it takes a
/// carriage return off the end of each setting when it reads that (recorded).
/// Words that its generator looks for, such as nofail, were compared before.
fn without_returns(mut entry: Entry) -> Entry {
    let strip = |text: &mut String| {
        if text.ends_with('\r') {
            text.truncate(text.trim_end_matches('\r').len());
        }
    };
    strip(&mut entry.fstype);
    if let Some(last) = entry.options.last_mut() {
        strip(last.value.as_mut().unwrap_or(&mut last.name));
    }
    entry
}

fn as_written<'a>(known: Facts<'a>, index: &'a Index<'a>, entry: Entry) -> Request<'a> {
    let host = &known.record.host;
    // The system needs /usr, whatever its entry says.
    let needed_always = host.boots_with().is_systemd()
        && SystemdVersion::of(known.record).insists_on_usr()
        && tidy(&entry.target) == "/usr";
    let asks = |said: bool| said && !needed_always;
    let nofail = asks(entry.switched("nofail", "fail") || in_background(&entry));
    let noauto = asks(entry.switched("noauto", "auto"));
    let automount = asks(entry.has("x-systemd.automount") || remark(&entry, "systemd.automount"));
    let network = entry.has("_netdev") || waits_for_network(&entry.fstype);
    let entry = if known.record.host.boots_with().is_systemd() { without_returns(entry) } else { entry };
    let source = Source::of(&entry);
    let facts = index.path(&entry.target);
    let target = target(&entry, facts);
    let purpose = purpose(&entry, target.as_deref());
    let Needed { need, lack, made_anew, passing } = needed(known.record, index, &entry, &source, purpose);
    let device = match &need {
        Need::Present(devices) => devices.first().copied(),
        _ => None,
    };
    let options = option_verdicts(known, &entry, &source, device.and_then(|d| d.content.as_ref()));
    let on = On {
        device,
        file: source.file().and_then(|path| index.path(path)),
        target: facts,
        in_the_way: target.as_deref().and_then(|target| in_the_way(index, target)),
    };
    let trial = match bind_trial(index, &entry, &source) {
        _ if made_anew => Trial::Works,
        _ if entry.is_swap() => swap(known.record, &source, on),
        Some(trial) => trial,
        None => mount(known, &entry, &source, on, &options),
    };
    let passes = passing.is_some();
    let trial = or_doubted(trial, passing);
    let path = source.waited_for();
    Request {
        unit: target.as_deref().map_or_else(|| swap_unit(&path), mount_unit),
        target,
        nofail,
        noauto,
        automount,
        network,
        path,
        entry,
        source,
        need,
        lack,
        trial,
        options,
        facts,
        local_unit: None,
        device_unit: None,
        switched_off: None,
        unmade: false,
        passing: passes,
        lost: false,
        refused: false,
    }
}

/// What the device of an entry is wanted for.
fn purpose<'t>(entry: &Entry, target: Option<&'t str>) -> Purpose<'t> {
    match target {
        Some(target) => Purpose::Mount(target),
        None if entry.is_swap() => Purpose::Swap,
        None => Purpose::Any,
    }
}

/// What works now is not counted on where its device is not.
fn or_doubted(trial: Trial, doubt: Option<Doubt>) -> Trial {
    match doubt {
        Some(doubt) if trial == Trial::Works => Trial::Unknown(doubt),
        _ => trial,
    }
}

/// What is no directory on the way to a target.
fn in_the_way<'a>(index: &Index<'a>, target: &str) -> Option<&'a PathFacts> {
    let no_folder = |facts: &&PathFacts| matches!(facts.kind, PathKind::File | PathKind::Other);
    folders_above(target).filter_map(|folder| index.tidy_path(folder)).find(no_folder)
}

/// A bind mount fails when its source is a file and its target a directory; a
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
            Some(format!("{path} is a file and {} a directory", entry.target))
        }
        (Some(PathKind::Directory), Some(PathKind::File)) => {
            Some(format!("{path} is a directory and {} a file", entry.target))
        }
        _ => None,
    };
    mismatch.filter(|_| entry.is_bind()).map(|why| Trial::Fails(Cause::Target, why))
}

/// systemd takes NFS in the background for nofail, and waits itself.
fn in_background(entry: &Entry) -> bool {
    matches!(entry.fstype.as_str(), "nfs" | "nfs4") && entry.switched("bg", "fg")
}

/// Whether a path leads upwards somewhere.
pub(super) fn winding(path: &str) -> bool {
    path.starts_with('/') && path.split('/').any(|part| part == "..")
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
    Some(tidy(canonical.unwrap_or(&entry.target)).into_owned())
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

    /// Why the device it needs does not come, when it does not.
    pub fn lost(&self) -> Option<String> {
        match (&self.need, &self.lack) {
            (_, Some(Lack::Never(why))) => Some(why.clone()),
            (Need::Missing(_), _) => Some(format!("no device matches {}", visible(&self.entry.source))),
            _ => None,
        }
    }

    /// What would settle what comes of it, where that is not known.
    pub fn doubt(&self) -> Option<DoubtSort> {
        match (&self.need, &self.trial) {
            (Need::Unknown(doubt), _) | (_, Trial::Unknown(doubt)) => Some(doubt.sort),
            _ => None,
        }
    }

    /// Whether the target of mounts waits for it: without `nofail`, be it in the
    /// entry or in the unit file that takes its place (recorded).
    pub fn is_waited_for(&self) -> bool {
        match self.local_unit.as_deref().filter(|unit| !unit.drop_ins) {
            Some(unit) => !unit.options.iter().flat_map(|o| o.split(',')).any(|option| option == "nofail"),
            None => !self.nofail,
        }
    }

    /// The service that it requires, where it is one of those that begin before
    /// local mounts are there.
    pub(super) fn service<'r>(&'r self, early: &Set<&str>) -> Option<&'r str> {
        let asked = self.entry.options.iter().filter(|o| o.name == "x-systemd.requires");
        let by_file = self.local_unit.iter().flat_map(|unit| &unit.requires).map(String::as_str);
        asked
            .filter_map(|o| o.value.as_deref())
            .chain(by_file)
            .filter(|v| v.ends_with(".service"))
            .find(|name| early.contains(name))
    }

    /// Whether its source is a path with `..` in it.
    pub(super) fn winds(&self) -> bool {
        matches!(self.source, Source::Path(_)) && winding(&self.entry.source)
    }

    /// Why the init system cannot load the unit it makes of it, and goes on
    /// without (recorded).
    pub fn unloadable(&self) -> Option<&'static str> {
        let local = self.local_unit.as_deref().filter(|u| !u.masked && self.entry.is_swap());
        if local.and_then(|u| u.what.as_deref()).is_some_and(|what| swap_unit(what) != self.unit) {
            return Some("What= of its unit does not fit its name; the init system cannot load it");
        }
        let target = self.target.as_deref()?;
        let file =
            self.local_unit.as_deref().filter(|u| !u.drop_ins && !u.masked && self.switched_off.is_none());
        let elsewhere = |u: &LocalUnit| u.target.as_deref().is_none_or(|w| mount_unit(w) != u.name);
        match () {
            () if file.is_some_and(|u| u.name.ends_with(".mount") && elsewhere(u)) => {
                Some("Where= of its unit file does not fit the file's name; the init system cannot load it")
            }
            () if target.contains(char::REPLACEMENT_CHARACTER) => Some(
                "its target is not UTF-8; the init system cannot load its unit, and continues without it",
            ),
            () if self.winds() => Some(
                "its source has .. in it; the init system cannot load its unit, and continues without it",
            ),
            () if target.ends_with('\r') => Some(
                "its target ends with a carriage return; the init system cannot load its unit, and continues without it",
            ),
            () => None,
        }
    }

    /// Whether its source is a file that is mounted as if it were a device.
    pub fn is_image(&self) -> bool {
        let on_device = known(self.mounted_type()).is_none_or(FsType::is_on_device);
        matches!(self.source, Source::Path(_)) && !self.entry.is_swap() && !self.entry.is_bind() && on_device
    }

    /// Facts about the file that a swap entry names.
    pub fn facts_of_file<'r>(&self, index: &Index<'r>) -> Option<&'r PathFacts> {
        let Source::Path(path) = &self.source else { return None };
        index.tidy_path(path).filter(|_| self.entry.is_swap())
    }

    /// The names its lost device was probably meant to have, nearest first.
    pub fn look_alikes(&self) -> Vec<Near<'a>> {
        match &self.need {
            Need::Missing(names) => names.of(&self.entry.source),
            _ => Vec::new(),
        }
    }

    /// What that device holds, as far as it was read.
    pub fn content(&self) -> Option<&'a Content> {
        self.device()?.content.as_ref()
    }

    /// The type it is mounted with: the one written, or for `auto` the one the
    /// device holds.
    pub fn mounted_type(&self) -> &str {
        mounted_type(&self.entry, self.content())
    }

    /// Whether it is the entry of the root file system.
    pub fn is_root(&self) -> bool {
        self.target.as_deref() == Some("/")
    }

    /// `x-systemd.device-timeout=` as written, when it is a length of time.
    pub fn device_timeout(&self) -> Option<String> {
        let timeout = |o: &OptionItem| match (o.name.as_str(), o.value.as_deref()) {
            ("x-systemd.device-timeout", value) => value.map(str::to_owned),
            // The old way to write it (recorded).
            ("comment", Some(value)) => value.strip_prefix("systemd.device-timeout=").map(str::to_owned),
            _ => None,
        };
        let value = self.entry.options.iter().rev().find_map(timeout)?;
        parse_timespan(&value).map(|_| value)
    }

    /// How long the entry says that its device is waited for: seconds, or
    /// without end. Recorded: 0 waits without end, a value that is no time is
    /// passed over.
    #[allow(clippy::option_option)] // not said, without end, or a time
    pub fn device_limit(&self) -> Option<Option<f64>> {
        // A drop-in of the device's unit counts over what the entry says (recorded).
        let own = self.device_unit.as_deref().and_then(|unit| unit.job_timeout.clone());
        let limit = own.or_else(|| self.device_timeout()).as_deref().and_then(parse_timespan)?;
        Some(limit.filter(|s| *s > 0.0))
    }

    /// Seconds that the job of its unit may take, by a drop-in's `JobTimeoutSec=`
    /// (recorded); a wait for its device is part of it.
    pub fn job_limit(&self) -> Option<f64> {
        let written = self.local_unit.as_deref().and_then(|unit| unit.job_timeout.as_deref())?;
        parse_timespan(written).flatten().filter(|s| *s > 0.0)
    }

    /// How long mounting may take, as written.
    pub fn mount_timeout(&self) -> Option<String> {
        if self.entry.is_swap() {
            return None;
        }
        let option = self.entry.option("x-systemd.mount-timeout").and_then(|o| o.value.clone());
        // 0 is without end (recorded).
        let given = option.and_then(|value| match parse_timespan(&value)? {
            Some(0.0) => Some("infinity".to_owned()),
            _ => Some(value),
        });
        given.or(in_background(&self.entry).then(|| "infinity".to_owned()))
    }

    /// The paths whose mounts have to be there first: the target's own
    /// directory, a bind source, a swap file, `x-systemd.requires-mounts-for=`.
    pub fn lies_under(&self) -> SmallVec<[&str; 4]> {
        let mut paths = SmallVec::new();
        if let Some(target) = &self.target {
            paths.extend(target.rsplit_once('/').map(|(parent, _)| parent));
        }
        // systemd's own requirement for any source that is a path (recorded for
        // images, with and without `loop`).
        if let (Source::Path(path), false) = (&self.source, self.network && !self.entry.is_bind()) {
            paths.push(path.as_str());
        }
        let named = self.entry.options.iter().filter(|o| o.name == "x-systemd.requires-mounts-for");
        paths.extend(named.filter_map(|o| o.value.as_deref()));
        paths
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::requests;

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
        assert_eq!(all[3].lies_under().as_slice(), ["/a/swap"]);
        assert_eq!(all[0].path, "/dev/disk/by-label/a");
    }
}
