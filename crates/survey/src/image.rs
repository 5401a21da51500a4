//! Disk images as the disks of a host: their partitions, and what is made of
//! them, from metadata alone.

use crate::array;
use crate::files::{Files, Root};
use crate::view::View;
use crate::volumes::Group;
use bradawl_facts::probe::{Bytes, identify};
use bradawl_facts::record::{
    Content, ContentKind, Device, DeviceKind, LogicalVolume, PartitionEntry, PartitionFacts, Unread,
    VolumeGroup,
};
use bradawl_facts::table::Table;
use bradawl_filetree::{Btrfs, Tar, Xfs};
use bradawl_resolve::{Identity, identities};
use ext4_view::{Ext4, Ext4Read};
use std::collections::HashMap;
use std::error::Error;
use std::fs::File;
use std::io::{self, Seek as _, SeekFrom};
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// Subvolumes in which installers put the root file system, where it is not the
/// default one.
const ROOT_SUBVOLUMES: [&str; 3] = ["@", "root", "@rootfs"];

/// The disks so far, and the bytes behind each device.
#[derive(Default)]
pub(crate) struct Disks {
    pub devices: Vec<Device>,
    pub unread: Vec<Unread>,
    views: HashMap<String, View>,
}

impl Disks {
    /// Adds an image with its partitions: the file, and those that it goes on in.
    pub(crate) fn add(&mut self, path: &Path, further: &[PathBuf]) -> io::Result<()> {
        let mut whole = file_view(path)?;
        for piece in further {
            whole.append(file_view(piece)?);
        }
        let name = path.display().to_string();
        // What is no plain image may be a disk in the format of a virtual machine.
        let image = bradawl_diskimage::open(Arc::new(whole));
        let view = View::of(image.map_err(io::Error::other)?.bytes);
        let disk = self.push(&name, DeviceKind::Disk, view);
        let content = self.devices[disk].content.clone();
        self.devices[disk].sector_size =
            content.as_ref().and_then(|c| c.block_size).filter(|_| is_gpt(content.as_ref()));
        let tables =
            content.iter().chain(content.iter().flat_map(|c| c.candidates.iter().map(|c| &c.content)));
        let partitions: Vec<PartitionEntry> = tables.flat_map(|c| c.partitions.clone()).collect();
        for entry in partitions {
            self.partition(&name, &entry);
        }
        Ok(())
    }

    /// Adds a device that is known already.
    pub(crate) fn adopt(&mut self, device: Device, view: View) {
        self.views.insert(device.path.clone(), view);
        self.devices.push(device);
    }

    fn partition(&mut self, disk: &str, entry: &PartitionEntry) {
        let view = self.views[disk].part(entry.start, entry.size);
        let beyond = view.size() == 0;
        let path = format!("{disk}#{}", entry.number);
        let n = self.push(&path, DeviceKind::Partition, view);
        let device = &mut self.devices[n];
        device.size = Some(entry.size);
        device.partition = Some(PartitionFacts {
            number: Some(entry.number),
            start: Some(entry.start),
            uuid: entry.uuid.clone(),
            label: entry.label.clone(),
            type_id: Some(entry.type_id.clone()),
            no_auto: entry.no_auto,
            type_words: bradawl_catalogue::partition_types::words(&entry.type_id).map(str::to_owned),
        });
        if entry.extended {
            device.content = Some(Content::new(ContentKind::PartitionTable, Some("dos extended")));
        } else if beyond {
            device.content = Some(Content::new(ContentKind::Unknown, None));
        }
        self.join(disk, &path);
    }

    /// Adds a device with what it holds; its place in the list.
    fn push(&mut self, path: &str, kind: DeviceKind, view: View) -> usize {
        let mut device = Device::new(path, kind);
        device.size = Some(view.size());
        match identify(&view) {
            Ok(content) => device.content = Some(content),
            Err(e) => self.unread.push(crate::unread(path, &e)),
        }
        self.views.insert(path.to_owned(), view);
        self.devices.push(device);
        self.devices.len() - 1
    }

