//! Reads a host's facts into a record. Reads only: nothing is written, and no
//! program of the host is run. What might not answer, a network or a mounting
//! program, is looked at by a process of its own, which may hang; what would
//! be mounted by being looked at is not looked at.

#![forbid(unsafe_code)]

mod accounts;
mod array;
mod ask;
mod boot_files;
mod boots;
pub mod collected;
mod devices;
mod dormant;
mod early;
mod files;
mod generator;
mod holders;
mod host;
mod image;
mod init;
mod initramfs;
mod inside;
mod kernel;
mod kernel_build;
mod links;
mod loader;
mod manager;
mod mounts;
mod open;
mod packages;
mod part;
mod paths;
mod pieces;
mod support;
mod udev;
mod units;
mod view;
mod volumes;
mod zram;

pub use ask::{Helper, look_for};
pub use boot_files::{BootFiles, boot_files, image_format};
pub use generator::{GeneratorError, ask_generator, ask_generator_of, generate};
pub use holders::holders;
pub use kernel::{Answer, NoAnswer, ask_kernel};
pub use paths::look_at_swap_file;

use bradawl_facts::record::{CommandLine, InitKind, KernelBuild, Origin, Record, TableFile, Unread};
use files::Files;
use std::path::{Path, PathBuf};
use std::sync::PoisonError;

/// Whether a directory has a table of its own, seen as if it were the root of
/// all; of whatever kind, a link that leads nowhere too.
pub fn is_tree(root: &Path) -> bool {
    Files::confined(root).is_ok_and(|files| files.is_named("/etc/fstab"))
}

/// Why no survey could be taken.
#[derive(Debug, thiserror::Error)]
pub enum SurveyError {
    /// A directory or image that cannot be read.
    #[error("{path}: {}", plain(source))]
    Unreadable {
        /// The directory or image.
        path: String,
        /// What the operating system says.
        source: std::io::Error,
    },
}

/// A survey to be taken.
#[derive(Debug, Default)]
pub struct Survey {
    /// Where the host's files are; empty: this host's own root.
    pub root: PathBuf,
    /// Tables to gather path facts for beside the host's own.
    pub tables: Vec<TableFile>,
    /// Who looks at what may not answer; without, that stays unknown.
    pub helper: Option<Helper>,
    /// How many boots before the one that is running are looked at too.
    pub earlier_boots: u32,
}

impl Survey {
    /// Surveys the running host.
    ///
    /// What cannot be read is listed in the record and leaves its facts
    /// unknown.
    ///
    /// # Errors
    /// Only when the root directory itself cannot be read.
    pub fn live(&self) -> Result<Record, SurveyError> {
        let root = if self.root.as_os_str().is_empty() { PathBuf::from("/") } else { self.root.clone() };
        std::fs::read_dir(&root).map_err(|e| unreadable(&root, e))?;
        Ok(self.running(Files::own(root)))
    }

    /// Surveys a host from what the collector's script wrote there, and what it
    /// answered to questions. With the questions that are still open: what they
    /// ask for is noted as unread.
    ///
    /// # Errors
    /// When the facts are beyond any real host.
    pub fn collected(
        &self,
        collection: &collected::Collection,
    ) -> Result<(Record, collected::Questions), collected::FrameError> {
        let all = collection.all();
        let asked = all.questions();
        let mut record = self.running(Files::new(files::Root::Collected(all)));
        let open = std::mem::take(&mut *asked.lock().unwrap_or_else(PoisonError::into_inner));
        collected::left_unknown(&mut record, &open);
        record.check_size()?;
        Ok((record, open))
    }

