//! Facts that a small shell script collected on another host, as raw files and
//! bytes. The same survey reads them as reads the host it runs on; what was
//! not collected is asked for, or said to be unknown.

mod frame;
mod listing;

pub use frame::{FrameError, MAX_BYTES};

use crate::files::Stat;
use bradawl_catalogue::packages::named;
use bradawl_facts::probe::Bytes;
use bradawl_facts::record::{Content, ContentKind, KernelBuild, PathKind, Record, TableFile, Unread};
use frame::PAGE;
use std::collections::{BTreeMap, BTreeSet, HashMap, HashSet};
use std::io;
use std::sync::{Arc, Mutex, PoisonError};

/// The functions of the collector.
const FUNCTIONS: &str = include_str!("collector.sh");
/// What it collects unasked.
const ALL: &str = include_str!("all.sh");
/// The kernel's directories of block devices.
const BLOCK: &str = "/sys/class/block/";
/// So many questions are put at a time.
const MAX_QUESTIONS: usize = 2000;
/// Runs that may lie over each other.
const MAX_OVERLAP: usize = 64;
/// Fewer pages are not asked for.
const AHEAD: u64 = 8;
/// Longer runs of bytes are not asked for.
const MAX_PAGES: u64 = 64;

/// The script that collects what a survey needs.
pub fn collector() -> String {
    let kept = format!("^(# )?CONFIG_({})[ =]", KernelBuild::KEPT.join("|"));
    let packages: BTreeSet<&str> = named().collect();
    let packages = packages.into_iter().collect::<Vec<_>>().join("|");
    // The basic patterns of grep have a backslash there.
    let folders = packages.replace('|', r"\|");
    let all = ALL.replace("@KEPT@", &kept).replace("@PACKAGES@", &packages).replace("@FOLDERS@", &folders);
    format!("{FUNCTIONS}{all}")
}

/// What a survey asked for and was not collected: calls of the script's
/// functions.
pub type Questions = BTreeSet<String>;

/// The script that answers questions.
pub fn follow_up(questions: &Questions) -> String {
    // What might keep the shell waiting is asked in a process of its own.
    let guarded = |question: &String| match question.starts_with("by ") {
        true => question.clone(),
        false => format!("within {question}"),
    };
    let asked: Vec<String> = questions.iter().take(MAX_QUESTIONS).map(guarded).collect();
    format!("{FUNCTIONS}echo \"bradawl-collected 1 $how\"\n{}\necho end\n", asked.join("\n"))
}

/// What a host has said so far: its first output, then its answers.
#[derive(Debug, Default)]
pub struct Collection(Arc<Collected>);

impl Collection {
    /// Takes in an output of the script.
    ///
    /// # Errors
    /// When it is not the script's.
    pub fn add(&mut self, output: &[u8]) -> Result<(), FrameError> {
        let one = frame::parse(output)?;
        match Arc::get_mut(&mut self.0) {
            Some(all) => all.extend(one),
            // A survey of it is still held by somebody.
            None => return Err(FrameError::Busy),
        }
        Ok(())
    }

    /// The collection of one output.
    ///
    /// # Errors
    /// When it is not the script's.
    pub fn of(output: &[u8]) -> Result<Self, FrameError> {
        let mut all = Collection::default();
        all.add(output)?;
        Ok(all)
    }

    /// Tables that were asked for beside the host's own, as far as they came.
    pub fn tables(&self, paths: &[String]) -> Vec<TableFile> {
        let file = |path: &String| self.0.files.get(path).map(|bytes| TableFile::new(path, bytes.clone()));
        paths.iter().filter_map(file).collect()
    }

    pub(crate) fn all(&self) -> Arc<Collected> {
        Arc::clone(&self.0)
    }
}

/// What was collected on one host.
#[derive(Debug, Default)]
pub(crate) struct Collected {
    values: HashMap<String, String>,
    files: HashMap<String, Vec<u8>>,
    stats: HashMap<String, Result<Found, io::ErrorKind>>,
    refused: HashMap<String, io::ErrorKind>,
    lists: HashMap<String, Vec<String>>,
    counts: HashMap<String, u32>,
    reals: HashMap<String, String>,
    bytes: HashMap<String, BTreeMap<u64, Vec<u8>>>,
    rooms: HashMap<String, u64>,
    nocow: HashMap<String, bool>,
    shared: HashMap<String, bool>,
    links: BTreeMap<String, String>,
    nodes: HashSet<String>,
    asked: Arc<Mutex<Questions>>,
}

