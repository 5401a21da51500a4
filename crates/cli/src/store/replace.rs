use super::dress::Dress;
use super::gate::{Gate, Open};
use super::history::{Entry, History, digest};
use super::place::{Place, Target};
use super::stamp::stamp;
use super::{StoreError, call};
use bradawl_facts::table::MAX_BYTES;
use std::fs::{self, File, OpenOptions};
use std::io::{self, Read as _, Write as _};
use std::os::unix::fs::OpenOptionsExt as _;
use std::path::{Path, PathBuf};
use std::time::SystemTime;

/// What stands between the name of a table and the time of its backup.
pub(super) const BACKUP: &str = ".before-";
/// The same where a write was taken back.
const UNDONE: &str = ".undone-";

/// Why a table is written.
#[derive(Debug, Clone, Default)]
pub struct Why {
    /// The command, secrets masked.
    pub command: String,
    /// The backups of the writes that are taken back; none: it is no undo.
    pub undoes: Vec<String>,
}

/// What was written.
#[derive(Debug)]
pub struct Written {
    /// The file itself, where the path given is a link.
    pub file: PathBuf,
    /// The backup of what was there.
    pub backup: PathBuf,
    /// Why it is not in the history, if it is not.
    pub unrecorded: Option<String>,
}

/// Puts new bytes in place of a table's old ones, which are kept in a backup
/// beside it. At every moment the table is the old one or the new one, whole.
///
/// # Errors
/// When it cannot be done, or `expected` is no longer what is there; the table
/// is then as it was, unless the error is [`StoreError::Late`].
pub fn replace(target: Target<'_>, expected: &[u8], new: &[u8], why: &Why) -> Result<Written, StoreError> {
    replace_with(target, expected, new, why, &mut Open)
}

/// Writes a table where none is.
///
/// # Errors
/// When it cannot be done, or one has come there meanwhile.
pub fn create(target: Target<'_>, new: &[u8]) -> Result<PathBuf, StoreError> {
    let place = Place::fresh(target)?;
    let mut file = tempfile::NamedTempFile::new_in(place.at(".")).map_err(call("create a file there"))?;
    file.write_all(new).map_err(call("write the text"))?;
    let mode = std::os::unix::fs::PermissionsExt::from_mode(0o644);
    file.as_file().set_permissions(mode).map_err(call("give it its mode"))?;
    file.as_file().sync_all().map_err(call("bring it to the disk"))?;
    file.persist_noclobber(place.at(&place.name)).map_err(|e| call("give it its name")(e.error))?;
    place.sync().map_err(call("bring its directory to the disk"))?;
    Ok(place.file)
}

pub(super) fn replace_with(
    target: Target<'_>,
    expected: &[u8],
    new: &[u8],
    why: &Why,
    gate: &mut dyn Gate,
) -> Result<Written, StoreError> {
    let place = Place::of(target)?;
    let (history, unrecorded) = match History::open(&place) {
        Ok(history) => (Some(history), None),
        // Nobody may keep us from writing by leaving such a file there.
        Err(e @ StoreError::History(..)) => (None, Some(e.to_string())),
        Err(e) => return Err(e),
    };
    let (old, bytes) = read(&place, &place.name)?;
    if bytes != expected {
        return Err(StoreError::Changed);
    }
    let dress = Dress::of(&old).map_err(call("read its attributes"))?;
    let now = stamp(SystemTime::now());
    let between = if why.undoes.is_empty() { BACKUP } else { UNDONE };
    let backup = free_name(&place, &format!("{}{between}{now}", place.name));
    let entry = entry(why, now, (expected, new), &backup);
    let [before, after] = [".old", ".new"].map(|end| place.at(&format!(".{}.bradawl{end}", place.name)));
    let kept = place.at(&backup);
    let mut work = Work { gate, dress: &dress };
    let prepared = work
        .file(&before, expected)
        .and_then(|()| work.file(&after, new))
        .and_then(|()| work.rename(&before, &kept, "write the backup"))
        .and_then(|()| work.sync(&place))
        .and_then(|()| work.record(history.as_ref(), &entry))
        .and_then(|()| work.rename(&after, &place.at(&place.name), "put the new table in its place"));
    if let Err(e) = prepared {
        // What was prepared is of no use to anybody. An entry that was written
        // down already tells by its digests that it never took place.
        for path in [&before, &after, &kept] {
            work.remove(path);
        }
        return Err(e);
    }
    work.sync(&place).map_err(|e| match e {
        StoreError::Call(what, why) => StoreError::Late(what, why),
        other => other,
    })?;
    Ok(Written { backup: place.folder.join(&backup), file: place.file, unrecorded })
}

