//! Archives of a root file system (POSIX pax and ustar, GNU tar): headers of 512
//! bytes, each followed by its file. What stands later counts, as when it is
//! unpacked; nothing but names is held in memory.

use crate::disk::Disk;
use crate::walk::Nodes;
use crate::{FileKind, Meta, TreeError};
use bradawl_facts::probe::{Block, Bytes};
use std::collections::BTreeMap;

/// The unit of an archive.
const RECORD: usize = 512;
/// More files than this, or more bytes of names, are not held in memory.
const MAX_NODES: usize = 1 << 20;
const MAX_NAMES: usize = 128 << 20;
/// Longer names are nobody's.
const MAX_NAME: u64 = 64 << 10;

/// An archive of files.
pub struct Tar {
    disk: Disk,
    nodes: Vec<Node>,
    /// Bytes of names so far.
    names: usize,
}

struct Node {
    meta: Meta,
    content: Content,
}

enum Content {
    /// Where a regular file begins.
    At(u64),
    /// Where a link leads.
    To(Vec<u8>),
    Folder(BTreeMap<Box<[u8]>, usize>),
    Nothing,
}

/// What headers of their own say of the file behind them.
#[derive(Default)]
struct Told {
    path: Option<Vec<u8>>,
    link: Option<Vec<u8>>,
    size: Option<u64>,
    uid: Option<u64>,
}

impl Tar {
    /// Whether bytes begin as an archive does.
    pub fn is_one(bytes: &dyn Bytes) -> bool {
        let mut header = [0; RECORD];
        matches!(bytes.read_at(0, &mut header), Ok(n) if n == header.len())
            && header[257..].starts_with(b"ustar")
            && is_header(&header)
    }

    /// Goes through all headers.
    ///
    /// # Errors
    /// When one does not hold together, or there are too many.
    pub fn open(bytes: Box<dyn Bytes + Send + Sync>) -> Result<Self, TreeError> {
        let end = bytes.size();
        let root = Node { meta: folder(0o755, 0), content: Content::Folder(BTreeMap::new()) };
        let mut tar = Tar { disk: Disk::new(bytes), nodes: vec![root], names: 0 };
        let (mut at, mut told) = (0, Told::default());
        while at + RECORD as u64 <= end {
            let header = tar.disk.at(at, RECORD)?;
            if header.bytes(0, 512).is_some_and(|all| all.iter().all(|b| *b == 0)) {
                break;
            }
            at = tar.entry(&header, at + RECORD as u64, &mut told)?;
        }
        Ok(tar)
    }

    /// One header; where the next one is.
    fn entry(&mut self, header: &Block, at: u64, told: &mut Told) -> Result<u64, TreeError> {
        let all = header.bytes(0, 512).filter(|all| is_header(all)).ok_or(TreeError::Damaged)?;
        let own = number(&all[124..136]).ok_or(TreeError::Damaged)?;
        let kind = all[156];
        match kind {
            b'L' => told.path = Some(self.long(at, own)?),
            b'K' => told.link = Some(self.long(at, own)?),
            b'x' | b'X' => self.pax(at, own, told)?,
            b'g' => {}
            _ => {
                let told = std::mem::take(told);
                let size = told.size.unwrap_or(own);
                self.file(all, kind, at, size, told)?;
                return after(at, if matches!(kind, b'1'..=b'6') { 0 } else { size });
            }
        }
        after(at, own)
    }

    /// A name that does not fit into a header.
    fn long(&self, at: u64, size: u64) -> Result<Vec<u8>, TreeError> {
        let size = usize::try_from(size).ok().filter(|n| *n as u64 <= MAX_NAME).ok_or(TreeError::TooMuch)?;
        let block = self.disk.at(at, size)?;
        Ok(until_zero(block.bytes(0, size).unwrap_or_default()).to_vec())
    }