    /// The facts of a running host.
    fn running(&self, mut files: Files) -> Record {
        let mut record = begin(&mut files, Origin::Live);
        host::machine(&files, &mut record.host);
        if files.is_apart() {
            let why = std::io::Error::other("this program has a mount namespace of its own");
            files.note("mounts and files as the init system sees them", &why);
        }
        record.command_line = files.text("/proc/cmdline").map(|t| t.trim_end().to_owned());
        record.mounts = files.text("/proc/self/mountinfo").map(|t| mounts::parse_mountinfo(&t));
        mounts::add_room(&files, record.mounts.as_mut());
        record.swaps = files.text("/proc/swaps").map(|t| mounts::parse_swaps(&t));
        record.memory = files.text("/proc/meminfo").and_then(|t| mounts::parse_meminfo(&t));
        record.swapping = Some(mounts::swapping(&files));
        record.filesystems = support::filesystems(&mut files, record.host.kernel.as_deref());
        record.kernel_build = kernel_build::running(&files, record.host.kernel.as_deref());
        add_devices(&mut files, &mut record);
        self.finish(files, record)
    }

    /// Surveys a directory that is some host's root: no link leads out of it.
    /// `devices`: with the block devices of this machine; `images`: with those of
    /// its disks.
    ///
    /// # Errors
    /// When the directory or an image cannot be opened.
    pub fn tree(&self, root: &Path, devices: bool, images: &[PathBuf]) -> Result<Record, SurveyError> {
        let files = Files::confined(root).map_err(|e| unreadable(root, e))?;
        if !images.is_empty() {
            return Ok(self.on_disks(files, opened(images)?));
        }
        let (files, mut record) = begun(files, Origin::Tree);
        if devices {
            let mut own = Files::own(PathBuf::from("/"));
            add_devices(&mut own, &mut record);
            record.unread.extend(own.unread());
        }
        Ok(self.finish(files, record))
    }

    /// Surveys disk images as the disks of one host. The host's files are
    /// those of an archive (tar) among them, else of the ext2, ext3, ext4, XFS or
    /// Btrfs file system with a table that looks most like its root.
    ///
    /// # Errors
    /// When an image or archive cannot be read.
    pub fn images(&self, images: &[PathBuf]) -> Result<Record, SurveyError> {
        for (n, path) in images.iter().enumerate() {
            let Some(files) = image::archive(path).map_err(|e| unreadable(path, e))? else { continue };
            let disks = [&images[..n], &images[n + 1..]].concat();
            if disks.is_empty() {
                let (files, record) = begun(files, Origin::Tree);
                return Ok(self.finish(files, record));
            }
            return Ok(self.on_disks(files, opened(&disks)?));
        }
        let disks = opened(images)?;
        let root = disks.root();
        let mut record = match root {
            Some((files, others)) => {
                let (files, record) = begun(files, Origin::Image);
                let mut record = self.finish(files, record);
                let why = std::io::Error::other("another file system was used as the root");
                record.unread.extend(others.iter().map(|name| unread(format!("the table on {name}"), &why)));
                record
            }
            None => {
                Record::new(images.first().and_then(|p| p.file_stem()).unwrap_or_default().to_string_lossy())
            }
        };
        record.host.origin = Some(Origin::Image);
        record.unread.extend(disks.unread);
        record.devices = Some(disks.devices);
        Ok(record)
    }

    /// A root of its own with these disks.
    fn on_disks(&self, files: Files, disks: image::Disks) -> Record {
        let (files, record) = begun(files, Origin::Image);
        let mut record = self.finish(files, record);
        record.unread.extend(disks.unread);
        record.devices = Some(disks.devices);
        record
    }