/// A file of the table's directory, and its bytes.
pub(super) fn read(place: &Place, name: &str) -> Result<(File, Vec<u8>), StoreError> {
    let file = place.open(name).map_err(call("open it"))?;
    if !file.metadata().map_err(call("look at it"))?.is_file() {
        return Err(StoreError::NoFile);
    }
    let mut bytes = Vec::new();
    (&file).take(MAX_BYTES as u64 + 1).read_to_end(&mut bytes).map_err(call("read it"))?;
    Ok((file, bytes))
}

fn entry(why: &Why, at: String, (before, after): (&[u8], &[u8]), backup: &str) -> Entry {
    Entry {
        at,
        uid: rustix::process::getuid().as_raw(),
        sudo_uid: std::env::var("SUDO_UID").ok().and_then(|uid| uid.parse().ok()),
        command: why.command.clone(),
        before: digest(before),
        after: digest(after),
        backup: backup.to_owned(),
        undoes: why.undoes.clone(),
    }
}

fn free_name(place: &Place, base: &str) -> String {
    let mut name = base.to_owned();
    let mut n = 1;
    while place.at(&name).symlink_metadata().is_ok() {
        n += 1;
        name = format!("{base}.{n}");
    }
    name
}

struct Work<'a> {
    gate: &'a mut dyn Gate,
    dress: &'a Dress,
}

impl Work<'_> {
    /// A file with these bytes, on the disk, dressed as the table is.
    fn file(&mut self, path: &Path, bytes: &[u8]) -> Result<(), StoreError> {
        // One that a process left which was ended here; we hold the lock.
        if path.symlink_metadata().is_ok() {
            self.gate.pass("remove what was left", 0).map_err(call("remove what was left"))?;
            fs::remove_file(path).map_err(call("remove what was left"))?;
        }
        self.gate.pass("create a file beside it", 0).map_err(call("create a file beside it"))?;
        let options = OpenOptions::new().write(true).create_new(true).mode(0o600).clone();
        let mut file = options.open(path).map_err(call("create a file beside it"))?;
        self.fill(&mut file, bytes).map_err(call("write the new text"))?;
        self.dress.put_on(&file, self.gate).map_err(call("give it owner, mode and attributes"))?;
        self.gate.pass("bring it to the disk", 0).map_err(call("bring it to the disk"))?;
        file.sync_all().map_err(call("bring it to the disk"))
    }

    fn fill(&mut self, file: &mut File, bytes: &[u8]) -> io::Result<()> {
        let len = self.gate.pass("write the new text", bytes.len())?;
        file.write_all(&bytes[..len])?;
        match len < bytes.len() {
            true => Err(io::ErrorKind::StorageFull.into()),
            false => Ok(()),
        }
    }

    fn record(&mut self, history: Option<&History>, entry: &Entry) -> Result<(), StoreError> {
        const WHAT: &str = "write its history";
        self.gate.pass(WHAT, 0).map_err(call(WHAT))?;
        history.map_or(Ok(()), |history| history.add(entry)).map_err(call(WHAT))
    }

    fn rename(&mut self, from: &Path, to: &Path, what: &'static str) -> Result<(), StoreError> {
        self.gate.pass(what, 0).map_err(call(what))?;
        fs::rename(from, to).map_err(call(what))
    }

    fn sync(&mut self, place: &Place) -> Result<(), StoreError> {
        const WHAT: &str = "bring its directory to the disk";
        self.gate.pass(WHAT, 0).map_err(call(WHAT))?;
        place.sync().map_err(call(WHAT))
    }

    fn remove(&mut self, path: &Path) {
        if self.gate.pass("remove what was prepared", 0).is_ok() {
            // Often it is not there.
            let _ = fs::remove_file(path);
        }
    }
}