    /// `LENGTH key=value\n`, one after the other.
    fn pax(&self, at: u64, size: u64, told: &mut Told) -> Result<(), TreeError> {
        let size = usize::try_from(size).ok().filter(|n| *n as u64 <= MAX_NAME).ok_or(TreeError::TooMuch)?;
        let block = self.disk.at(at, size)?;
        let mut rest = block.bytes(0, size).unwrap_or_default();
        while let Some(blank) = rest.iter().position(|b| *b == b' ') {
            let length = std::str::from_utf8(&rest[..blank]).ok().and_then(|n| n.parse::<usize>().ok());
            let length = length.filter(|n| *n > blank + 1 && *n <= rest.len()).ok_or(TreeError::Damaged)?;
            let (record, next) = rest.split_at(length);
            let record = &record[blank + 1..length - 1];
            let text = |value: &[u8]| std::str::from_utf8(value).ok().and_then(|n| n.parse::<u64>().ok());
            match record.iter().position(|b| *b == b'=').map(|n| (&record[..n], &record[n + 1..])) {
                Some((b"path", value)) => told.path = Some(value.to_vec()),
                Some((b"linkpath", value)) => told.link = Some(value.to_vec()),
                Some((b"size", value)) => told.size = text(value),
                Some((b"uid", value)) => told.uid = text(value),
                _ => {}
            }
            rest = next;
        }
        Ok(())
    }

    fn file(&mut self, all: &[u8], kind: u8, at: u64, size: u64, told: Told) -> Result<(), TreeError> {
        let prefix = if all[257..263] == *b"ustar\0" { until_zero(&all[345..500]) } else { &[] };
        let short = || {
            let name = until_zero(&all[..100]);
            if prefix.is_empty() { name.to_vec() } else { [prefix, b"/", name].concat() }
        };
        let path = told.path.unwrap_or_else(short);
        let link = told.link.unwrap_or_else(|| until_zero(&all[157..257]).to_vec());
        let mode = u32::try_from(number(&all[100..108]).unwrap_or(0) & 0o7777).unwrap_or(0);
        let uid = told.uid.or_else(|| number(&all[108..116])).unwrap_or(0);
        let uid = u32::try_from(uid).unwrap_or(u32::MAX);
        let node = |kind, size, content| Node { meta: Meta { kind, mode, uid, size }, content };
        let node = match kind {
            b'5' => Node { meta: folder(mode, uid), content: Content::Folder(BTreeMap::new()) },
            b'2' => node(FileKind::Link, link.len() as u64, Content::To(link)),
            b'1' => return self.again(&path, &link),
            b'0' | b'7' | 0 if path.last() != Some(&b'/') => node(FileKind::Regular, size, Content::At(at)),
            b'0' | b'7' | 0 => Node { meta: folder(mode, uid), content: Content::Folder(BTreeMap::new()) },
            // A file with holes has them listed in other places.
            b'S' => node(FileKind::Regular, size, Content::Nothing),
            _ => node(FileKind::Other, 0, Content::Nothing),
        };
        let place = self.nodes.len();
        self.nodes.push(node);
        self.put(&path, place)
    }

    /// A second name for a file that is there.
    fn again(&mut self, path: &[u8], link: &[u8]) -> Result<(), TreeError> {
        let mut at = 0;
        for part in parts(link) {
            match &self.nodes[at].content {
                Content::Folder(all) => match all.get(part) {
                    Some(next) => at = *next,
                    None => return Ok(()),
                },
                _ => return Ok(()),
            }
        }
        // A directory has one name: a second one would make a circle.
        if matches!(self.nodes[at].content, Content::Folder(_)) { Ok(()) } else { self.put(path, at) }
    }

    /// Gives a node its name; directories above that have no header are made.
    fn put(&mut self, path: &[u8], place: usize) -> Result<(), TreeError> {
        let all: Vec<&[u8]> = parts(path).collect();
        let Some((name, folders)) = all.split_last() else {
            return Ok(()); // the root itself
        };
        if all.iter().any(|part| *part == b"..") {
            return Ok(());
        }
        let mut at = 0;
        for part in folders {
            at = self.folder(at, part)?;
        }
        self.names += name.len();
        let is_folder = matches!(self.nodes[place].content, Content::Folder(_));
        if let Content::Folder(all) = &mut self.nodes[at].content {
            let there = all.get(*name).copied();
            let kept = there.filter(|_| is_folder);
            if kept.is_none() {
                all.insert((*name).into(), place);
            }
            // A directory that is named again keeps what is in it.
            if let Some(kept) = kept.filter(|n| matches!(self.nodes[*n].content, Content::Folder(_))) {
                self.nodes[kept].meta = self.nodes[place].meta;
            }
        }
        let full = self.nodes.len() > MAX_NODES || self.names > MAX_NAMES;
        if full { Err(TreeError::TooMuch) } else { Ok(()) }
    }