/// Says of devices that were not collected whole what is not known: that one
/// is empty cannot be said of it.
pub(crate) fn left_unknown(record: &mut Record, open: &Questions) {
    for device in record.devices.iter_mut().flatten() {
        let start = format!("by {} ", bradawl_facts::text::quoted(&device.path));
        // Questions are sorted: the first from there on is one of it, or none is.
        if !open.range(start.clone()..).next().is_some_and(|q| q.starts_with(&start)) {
            continue;
        }
        let bare = |c: &Content| matches!(c.kind, ContentKind::Empty | ContentKind::Unknown);
        device.content = device.content.take().filter(|c| !bare(c));
        let why = "not all of it was collected".to_owned();
        record.unread.push(Unread { what: device.path.clone(), why });
    }
}

/// What `stat` says.
#[derive(Debug, Clone, Copy)]
struct Found {
    mode: u32,
    uid: u32,
    size: u64,
    blocks: u64,
    modified_s: u64,
}

/// Mode in hexadecimal, user, group, size, blocks of 512 bytes, time.
fn stat(text: &str) -> Option<Found> {
    let mut words = text.split(' ');
    let mode = u32::from_str_radix(words.next()?, 16).ok()?;
    let uid = words.next()?.parse().ok()?;
    let _group = words.next()?;
    let mut number = || words.next().and_then(|w| w.parse::<u64>().ok());
    Some(Found { mode, uid, size: number()?, blocks: number()?, modified_s: number()? })
}

impl Collected {
    fn extend(&mut self, one: Collected) {
        self.values.extend(one.values);
        self.files.extend(one.files);
        self.stats.extend(one.stats);
        self.refused.extend(one.refused);
        self.lists.extend(one.lists);
        self.counts.extend(one.counts);
        self.reals.extend(one.reals);
        for (path, runs) in one.bytes {
            self.bytes.entry(path).or_default().extend(runs);
        }
        self.rooms.extend(one.rooms);
        self.nocow.extend(one.nocow);
        self.shared.extend(one.shared);
        self.links.extend(one.links);
        self.nodes.extend(one.nodes);
    }

    /// What was asked for in vain; shared with whoever holds it.
    pub(crate) fn questions(&self) -> Arc<Mutex<Questions>> {
        Arc::clone(&self.asked)
    }

    fn ask(&self, call: &str, path: &str) -> io::Error {
        note(&self.asked, format!("{call} {}", bradawl_facts::text::quoted(path)));
        io::Error::other("was not collected")
    }

    pub(crate) fn value(&self, key: &str) -> Option<&str> {
        self.values.get(key).map(String::as_str).filter(|v| !v.is_empty())
    }

    /// The path by which it was collected: the kernel's directories of block
    /// devices are links, and `..` leads to the disk of a partition.
    fn place(&self, path: &str) -> String {
        let outer = path.strip_prefix(BLOCK).and_then(|p| p.split_once("/../"));
        let Some((name, rest)) = outer else { return path.to_owned() };
        let real = self.reals.get(&format!("{BLOCK}{name}"));
        match real.and_then(|r| r.rsplit('/').nth(1)) {
            Some(disk) => format!("{BLOCK}{disk}/{rest}"),
            None => path.to_owned(),
        }
    }

    /// All of the kernel's directories of block devices was collected.
    fn is_whole(path: &str) -> bool {
        path.starts_with(BLOCK) || path.starts_with("/run/udev/")
    }

    pub(crate) fn read_file(&self, path: &str) -> io::Result<Vec<u8>> {
        let path = self.place(path);
        if let Some(bytes) = self.files.get(&path) {
            return Ok(bytes.clone());
        }
        match (self.refused.get(&path), self.stats.get(&path)) {
            (Some(why), _) | (None, Some(Err(why))) => Err((*why).into()),
            _ if Self::is_whole(&path) => Err(io::ErrorKind::NotFound.into()),
            _ => Err(self.ask("get", &path)),
        }
    }

    pub(crate) fn stat(&self, path: &str) -> io::Result<Stat> {
        let path = self.place(path);
        match self.stats.get(&path) {
            Some(Ok(found)) => Ok(found.stat()),
            Some(Err(why)) => Err((*why).into()),
            None if self.files.contains_key(&path)
                || self.nodes.contains(&path)
                || self.links.contains_key(&path) =>
            {
                Ok(Found { mode: 0o100_600, uid: 0, size: 0, blocks: 0, modified_s: 0 }.stat())
            }
            None if Self::is_whole(&path) || path.starts_with("/dev/mapper/") => {
                Err(io::ErrorKind::NotFound.into())
            }
            None => Err(self.ask("st", &path)),
        }
    }