    fn join(&mut self, parent: &str, child: &str) {
        for device in &mut self.devices {
            if device.path == parent {
                device.children.push(child.to_owned());
            } else if device.path == child {
                device.parents.push(parent.to_owned());
            }
        }
    }

    /// Adds arrays and logical volumes, as far as their bytes lie on what is there.
    pub(crate) fn assemble(&mut self) {
        self.arrays();
        self.volumes();
    }

    fn arrays(&mut self) {
        let mut arrays: HashMap<String, Vec<(String, Content)>> = HashMap::new();
        for device in &self.devices {
            let member = device.content.as_ref().filter(|c| c.kind == ContentKind::RaidMember);
            if let Some((content, uuid)) = member.and_then(|c| Some((c, c.uuid.clone()?))) {
                arrays.entry(uuid).or_default().push((device.path.clone(), content.clone()));
            }
        }
        let mut arrays: Vec<_> = arrays.into_iter().collect();
        arrays.sort_by(|a, b| a.0.cmp(&b.0));
        for (uuid, members) in arrays {
            let with_bytes: Vec<(&Content, View)> =
                members.iter().map(|(path, content)| (content, self.views[path].clone())).collect();
            let Some(view) = array::assembled(&with_bytes) else { continue };
            let content = &members[0].1;
            let name = content.label.as_deref().map_or(uuid.as_str(), |l| l.rsplit(':').next().unwrap_or(l));
            let path = format!("/dev/md/{name}");
            self.push(&path, DeviceKind::Raid, view);
            for (member, _) in &members {
                self.join(member, &path);
            }
        }
    }

    fn volumes(&mut self) {
        let mut groups: Vec<VolumeGroup> = Vec::new();
        let mut holders: HashMap<String, String> = HashMap::new();
        for device in &self.devices {
            let Some(content) = device.content.as_ref().filter(|c| c.kind == ContentKind::LvmPv) else {
                continue;
            };
            holders.extend(content.uuid.clone().map(|uuid| (uuid, device.path.clone())));
            let group = content.group.iter().filter(|g| !groups.iter().any(|known| known.uuid == g.uuid));
            let new: Vec<VolumeGroup> = group.cloned().collect();
            groups.extend(new);
        }
        let physical = holders.iter().map(|(uuid, path)| (uuid.clone(), self.views[path].clone())).collect();
        for group in groups {
            let of = Group { group: &group, physical: &physical };
            for volume in &group.volumes {
                self.volume(&of, volume, &holders);
            }
        }
    }

    fn volume(&mut self, of: &Group<'_>, volume: &LogicalVolume, holders: &HashMap<String, String>) {
        let doubled = |name: &str| name.replace('-', "--");
        let path = format!("/dev/mapper/{}-{}", doubled(&of.group.name), doubled(&volume.name));
        let (view, why) = match of.view(volume) {
            Ok(view) => (view, None),
            Err(why) => (View::default(), Some(why)),
        };
        let n = self.push(&path, DeviceKind::Mapper, view);
        self.devices[n].size = Some(volume.size);
        self.devices[n].links = Some(vec![format!("/dev/{}/{}", of.group.name, volume.name)]);
        if let Some(why) = why {
            self.devices[n].content = None;
            self.unread.push(crate::unread(path.clone(), &io::Error::other(why)));
        }
        for parent in of.lies_on(volume).iter().filter_map(|uuid| holders.get(uuid)) {
            self.join(parent, &path);
        }
    }

    /// The files of the host: those of the file system that looks most like its
    /// root. With the names of others that have a table too.
    pub(crate) fn root(&self) -> Option<(Files, Vec<String>)> {
        let mut found: Vec<(usize, String, Files)> = Vec::new();
        for device in &self.devices {
            for (name, root) in self.trees(device) {
                let mut files = Files::new(root);
                if files.exists("/etc/fstab") {
                    found.push((likeness(&mut files, device), name, files));
                }
            }
        }
        // The first of those that look most like it.
        let best = found.iter().map(|(likeness, ..)| *likeness).max()?;
        let at = found.iter().position(|(likeness, ..)| *likeness == best)?;
        let (_, _, files) = found.remove(at);
        Some((files, found.into_iter().map(|(_, name, _)| name).collect()))
    }

