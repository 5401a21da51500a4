//! The table for what is mounted: of a running host, or under a directory where
//! a system is being installed.

mod kept;
mod skipped;

use crate::edit::{By, Fresh, insert, name_by};
use bradawl_catalogue::fstypes::known;
use bradawl_catalogue::partition_types::is_usr as is_usr_type;
use bradawl_facts::path::{is_within, tidy};
use bradawl_facts::record::{ActiveSwap, Device, DeviceKind, Mount, Record};
use bradawl_facts::table::{Entry, Table};
use bradawl_resolve::{ImageSource, Index, Passing, best_identity, is_network_type};
use kept::kept;
use skipped::why_skipped;

/// What is to be adopted, and how.
#[derive(Debug, Clone, Default)]
pub struct AdoptWishes {
    /// The directory that will be root; `None`: this host's own.
    pub tree: Option<String>,
    /// The sort of name to give devices, where they have it.
    pub by: Option<By>,
}

/// A table for what is mounted.
#[derive(Debug)]
pub struct Adoption {
    /// The table, with what was there before.
    pub table: Table,
    /// The entries that are new in it.
    pub added: Vec<Fresh>,
    /// What is mounted and got no entry.
    pub skipped: Vec<Skipped>,
    /// What a whole table would have and this one lacks, and names that could
    /// not be had.
    pub notes: Vec<String>,
}

/// Something mounted that gets no entry.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Skipped {
    /// Where it is mounted; the path of swap.
    pub target: String,
    /// Its type.
    pub fstype: String,
    /// Why it gets none.
    pub why: String,
}

/// Writes the entries for what is mounted, behind those that a table has
/// already; what it has is left out.
pub fn adopt(record: &Record, have: &Table, wishes: &AdoptWishes) -> Adoption {
    let mut work = Work {
        record,
        index: Index::new(record),
        wishes,
        have: have.entries(),
        added: Vec::new(),
        skipped: Vec::new(),
        notes: Vec::new(),
    };
    let mounts = record.mounts.as_deref().unwrap_or_default();
    for (n, mount) in mounts.iter().enumerate() {
        // The last of several on a target is the one that shows.
        if !mounts[n + 1..].iter().any(|later| later.target == mount.target && later.fstype != "autofs") {
            work.mount(mount);
        }
    }
    record.swaps.iter().flatten().for_each(|swap| work.swap(swap));
    work.in_order();
    work.completeness();
    let Work { added, skipped, notes, .. } = work;
    let table = added.iter().fold(Table::parse(have.bytes()), |table, entry| insert(&table, entry).0);
    Adoption { table, added, skipped, notes }
}

/// What becomes of a device at a reboot.
enum Lasts {
    Yes,
    /// It has to be named by the file behind it.
    As(ImageSource),
    /// It ends; why.
    No(String),
}

struct Work<'a> {
    record: &'a Record,
    index: Index<'a>,
    wishes: &'a AdoptWishes,
    have: Vec<Entry>,
    added: Vec<Fresh>,
    skipped: Vec<Skipped>,
    notes: Vec<String>,
}

impl<'a> Work<'a> {
    fn skip(&mut self, target: &str, fstype: &str, why: impl Into<String>) {
        let (target, fstype) = (target.to_owned(), fstype.to_owned());
        self.skipped.push(Skipped { target, fstype, why: why.into() });
    }

    /// The path as the new system will see it; `None`: it is not in its tree.
    fn inside(&self, path: &str) -> Option<String> {
        let Some(tree) = self.wishes.tree.as_deref().map(|t| t.trim_end_matches('/')) else {
            return Some(path.to_owned());
        };
        let rest = path.strip_prefix(tree).filter(|rest| rest.is_empty() || rest.starts_with('/'))?;
        Some(if rest.is_empty() { "/".to_owned() } else { rest.to_owned() })
    }