    /// The directory of a name in another.
    fn folder(&mut self, at: usize, name: &[u8]) -> Result<usize, TreeError> {
        let Content::Folder(all) = &self.nodes[at].content else { return Err(TreeError::NotADirectory) };
        if let Some(there) = all.get(name).filter(|n| matches!(self.nodes[**n].content, Content::Folder(_))) {
            return Ok(*there);
        }
        let place = self.nodes.len();
        self.nodes.push(Node { meta: folder(0o755, 0), content: Content::Folder(BTreeMap::new()) });
        self.names += name.len();
        if let Content::Folder(all) = &mut self.nodes[at].content {
            all.insert(name.into(), place);
        }
        if place > MAX_NODES { Err(TreeError::TooMuch) } else { Ok(place) }
    }
}

impl Nodes for Tar {
    type Node = usize;

    fn root(&self) -> usize {
        0
    }

    fn meta(&self, node: usize) -> Result<Meta, TreeError> {
        Ok(self.nodes[node].meta)
    }

    fn child(&self, folder: usize, name: &[u8]) -> Result<Option<usize>, TreeError> {
        match &self.nodes[folder].content {
            Content::Folder(all) => Ok(all.get(name).copied()),
            _ => Err(TreeError::NotADirectory),
        }
    }

    fn names(&self, folder: usize, limit: usize) -> Result<Vec<Vec<u8>>, TreeError> {
        match &self.nodes[folder].content {
            Content::Folder(all) => Ok(all.keys().take(limit).map(|name| name.to_vec()).collect()),
            _ => Err(TreeError::NotADirectory),
        }
    }

    fn bytes(&self, node: usize, size: usize) -> Result<Vec<u8>, TreeError> {
        match &self.nodes[node].content {
            Content::At(at) => {
                let block = self.disk.at(*at, size)?;
                Ok(block.bytes(0, size).unwrap_or_default().to_vec())
            }
            Content::To(to) => Ok(to[..size.min(to.len())].to_vec()),
            _ => Err(TreeError::NotRead("a file with holes in an archive is not read")),
        }
    }
}

fn folder(mode: u32, uid: u32) -> Meta {
    Meta { kind: FileKind::Directory, mode, uid, size: 0 }
}

fn parts(path: &[u8]) -> impl Iterator<Item = &[u8]> {
    path.split(|b| *b == b'/').filter(|p| !p.is_empty() && *p != b".")
}

fn until_zero(bytes: &[u8]) -> &[u8] {
    &bytes[..bytes.iter().position(|b| *b == 0).unwrap_or(bytes.len())]
}

/// Where the header behind a file is.
fn after(at: u64, size: u64) -> Result<u64, TreeError> {
    let whole = size.checked_next_multiple_of(RECORD as u64);
    whole.and_then(|whole| at.checked_add(whole)).ok_or(TreeError::Damaged)
}

/// Octal digits, or with the top bit set the bytes of a number.
fn number(field: &[u8]) -> Option<u64> {
    if field[0] & 0x80 != 0 {
        let (high, low) = field[1..].split_at((field.len() - 1).saturating_sub(8));
        let large = field[0] != 0x80 || high.iter().any(|b| *b != 0);
        return (!large).then(|| low.iter().fold(0, |n, b| n << 8 | u64::from(*b)));
    }
    let text = std::str::from_utf8(field).ok()?.trim_matches(['\0', ' ']);
    if text.is_empty() { Some(0) } else { u64::from_str_radix(text, 8).ok() }
}