    pub(crate) fn list(&self, path: &str) -> io::Result<Vec<String>> {
        let path = self.place(path);
        if let Some(names) = self.lists.get(&path) {
            return Ok(names.clone());
        }
        match (self.refused.get(&path), self.stats.get(&path)) {
            (Some(why), _) | (None, Some(Err(why))) => Err((*why).into()),
            _ if Self::is_whole(&path) => Err(io::ErrorKind::NotFound.into()),
            _ => Err(self.ask("names", &path)),
        }
    }

    pub(crate) fn count(&self, path: &str) -> Option<u32> {
        if !self.counts.contains_key(path) && !self.refused.contains_key(path) {
            self.ask("fill", path);
        }
        self.counts.get(path).copied()
    }

    pub(crate) fn real(&self, path: &str) -> Option<String> {
        if path.starts_with("/dev/") && self.links.contains_key(path) {
            return Some(listing::followed(self, path));
        }
        if !self.reals.contains_key(path) && !self.refused.contains_key(path) {
            self.ask("real", path);
        }
        self.reals.get(path).cloned()
    }

    pub(crate) fn room(&self, path: &str) -> Option<u64> {
        self.rooms.get(path).copied()
    }

    pub(crate) fn nocow(&self, path: &str) -> Option<bool> {
        self.nocow.get(path).copied()
    }

    pub(crate) fn shared(&self, path: &str) -> Option<bool> {
        self.shared.get(path).copied()
    }

    /// The links under /dev with where they lead.
    pub(crate) fn dev_links(&self) -> Vec<(String, String)> {
        self.links.keys().map(|link| (link.clone(), listing::followed(self, link))).collect()
    }

    /// The bytes of a device or file.
    pub(crate) fn start(&self, path: &str, size: u64) -> io::Result<Box<dyn Bytes + Send + Sync>> {
        match self.bytes.get(path) {
            Some(runs) if size > 0 && runs.get(&0).is_some_and(Vec::is_empty) => {
                Err(io::Error::other("its first bytes could not be read"))
            }
            Some(runs) => Ok(Box::new(Sparse {
                path: path.to_owned(),
                size,
                runs: runs.clone(),
                asked: Arc::clone(&self.asked),
            })),
            None => match self.refused.get(path) {
                Some(why) => Err((*why).into()),
                None => {
                    note(&self.asked, format!("by {} 0 17", bradawl_facts::text::quoted(path)));
                    Err(io::Error::other("was not collected"))
                }
            },
        }
    }
}

fn note(asked: &Mutex<Questions>, question: String) {
    asked.lock().unwrap_or_else(PoisonError::into_inner).insert(question);
}

impl Found {
    fn stat(self) -> Stat {
        let kind = match self.mode & 0o170_000 {
            0o040_000 => PathKind::Directory,
            0o100_000 => PathKind::File,
            _ => PathKind::Other,
        };
        Stat {
            kind,
            uid: self.uid,
            mode: self.mode & 0o7777,
            size: self.size,
            allocated: Some(self.blocks.saturating_mul(512)),
            modified_s: Some(self.modified_s),
        }
    }
}

/// Some runs of bytes of a device. What is missing is asked for; until it
/// comes it reads as if the device ended there, so that nothing is made up.
struct Sparse {
    path: String,
    size: u64,
    runs: BTreeMap<u64, Vec<u8>>,
    asked: Arc<Mutex<Questions>>,
}

impl Bytes for Sparse {
    fn size(&self) -> u64 {
        self.size
    }

    fn read_at(&self, offset: u64, buffer: &mut [u8]) -> io::Result<usize> {
        let want = (buffer.len() as u64).min(self.size.saturating_sub(offset));
        let mut done = 0_u64;
        while done < want {
            let at = offset + done;
            let rest = |(start, bytes): (&u64, &'_ Vec<u8>)| {
                let skip = usize::try_from(at - start).ok().filter(|skip| *skip < bytes.len())?;
                Some((*start, skip))
            };
            let Some((start, skip)) = self.runs.range(..=at).rev().take(MAX_OVERLAP).find_map(rest) else {
                break;
            };
            let bytes = &self.runs[&start][skip..];
            let take = usize::try_from(want - done).unwrap_or(usize::MAX).min(bytes.len());
            let from = usize::try_from(done).unwrap_or(usize::MAX);
            buffer[from..from + take].copy_from_slice(&bytes[..take]);
            done += take as u64;
        }
        if done < want {
            let first = (offset + done) / PAGE;
            // What lies behind it is often wanted next.
            let pages = ((offset + want).div_ceil(PAGE) - first).clamp(AHEAD, MAX_PAGES);
            note(&self.asked, format!("by {} {first} {pages}", bradawl_facts::text::quoted(&self.path)));
        }
        Ok(usize::try_from(done).unwrap_or(0))
    }
}

#[cfg(test)]
mod tests;