    fn mount(&mut self, mount: &Mount) {
        let Some(target) = self.inside(&mount.target) else { return };
        if let Some(why) = why_skipped(mount, &target, self.wishes.tree.is_some()) {
            return self.skip(&target, &mount.fstype, why);
        }
        if let Some(entry) = self.have.iter().find(|e| e.target.starts_with('/') && tidy(&e.target) == target)
        {
            let why = format!("line {} has it", entry.line);
            return self.skip(&target, &mount.fstype, why);
        }
        if mount.root.as_deref().is_some_and(|root| root != "/") && mount.fstype != "btrfs" {
            return self.bind(mount, &target);
        }
        let device = self.device(mount);
        let mut options = kept(mount);
        let (source, fstype) = match device {
            Some(device) => match self.passing(device) {
                Lasts::Yes => (self.name(device), mount.fstype.clone()),
                Lasts::As(image) => {
                    options.extend(image.options);
                    (image.file, mount.fstype.clone())
                }
                Lasts::No(why) => return self.skip(&target, &mount.fstype, why),
            },
            None if known(&mount.fstype).is_some_and(|t| t.is_on_device()) => {
                return self.skip(&target, &mount.fstype, "its device is not known");
            }
            None => (mount.source.clone(), mount.fstype.clone()),
        };
        if is_network_type(&fstype) {
            options.push("_netdev".to_owned());
        }
        if device.is_some_and(Device::is_removable) {
            options.push("nofail".to_owned());
        }
        let on_device = device.is_some() && !options.iter().any(|o| o == "loop");
        let pass = self.pass(&fstype, &target, on_device);
        self.added.push(Fresh { source, target, fstype, options, dump: 0, pass, comment: None });
    }

    /// Whether a device will be there again. In a tree the loop devices of files
    /// outside it are the disks of the new system.
    fn passing(&self, device: &Device) -> Lasts {
        let Some(passing) = self.index.device(&device.path).and_then(|d| Passing::of(&self.index, d)) else {
            return Lasts::Yes;
        };
        let image =
            matches!(passing, Passing::Loop(_)).then(|| ImageSource::of(&self.index, device)).flatten();
        let inside = image.and_then(|i| Some(ImageSource { file: self.inside(&i.file)?, ..i }));
        match inside {
            Some(image) => Lasts::As(image),
            None if self.wishes.tree.is_some() => Lasts::Yes,
            None => Lasts::No(format!("it is on {}", passing.words())),
        }
    }

    /// A directory of a file system that is shown at a second place.
    fn bind(&mut self, mount: &Mount, target: &str) {
        let root = mount.root.as_deref().unwrap_or("/");
        let whole = self.record.mounts.iter().flatten().find(|m| {
            m.device == mount.device && m.root.as_deref() == Some("/") && self.inside(&m.target).is_some()
        });
        let Some(whole) = whole.and_then(|m| self.inside(&m.target)) else {
            return self.skip(
                target,
                &mount.fstype,
                format!("it shows {root} of a file system that is nowhere mounted whole"),
            );
        };
        let source = format!("{}{root}", whole.trim_end_matches('/'));
        let mut options = vec!["bind".to_owned()];
        options.extend(
            kept(mount).into_iter().filter(|o| matches!(o.as_str(), "ro" | "nosuid" | "nodev" | "noexec")),
        );
        let fresh = Fresh {
            source,
            target: target.to_owned(),
            fstype: "none".to_owned(),
            options,
            ..Fresh::default()
        };
        self.added.push(fresh);
    }

    fn swap(&mut self, swap: &ActiveSwap) {
        let device = self
            .record
            .devices()
            .iter()
            .find(|d| d.path == swap.path || d.links.iter().flatten().any(|l| *l == swap.path));
        if device.is_some_and(|d| d.kind == DeviceKind::Zram) {
            return self.skip(&swap.path, "swap", "compressed memory: a service of its own makes it");
        }
        let source = match device.map(|device| (device, self.passing(device))) {
            Some((device, Lasts::Yes)) => self.name(device),
            // Swap takes a file as it is, from its beginning on.
            Some((_, Lasts::As(image))) if image.options.len() == 1 => image.file,
            Some((_, Lasts::As(_))) => {
                return self.skip(&swap.path, "swap", "it lies within a file, from where no boot takes it");
            }
            Some((_, Lasts::No(why))) => return self.skip(&swap.path, "swap", why),
            None => match self.inside(&swap.path) {
                Some(path) => path,
                None => return self.skip(&swap.path, "swap", "it lies outside the tree"),
            },
        };
        let mine = device.map(|d| d.path.as_str());
        let asked = |e: &&Entry| {
            let found = self.index.resolve(&bradawl_resolve::Source::of(e));
            let same = matches!(found, bradawl_resolve::Resolution::Found(all) if all.iter().any(|d| Some(d.path.as_str()) == mine));
            e.is_swap() && (e.source == source || same)
        };
        if let Some(line) = self.have.iter().find(asked).map(|e| e.line) {
            return self.skip(&swap.path, "swap", format!("line {line} has it"));
        }
        let mut options = vec!["sw".to_owned()];
        options.extend((swap.priority >= 0).then(|| format!("pri={}", swap.priority)));
        let (target, fstype) = ("none".to_owned(), "swap".to_owned());
        self.added.push(Fresh { source, target, fstype, options, ..Fresh::default() });
    }