    /// What the root's own files say of its table's paths.
    fn finish(&self, mut files: Files, mut record: Record) -> Record {
        record.programs = support::programs(&files);
        if let Some(programs) = &mut record.programs {
            programs.versions = packages::versions(&files);
        }
        record.accounts = accounts::accounts(&mut files);
        record.early = Some(early::early(&mut files));
        record.tables.extend(files.table("/etc/fstab"));
        record.kernel_build = record.kernel_build.take().or_else(|| next_kernel(&files, &record));
        if let Some(early) = &mut record.early
            && record.host.container != Some(true)
            && initramfs::decides(early, record.tables.iter().chain(&self.tables))
        {
            early.image = initramfs::image(&mut files, early.next.as_ref(), record.host.kernel.as_deref());
        }
        if record.host.init.as_ref().is_some_and(|i| i.kind == InitKind::Systemd) {
            record.units = Some(units::local(&mut files));
            record.trims = units::trims(&files);
            let settings = || Some(mounts::compressed(&files, record.memory)).filter(|s| s.zram.is_some());
            record.swapping = record.swapping.take().or_else(settings);
        }
        if record.host.runs_systemd() && record.host.container != Some(true) {
            record.manager = manager::units(&files);
            record.boots = boots::boots(&files, self.earlier_boots);
        }
        let all: Vec<&TableFile> = record.tables.iter().chain(&self.tables).collect();
        if let Some(programs) = &mut record.programs {
            programs.behind_fuse = support::behind_fuse(&files, &all);
        }
        let services = record
            .units
            .as_deref()
            .map(|local| units::named(&files, &all, local, CommandLine::of(&record)))
            .filter(|services| !services.is_empty());
        // Devices of this very machine, whose names are those in the record.
        let live = record.host.origin == Some(Origin::Live) && files.collected().is_none();
        let inside = if live { inside::inside(&record, &all) } else { Vec::new() };
        let own = record.mounts.take();
        // Below a tree the mounts are this machine's.
        let mut mounts = own.clone().unwrap_or_else(|| mounts::below(&files));
        let keys = record.early.iter().flat_map(|e| &e.crypttab).flatten().filter_map(|c| c.key.as_deref());
        let keys = keys.chain(CommandLine::of(&record).last("init"));
        let conditions = record.units.iter().flatten().flat_map(|unit| &unit.conditions);
        let keys = keys.chain(conditions.filter_map(|line| paths::of_condition(line)));
        let named = paths::named(&all, keys);
        record.paths = paths::facts(&mut files, &named, &mut mounts, self.helper.as_ref());
        paths::add_later(&files, &all, &mut record.paths, &mounts);
        record.mounts = own.map(|_| mounts);
        record.services = services;
        record.inside = inside;
        record.unread.extend(files.unread());
        record
    }
}

fn begin(files: &mut Files, origin: Origin) -> Record {
    let mut record = Record::new(host::name(files));
    record.host = host::facts(files, &record.host.name);
    record.host.origin = Some(origin);
    record
}

fn add_devices(files: &mut Files, record: &mut Record) {
    record.devices = devices::read(files);
    record.links_complete = Some(links::add(files, record.devices.as_mut()));
    record.dormant = dormant::dormant(files, record.devices());
}

/// What the kernel was built with that the boot loader starts next.
fn next_kernel(files: &Files, record: &Record) -> Option<KernelBuild> {
    let path = record.early.as_ref()?.next.as_ref()?.kernel.as_deref()?;
    let name = path.rsplit('/').next()?;
    kernel_build::installed(files, name.split_once('-')?.1)
}

/// Images as the disks of one host.
fn opened(images: &[PathBuf]) -> Result<image::Disks, SurveyError> {
    let mut disks = image::Disks::default();
    for path in images {
        // What is named by itself is a disk by itself.
        let pieces = pieces::further(path).into_iter().take_while(|piece| !images.contains(piece));
        disks.add(path, &pieces.collect::<Vec<_>>()).map_err(|e| unreadable(path, e))?;
    }
    disks.assemble();
    Ok(disks)
}

fn begun(mut files: Files, origin: Origin) -> (Files, Record) {
    let record = begin(&mut files, origin);
    (files, record)
}

fn unreadable(path: &Path, source: std::io::Error) -> SurveyError {
    SurveyError::Unreadable { path: path.display().to_string(), source }
}

/// Notes for the record that something could not be read.
fn unread(what: impl Into<String>, why: &std::io::Error) -> Unread {
    Unread { what: what.into(), why: plain(why) }
}

/// The operating system's words without its error number.
fn plain(error: &std::io::Error) -> String {
    let text = error.to_string();
    text.split(" (os error").next().unwrap_or(&text).to_owned()
}
