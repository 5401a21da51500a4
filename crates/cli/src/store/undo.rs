use super::StoreError;
use super::gate::Open;
use super::replace::{BACKUP, Place, Written, call, replace_with};
use std::fs;
use std::path::{Path, PathBuf};

/// What stands between the name of a table and the time at which it was taken
/// back.
const UNDONE: &str = ".undone-";

/// Brings the last backup of a table back; what it replaces is kept too, and
/// the backup is used up. Gives what was brought back.
///
/// # Errors
/// When there is none, or as [`super::replace`].
pub fn undo(path: &Path) -> Result<(Written, PathBuf), StoreError> {
    let place = Place::of(path)?;
    let now = fs::read(&place.file).map_err(call("read it"))?;
    let mut backups = backups(&place)?;
    while let Some(backup) = backups.pop() {
        let bytes = fs::read(&backup).map_err(call("read the backup"))?;
        // One that was brought back already, when something ended us.
        if bytes != now {
            let written = replace_with(path, &now, &bytes, UNDONE, &mut Open)?;
            fs::remove_file(&backup).map_err(call("remove the backup"))?;
            return Ok((written, backup));
        }
        fs::remove_file(&backup).map_err(call("remove the backup"))?;
    }
    Err(StoreError::NoBackup(place.folder))
}

/// The backups of a table, oldest first.
fn backups(place: &Place) -> Result<Vec<PathBuf>, StoreError> {
    let start = format!("{}{BACKUP}", place.name);
    let folder = fs::read_dir(&place.folder).map_err(call("read its folder"))?;
    let named = |entry: &fs::DirEntry| entry.file_name().to_string_lossy().starts_with(&start);
    let mut all: Vec<PathBuf> = folder.flatten().filter(named).map(|e| e.path()).collect();
    all.sort();
    Ok(all)
}