    /// The files of every file system that can be read.
    pub(crate) fn all_files(&self) -> impl Iterator<Item = Files> + '_ {
        self.devices.iter().flat_map(|device| self.trees(device)).map(|(_, root)| Files::new(root))
    }

    /// The trees of files on a device: of Btrfs the default subvolume, and those
    /// where systems are usually put.
    fn trees(&self, device: &Device) -> Vec<(String, Root)> {
        let fstype = device.content.as_ref().and_then(|c| c.fstype.as_deref()).unwrap_or_default();
        let Some(view) = self.views.get(&device.path) else { return Vec::new() };
        let named = |root: Root| vec![(device.path.clone(), root)];
        match fstype {
            _ if fstype.starts_with("ext") => {
                Ext4::load(Box::new(Image(view.clone()))).map(Root::Ext).map(named).unwrap_or_default()
            }
            "xfs" => {
                let opened = Xfs::open(Box::new(view.clone()));
                opened.map(|fs| named(Root::Tree(Box::new(fs)))).unwrap_or_default()
            }
            "btrfs" => {
                let opened = || Btrfs::open(Box::new(view.clone())).ok();
                let of = |fs: Btrfs| Root::Tree(Box::new(fs));
                let subvolume = |name: &&str| {
                    let root = of(opened()?.from_subvolume(name).ok()?);
                    Some((format!("{} (subvolume {name})", device.path), root))
                };
                let default = opened().map(|fs| (device.path.clone(), of(fs)));
                default.into_iter().chain(ROOT_SUBVOLUMES.iter().filter_map(subvolume)).collect()
            }
            _ => Vec::new(),
        }
    }
}

fn file_view(path: &Path) -> io::Result<View> {
    let mut file = File::open(path)?;
    let size = file.seek(SeekFrom::End(0))?;
    Ok(View::whole(file, size))
}

/// How much the files of a device with a table look like the host's root: what
/// every system has, and a table that names this very device.
fn likeness(files: &mut Files, device: &Device) -> usize {
    let usual = [
        "/etc/os-release",
        "/usr/lib/os-release",
        "/etc/passwd",
        "/usr/bin",
        "/usr/lib/systemd/systemd",
        "/lib/systemd/systemd",
    ];
    let present = usual.iter().filter(|path| files.exists(path)).count();
    let table = files.table("/etc/fstab");
    let table = table.map(|t| Table::parse(t.bytes.bytes().unwrap_or_default()));
    let names: Vec<Identity> = identities(device, false);
    let names_it = table.is_some_and(|t| {
        let roots = t.entries().into_iter().filter(|e| e.target == "/").collect::<Vec<_>>();
        roots.iter().any(|e| names.iter().any(|n| n.name == e.source))
    });
    present + if names_it { usual.len() } else { 0 }
}

/// The files of an archive, where the file is one.
pub(crate) fn archive(path: &Path) -> io::Result<Option<Files>> {
    let view = file_view(path)?;
    if !Tar::is_one(&view) {
        return Ok(None);
    }
    let tar = Tar::open(Box::new(view)).map_err(io::Error::other)?;
    Ok(Some(Files::new(Root::Tree(Box::new(tar)))))
}

fn is_gpt(content: Option<&Content>) -> bool {
    content.is_some_and(|c| c.fstype.as_deref() == Some("gpt"))
}

struct Image(View);

impl Ext4Read for Image {
    fn read(&mut self, start: u64, buffer: &mut [u8]) -> Result<(), Box<dyn Error + Send + Sync + 'static>> {
        match self.0.read_at(start, buffer)? {
            n if n == buffer.len() => Ok(()),
            _ => Err("the image ends before".into()),
        }
    }
}
