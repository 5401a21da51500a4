use super::StoreError;
use super::history::{Entry, History, digest};
use super::place::{Place, Target};
use super::replace::{BACKUP, read};

/// A write that could be taken back.
#[derive(Debug)]
pub struct Past {
    /// The table as it is.
    pub now: Vec<u8>,
    /// The table as it was before the write.
    pub before: Vec<u8>,
    /// The write that is taken back; with those after it.
    pub entry: Entry,
    /// The backups of all the writes that are taken back.
    pub undoes: Vec<String>,
    /// Whether the table is no longer what was written last.
    pub changed: bool,
}

/// The table that is there; `None`: none is.
pub fn read_table(target: Target<'_>) -> Result<Option<Vec<u8>>, StoreError> {
    if !Place::is_taken(target) {
        return Ok(None);
    }
    let place = Place::of(target)?;
    Ok(Some(read(&place, &place.name)?.1))
}

/// The writes of a table that took place, oldest first, and whether the table
/// is still as the last of them left it.
pub fn history(target: Target<'_>) -> Result<(Vec<Entry>, bool), StoreError> {
    let place = Place::of(target)?;
    let now = digest(&read(&place, &place.name)?.1);
    let entries = took_place(History::read(&place)?, &now);
    let changed = entries.last().is_some_and(|last| last.after != now);
    Ok((entries, changed))
}

/// The table before a write: entry `to` of the history, from 1; without, the
/// last write that is not taken back yet.
///
/// # Errors
/// When there is none, or its backup is not what was kept.
pub fn past(target: Target<'_>, to: Option<usize>) -> Result<Past, StoreError> {
    let place = Place::of(target)?;
    let now = read(&place, &place.name)?.1;
    let entries = took_place(History::read(&place)?, &digest(&now));
    let taken_back: Vec<&String> = entries.iter().flat_map(|e| &e.undoes).collect();
    let at = match to {
        Some(n) => n.checked_sub(1).filter(|n| *n < entries.len()).ok_or(StoreError::NoEntry(n))?,
        None => {
            let stands = |e: &Entry| e.undoes.is_empty() && !taken_back.contains(&&e.backup);
            entries.iter().rposition(stands).ok_or_else(|| StoreError::NothingWritten(strangers(&place)))?
        }
    };
    let entry = entries[at].clone();
    let later = entries[at..].iter().filter(|e| e.undoes.is_empty() && !taken_back.contains(&&e.backup));
    let mut undoes: Vec<String> = later.map(|e| e.backup.clone()).collect();
    if undoes.is_empty() {
        undoes.push(entry.backup.clone());
    }
    let broken = || StoreError::Backup(place.folder.join(&entry.backup).display().to_string());
    // No name leads elsewhere, whoever wrote the history.
    if entry.backup.contains('/') {
        return Err(broken());
    }
    let before = read(&place, &entry.backup).map_err(|_| broken())?.1;
    if digest(&before) != entry.before {
        return Err(broken());
    }
    let changed = entries.last().is_some_and(|last| last.after != digest(&now));
    Ok(Past { now, before, entry, undoes, changed })
}

/// A write that was ended before the new table was in its place left an entry;
/// what came next began with the same bytes.
fn took_place(mut entries: Vec<Entry>, now: &str) -> Vec<Entry> {
    let mut next = now.to_owned();
    let mut kept = Vec::new();
    while let Some(entry) = entries.pop() {
        if entry.before != next || entry.before == entry.after {
            next.clone_from(&entry.before);
            kept.push(entry);
        }
    }
    kept.reverse();
    kept
}

/// What to say of files that look like backups and are none of ours.
fn strangers(place: &Place) -> &'static str {
    let start = format!("{}{BACKUP}", place.name);
    let folder = std::fs::read_dir(place.at(".")).into_iter().flatten().flatten();
    match folder.into_iter().any(|e| e.file_name().to_string_lossy().starts_with(&start)) {
        true => "; files called .before-… beside it are not in its history and are left alone",
        false => "",
    }
}
