//! The collector's output, line by line. Every line may come from a host that
//! lies: nothing here trusts lengths or counts, and memory is bounded by the
//! size of the input.

use super::Collected;
use base64::Engine as _;
use base64::engine::general_purpose::STANDARD;
use std::io;

/// Larger outputs are refused.
pub const MAX_BYTES: usize = 64 << 20;
/// Longer ones too: each line costs more memory than its bytes.
const MAX_LINES: usize = 400_000;
/// Banners before the head may have so many lines.
const MAX_BANNER: usize = 200;
/// The size that probes read at a time.
pub(super) const PAGE: u64 = 4096;

/// Why an output is not a collector's.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FrameError {
    /// It does not begin as one.
    #[error("this is not the collector's output: no line says bradawl-collected 1")]
    NoHead,
    /// It ends before its end.
    #[error("the collector's output ends before its end: it was cut off")]
    Cut,
    /// A line that no collector writes.
    #[error("line {0} is none that the collector writes")]
    Line(usize),
    /// More lines than any host has to say.
    #[error("it has more than {MAX_LINES} lines")]
    TooLong,
    /// An output that came while others were still read.
    #[error("it came while what was collected before was still read")]
    Busy,
    /// More of something than any real host has.
    #[error(transparent)]
    Unreal(#[from] bradawl_facts::record::Unreal),
    /// More than any host has to say.
    #[error("it is larger than {} MiB", MAX_BYTES >> 20)]
    TooLarge,
}

/// How bytes are spelled.
#[derive(Debug, Clone, Copy)]
enum Spelling {
    Base64,
    Hex,
}

/// Reads an output whole.
pub(super) fn parse(bytes: &[u8]) -> Result<Collected, FrameError> {
    if bytes.len() > MAX_BYTES {
        return Err(FrameError::TooLarge);
    }
    let mut lines = bytes.split(|b| *b == b'\n').enumerate();
    let spelling = head(&mut lines)?;
    let mut collected = Collected::default();
    let mut lines = lines.peekable();
    while let Some((number, line)) = lines.next() {
        if line == b"end" || line == b"end\r" {
            return Ok(collected);
        }
        if number > MAX_LINES {
            return Err(FrameError::TooLong);
        }
        // A last line that is not whole was cut off.
        if read(&mut collected, spelling, line).is_none() {
            return Err(if lines.peek().is_none() { FrameError::Cut } else { FrameError::Line(number + 1) });
        }
    }
    Err(FrameError::Cut)
}

/// What is before the head is what the host greets with.
fn head<'b>(lines: &mut impl Iterator<Item = (usize, &'b [u8])>) -> Result<Spelling, FrameError> {
    for (_, line) in lines.take(MAX_BANNER) {
        // A terminal on the way adds carriage returns.
        let line = line.strip_suffix(b"\r").unwrap_or(line);
        match line.strip_prefix(b"bradawl-collected 1 ".as_slice()) {
            Some(b"base64") => return Ok(Spelling::Base64),
            Some(b"hex") => return Ok(Spelling::Hex),
            _ => {}
        }
    }
    Err(FrameError::NoHead)
}

fn read(collected: &mut Collected, spelling: Spelling, line: &[u8]) -> Option<()> {
    let text = std::str::from_utf8(line).ok()?.trim_end_matches('\r');
    let (kind, rest) = text.split_once(' ')?;
    let piece = || decoded(spelling, rest).map(words);
    match kind {
        "v" => {
            let (key, value) = rest.split_once(' ').unwrap_or((rest, ""));
            collected.values.insert(key.to_owned(), value.to_owned());
        }
        "g" => return values(collected, &piece()?, ':'),
        "u" => return values(collected, &piece()?, 'b'),
        "k" => super::listing::nodes(collected, &piece()?),
        _ => {
            let (name, rest) = rest.split_once(' ').unwrap_or((rest, ""));
            let path = named(spelling, name).filter(|path| path.starts_with('/'))?;
            return of_path(collected, spelling, kind, path, rest);
        }
    }
    Some(())
}

/// A path as it stands, or encoded behind `=`.
fn named(spelling: Spelling, name: &str) -> Option<String> {
    match name.strip_prefix('=') {
        Some(code) => decoded(spelling, code).map(words),
        None => Some(name.to_owned()),
    }
}

fn words(bytes: Vec<u8>) -> String {
    String::from_utf8_lossy(&bytes).into_owned()
}

/// What is said of one path.
fn of_path(
    collected: &mut Collected,
    spelling: Spelling,
    kind: &str,
    path: String,
    rest: &str,
) -> Option<()> {
    match kind {
        "f" => drop(collected.files.insert(path, decoded(spelling, rest)?)),
        "s" => drop(collected.stats.insert(path, Ok(super::stat(rest)?))),
        "x" => refuse(collected, path, rest),
        "d" => {
            let names = words(decoded(spelling, rest)?).lines().map(str::to_owned).collect();
            collected.lists.insert(path, names);
        }
        "c" => drop(collected.counts.insert(path, rest.trim().parse().ok()?)),
        "l" => drop(collected.reals.insert(path, named(spelling, rest)?)),
        "b" => {
            let (page, data) = rest.split_once(' ').unwrap_or((rest, ""));
            let offset = page.parse::<u64>().ok()?.checked_mul(PAGE)?;
            collected.bytes.entry(path).or_default().insert(offset, decoded(spelling, data)?);
        }
        "r" => {
            let (blocks, size) = rest.split_once(' ')?;
            let room = blocks.parse::<u64>().ok()?.checked_mul(size.parse().ok()?)?;
            collected.rooms.insert(path, room);
        }
        "n" => drop(collected.nocow.insert(path, rest == "yes")),
        "h" => drop(collected.shared.insert(path, rest == "yes")),
        _ => return None,
    }
    Some(())
}

fn refuse(collected: &mut Collected, path: String, why: &str) {
    let why = match why {
        "absent" => io::ErrorKind::NotFound,
        "denied" => io::ErrorKind::PermissionDenied,
        "silent" => io::ErrorKind::TimedOut,
        _ => io::ErrorKind::Other,
    };
    collected.stats.entry(path.clone()).or_insert(Err(why));
    collected.refused.insert(path, why);
}

fn decoded(spelling: Spelling, text: &str) -> Option<Vec<u8>> {
    match spelling {
        Spelling::Base64 => STANDARD.decode(text).ok(),
        Spelling::Hex => {
            let digit = |b: u8| char::from(b).to_digit(16).and_then(|d| u8::try_from(d).ok());
            let pairs = text.as_bytes().chunks_exact(2);
            let whole = pairs.remainder().is_empty();
            let bytes = pairs.map(|p| Some(digit(p[0])? << 4 | digit(p[1])?)).collect::<Option<Vec<u8>>>();
            bytes.filter(|_| whole)
        }
    }
}

/// `path:line` of many small files. In names of the device manager's notes
/// (`b8:1`) the second colon ends the path.
fn values(collected: &mut Collected, text: &str, ends: char) -> Option<()> {
    for line in text.lines() {
        let skip = if ends == 'b' { line.find(':')? + 1 } else { 0 };
        let at = skip + line[skip..].find(':')?;
        let (path, value) = (&line[..at], &line[at + 1..]);
        if !path.starts_with("/sys/") && !path.starts_with("/run/udev/data/") {
            return None;
        }
        let file = collected.files.entry(path.to_owned()).or_default();
        file.extend_from_slice(value.as_bytes());
        file.push(b'\n');
    }
    Some(())
}