    fn device(&self, mount: &Mount) -> Option<&'a Device> {
        let numbered = |d: &&Device| d.major.zip(d.minor).map(|(a, b)| format!("{a}:{b}")) == mount.device;
        let devices = self.record.devices().iter();
        self.index.device(&mount.source).or_else(|| devices.filter(|d| d.major.is_some()).find(numbered))
    }

    /// The name asked for, else the one that lasts longest.
    fn name(&mut self, device: &Device) -> String {
        let best = best_identity(device).unwrap_or_else(|| device.path.clone());
        let Some(by) = self.wishes.by else { return best };
        name_by(device, by).unwrap_or_else(|| {
            self.notes.push(format!("{} has no {}: {best} is written", device.path, by.word()));
            best
        })
    }

    fn pass(&self, fstype: &str, target: &str, on_device: bool) -> u8 {
        let checked = on_device && known(fstype).is_some_and(|t| t.checked);
        match (checked, target) {
            (false, _) => 0,
            (true, "/") => 1,
            (true, _) => 2,
        }
    }

    /// Root, then what lies on it, each behind its directory.
    fn in_order(&mut self) {
        self.added.sort_by_key(|e| {
            (
                e.fstype == "swap",
                e.target.matches('/').count() - usize::from(e.target == "/"),
                e.target.clone(),
            )
        });
    }

    /// What a bootable system has beside.
    fn completeness(&mut self) {
        let mounted = |this: &Self, fits: &dyn Fn(&str) -> bool| {
            this.have.iter().any(|e| fits(&e.target)) || this.added.iter().any(|e| fits(&e.target))
        };
        if !mounted(self, &|t| t == "/") {
            self.notes.push("nothing is mounted as root (/)".to_owned());
        }
        let efi = self.record.devices().iter().find(|d| is_efi(d));
        let boots = |t: &str| is_within(t, "/boot") || is_within(t, "/efi");
        if let Some(device) = efi.filter(|_| !mounted(self, &boots)) {
            self.notes.push(format!(
                "{} is an EFI partition, and nothing is mounted on /boot/efi, /efi or /boot",
                device.path
            ));
        }
        let usr = self.record.devices().iter().find(|d| is_usr(d));
        if let Some(device) = usr.filter(|_| !mounted(self, &|t| t == "/usr")) {
            self.notes.push(format!("{} is made for /usr, and nothing is mounted there", device.path));
        }
        let swap = |e: &Fresh| e.fstype == "swap";
        if !self.added.iter().any(swap) && !self.have.iter().any(Entry::is_swap) {
            self.notes.push("no swap is active".to_owned());
        }
    }
}

fn is_efi(device: &Device) -> bool {
    let type_id = device.partition.as_ref().and_then(|p| p.type_id.as_deref()).unwrap_or_default();
    type_id.eq_ignore_ascii_case("c12a7328-f81f-11d2-ba4b-00a0c93ec93b") || type_id == "0xef"
}

/// By the type of its partition, or by the name of either.
fn is_usr(device: &Device) -> bool {
    let partition = device.partition.as_ref();
    let type_id = partition.and_then(|p| p.type_id.as_deref()).unwrap_or_default();
    let names = [
        partition.and_then(|p| p.label.as_deref()),
        device.content.as_ref().and_then(|c| c.label.as_deref()),
    ];
    is_usr_type(type_id) || names.into_iter().flatten().any(|name| name.eq_ignore_ascii_case("usr"))
}

#[cfg(test)]
mod tests;
