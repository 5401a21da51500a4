//! Many records: files, directories of them, and records one a line, also packed.
//! They are judged on all cores, a bounded number at a time, and come out in
//! the order they came in.

use crate::args::WithArgs;
use crate::input::{self, Host, is_tree, plain};
use crate::outcome::CommandError;
use bradawl_facts::map::Map;
use bradawl_facts::record::{MAX_BYTES, TableFile};
use rayon::prelude::*;
use ruzstd::decoding::StreamingDecoder;
use std::ffi::OsStr;
use std::fs::File;
use std::hash::{BuildHasher as _, RandomState};
use std::io::{self, BufRead, BufReader, Read};
use std::path::Path;
use std::sync::mpsc::sync_channel;

/// So many are read ahead, twice.
const AT_ONCE: usize = 256;
/// How packed files begin (RFC 8878).
const ZSTD: [u8; 4] = [0x28, 0xb5, 0x2f, 0xfd];

/// One host to be looked at.
pub struct Item {
    /// What it is called in messages: the argument, the file, file and line.
    pub name: String,
    held: Held,
}

/// How a host is held until it is looked at.
enum Held {
    /// The name is what was asked for: a record, a root directory, an image.
    Named,
    /// The name is that of a file that holds a record.
    File,
    /// Its record, still as bytes.
    Bytes(Result<Vec<u8>, CommandError>),
}

/// Names for the hosts of a run: two that call themselves the same never share
/// one, since reports are told apart by it. Kept is a number of 64 bits for each; two
/// names that had the same one would be told apart without need.
#[derive(Default)]
pub struct Names {
    times: Map<u64, u32>,
    numbers: RandomState,
}

impl Names {
    /// The name of the next host: its own, with what it was read from where
    /// another has it already.
    pub fn take(&mut self, own: &str, input: &str) -> String {
        if self.times(own) == 1 {
            return own.to_owned();
        }
        let with_input = format!("{own} ({input})");
        match self.times(&with_input) {
            1 => with_input,
            n => format!("{own} ({input}, {n})"),
        }
    }

    /// How often a name has come.
    fn times(&mut self, name: &str) -> u32 {
        let times = self.times.entry(self.numbers.hash_one(name)).or_default();
        *times = times.saturating_add(1);
        *times
    }
}

/// All hosts that arguments stand for.
pub fn items(args: &[String]) -> impl Iterator<Item = Item> + Send + '_ {
    args.iter().flat_map(|arg| of_arg(arg))
}

type Items = Box<dyn Iterator<Item = Item> + Send>;

fn of_arg(arg: &str) -> Items {
    let path = Path::new(arg);
    if arg != "-" && path.is_dir() && !is_tree(arg) {
        return match in_folder(path) {
            Ok(files) if files.is_empty() => {
                let why = "the directory holds no record (*.json, *.jsonl, *.zst) and no etc/fstab";
                failed(arg, CommandError::input(arg, why))
            }
            Ok(files) => {
                let folder = path.to_owned();
                Box::new(files.into_iter().flat_map(move |f| of_folder(&folder.join(&*f).to_string_lossy())))
            }
            Err(e) => failed(arg, CommandError::input(arg, plain(&e))),
        };
    }
    if is_lines(arg) { of_lines(arg) } else { one(arg, Held::Named) }
}

fn failed(name: &str, error: CommandError) -> Items {
    one(name, Held::Bytes(Err(error)))
}

/// The names of the files with records, sorted.
fn in_folder(path: &Path) -> io::Result<Vec<Box<OsStr>>> {
    let inside =
        std::fs::read_dir(path)?.flatten().filter(|e| e.file_type().is_ok_and(|kind| !kind.is_dir()));
    let holds_records = |name: &OsStr| {
        // What a survey of many hosts writes beside their records.
        let is_index = name == "index.json";
        !is_index
            && (is_lines(&name.to_string_lossy()) || Path::new(name).extension().is_some_and(|e| e == "json"))
    };
    let mut files: Vec<Box<OsStr>> =
        inside.map(|e| e.file_name().into_boxed_os_str()).filter(|name| holds_records(name)).collect();
    files.sort_unstable();
    Ok(files)
}

fn is_lines(path: &str) -> bool {
    [".jsonl", ".ndjson", ".jsonl.zst", ".ndjson.zst"].iter().any(|end| path.ends_with(end))
}

/// A file of a directory: nothing that is none is opened, it might never end.
fn of_folder(path: &str) -> Items {
    match std::fs::metadata(path) {
        Ok(meta) if !meta.is_file() => failed(path, CommandError::input(path, "is no regular file")),
        _ if is_lines(path) => of_lines(path),
        _ => one(path, Held::File),
    }
}