/// Whether a header's sum is right, its own field taken as blanks.
fn is_header(all: &[u8]) -> bool {
    let sum: u64 =
        all.iter().enumerate().map(|(n, b)| u64::from(if (148..156).contains(&n) { b' ' } else { *b })).sum();
    number(&all[148..156]) == Some(sum)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::FileTree as _;

    fn header(name: &str, kind: u8, size: usize, link: &str) -> Vec<u8> {
        let mut all = vec![0; 512];
        all[..name.len()].copy_from_slice(name.as_bytes());
        all[100..108].copy_from_slice(b"0000644\0");
        all[108..116].copy_from_slice(b"0001750\0");
        all[124..136].copy_from_slice(format!("{size:011o}\0").as_bytes());
        all[156] = kind;
        all[157..157 + link.len()].copy_from_slice(link.as_bytes());
        all[257..265].copy_from_slice(b"ustar\x0000");
        let sum: u64 = all.iter().map(|b| u64::from(*b)).sum::<u64>() + 8 * 32;
        all[148..156].copy_from_slice(format!("{sum:06o}\0 ").as_bytes());
        all
    }

    fn with(name: &str, kind: u8, bytes: &[u8]) -> Vec<u8> {
        let mut all = header(name, kind, bytes.len(), "");
        all.extend(bytes);
        all.resize(all.len().next_multiple_of(512), 0);
        all
    }

    fn open(parts: &[Vec<u8>]) -> Result<Tar, TreeError> {
        let bytes = parts.concat();
        assert!(parts.is_empty() || Tar::is_one(&bytes));
        Tar::open(Box::new(bytes))
    }

    #[test]
    fn files_links_and_long_names() {
        let long = format!("srv/{}", "tide/".repeat(40)) + "log";
        let pax = format!("path={long}\n");
        let pax = format!("{} {pax}", pax.len() + 4);
        let tar = open(&[
            with("./", b'5', b""),
            with("./etc/fstab", b'0', b"LABEL=hull / ext4 defaults 0 1\n"),
            header("./etc/mtab", b'2', 0, "../proc/self/mounts"),
            header("./etc/table", b'2', 0, "/etc/fstab"),
            header("./etc/twin", b'1', 0, "./etc/fstab"),
            with("x", b'x', pax.as_bytes()),
            with("short", b'0', b"ebb"),
            with("././@LongLink", b'L', b"var/gauge\0"),
            with("var/ga", b'0', b"flood"),
            with("../out", b'0', b"no"),
            with("etc/", b'5', b""),
        ])
        .unwrap();
        let text = |path: &str| String::from_utf8(tar.read(path, 4096).unwrap()).unwrap();
        assert!(text("/etc/fstab").starts_with("LABEL=hull") && text("/etc/table") == text("/etc/twin"));
        assert_eq!((text(&long).as_str(), text("/var/gauge").as_str()), ("ebb", "flood"));
        assert_eq!(tar.link("/etc/mtab").unwrap(), b"../proc/self/mounts");
        assert_eq!(
            tar.stat("/etc/fstab").unwrap(),
            Meta { kind: FileKind::Regular, mode: 0o644, uid: 1000, size: 31 }
        );
        assert_eq!(tar.stat("/out").unwrap_err(), TreeError::NotFound);
        assert_eq!(tar.list("/", 9).unwrap(), [b"etc".to_vec(), b"srv".to_vec(), b"var".to_vec()]);
    }

    #[test]
    fn hostile_archives_end() {
        let huge = |size: &[u8; 12]| {
            let mut all = with("a", b'0', b"");
            all[124..136].copy_from_slice(size);
            all[148..156].copy_from_slice(b"        ");
            let sum: u64 = all.iter().map(|b| u64::from(*b)).sum();
            all[148..156].copy_from_slice(format!("{sum:06o}\0 ").as_bytes());
            all
        };
        for (parts, expected) in [
            (vec![vec![0; 512]], None),
            (vec![with("a", b'0', b"x"), vec![1; 512]], Some(TreeError::Damaged)),
            (vec![huge(b"\x80\0\0\0\xff\xff\xff\xff\xff\xff\xff\xff")], Some(TreeError::Damaged)),
            (vec![huge(b"77777777777\0")], None),
            (vec![with("a", b'0', b""), with("b", b'L', &[b'a'; 70000])], Some(TreeError::TooMuch)),
            (vec![with("a", b'0', b""), with("b", b'x', b"99 path=a\n")], Some(TreeError::Damaged)),
            (vec![with("a", b'0', b""), header("a/b", b'0', 0, "")], None),
        ] {
            let got = Tar::open(Box::new(parts.concat()));
            assert_eq!(got.err(), expected);
        }
        // A name that was a file becomes a directory, as later headers count.
        let tar = open(&[with("a", b'0', b""), header("a/b", b'0', 0, "")]).unwrap();
        assert_eq!(tar.stat("/a/b").unwrap().kind, FileKind::Regular);
    }
}