fn one(name: &str, held: Held) -> Items {
    Box::new(std::iter::once(Item { name: name.to_owned(), held }))
}

fn of_lines(path: &str) -> Items {
    match opened(path) {
        Ok(reader) => Box::new(Lines { reader, name: path.to_owned(), number: 0, ended: false }),
        Err(e) => failed(path, CommandError::input(path, plain(&e))),
    }
}

fn opened(path: &str) -> io::Result<Box<dyn BufRead + Send>> {
    let mut file = BufReader::with_capacity(1 << 18, File::open(path)?);
    Ok(match file.fill_buf()?.starts_with(&ZSTD) {
        true => Box::new(BufReader::with_capacity(1 << 18, Unpacked { frame: None, packed: Some(file) })),
        false => Box::new(file),
    })
}

/// Packed bytes unpacked, frame after frame.
struct Unpacked {
    frame: Option<StreamingDecoder<BufReader<File>, ruzstd::decoding::FrameDecoder>>,
    packed: Option<BufReader<File>>,
}

impl Read for Unpacked {
    fn read(&mut self, buffer: &mut [u8]) -> io::Result<usize> {
        loop {
            if let Some(frame) = &mut self.frame {
                match frame.read(buffer)? {
                    0 => self.packed = self.frame.take().map(StreamingDecoder::into_inner),
                    read => return Ok(read),
                }
            }
            let Some(mut packed) = self.packed.take() else { return Ok(0) };
            if packed.fill_buf()?.is_empty() {
                return Ok(0);
            }
            let frame = StreamingDecoder::new(packed);
            self.frame = Some(frame.map_err(|e| io::Error::other(format!("is not packed soundly: {e}")))?);
        }
    }
}

/// Records, one a line.
struct Lines {
    reader: Box<dyn BufRead + Send>,
    name: String,
    number: usize,
    ended: bool,
}

impl Iterator for Lines {
    type Item = Item;

    fn next(&mut self) -> Option<Item> {
        while !self.ended {
            let mut line = Vec::new();
            let read = self.reader.by_ref().take(MAX_BYTES + 1).read_until(b'\n', &mut line);
            self.number += 1;
            let name = format!("{} line {}", self.name, self.number);
            let bytes = match read {
                Ok(0) => {
                    self.ended = true;
                    return None;
                }
                Ok(_) if line.len() as u64 > MAX_BYTES => {
                    self.ended = true;
                    Err(CommandError::input(&name, "is longer than any record; what follows is not read"))
                }
                Ok(_) if line.iter().all(u8::is_ascii_whitespace) => continue,
                Ok(_) => Ok(line),
                Err(e) => {
                    self.ended = true;
                    Err(CommandError::input(&name, plain(&e)))
                }
            };
            return Some(Item { name, held: Held::Bytes(bytes) });
        }
        None
    }
}

/// Does the work for each on all cores and takes the results in order.
pub fn each<T: Send>(
    items: impl Iterator<Item = Item> + Send,
    work: impl Fn(Item) -> T + Sync,
    mut take: impl FnMut(T) -> Result<(), CommandError>,
) -> Result<(), CommandError> {
    std::thread::scope(|scope| {
        let (send, receive) = sync_channel::<Vec<Item>>(1);
        scope.spawn(move || {
            let mut items = items;
            loop {
                let some: Vec<Item> = items.by_ref().take(AT_ONCE).collect();
                if some.is_empty() || send.send(some).is_err() {
                    break;
                }
            }
        });
        for some in receive {
            let done: Vec<T> = some.into_par_iter().map(&work).collect();
            done.into_iter().try_for_each(&mut take)?;
        }
        Ok(())
    })
}

/// Whether an argument stands for many hosts.
pub fn is_many(arg: &str) -> bool {
    is_lines(arg) || (Path::new(arg).is_dir() && !is_tree(arg))
}

/// The bytes of the record of an item.
pub fn record_bytes(item: Item) -> Result<Vec<u8>, CommandError> {
    match item.held {
        Held::Bytes(bytes) => bytes,
        Held::Named | Held::File => input::file(Path::new(&item.name), MAX_BYTES),
    }
}

/// The host of an item.
pub fn host(item: Item, with: &WithArgs, table: Option<&TableFile>) -> Result<Host, CommandError> {
    let name = &item.name;
    let record = match item.held {
        Held::Named => return input::host(Some(name), with, table),
        Held::File => input::record_file(name)?,
        Held::Bytes(bytes) => input::of_bytes(name, &bytes?)?,
    };
    Ok(Host { record })
}
