//! Writing a file whole or not at all.

use crate::outcome::CommandError;
use std::fs::{File, Permissions};
use std::io::Write as _;
use std::os::unix::fs::PermissionsExt as _;
use std::path::Path;

/// Writes the bytes under a temporary name in the same folder, brings them to
/// disk, and gives them their name. Readable by the owner only.
pub fn write(path: &Path, bytes: &[u8]) -> Result<(), CommandError> {
    write_with(path, bytes, 0o600)
}

/// The same for a file that all may read.
pub fn write_for_all(path: &Path, bytes: &[u8]) -> Result<(), CommandError> {
    write_with(path, bytes, 0o644)
}

fn write_with(path: &Path, bytes: &[u8], mode: u32) -> Result<(), CommandError> {
    let failed = |source| CommandError::Output { name: path.display().to_string(), source };
    let folder = match path.parent() {
        Some(parent) if !parent.as_os_str().is_empty() => parent,
        _ => Path::new("."),
    };
    let mut file = tempfile::NamedTempFile::new_in(folder).map_err(failed)?;
    file.write_all(bytes).map_err(failed)?;
    file.as_file().set_permissions(Permissions::from_mode(mode)).map_err(failed)?;
    file.as_file().sync_all().map_err(failed)?;
    file.persist(path).map_err(|e| failed(e.error))?;
    File::open(folder).and_then(|f| f.sync_all()).map_err(failed)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn replaces_whole_and_private() {
        let dir = tempfile::tempdir().unwrap();
        let path = dir.path().join("kelp.json");
        std::fs::write(&path, "old").unwrap();
        write(&path, b"new").unwrap();
        assert_eq!(std::fs::read(&path).unwrap(), b"new");
        assert_eq!(std::fs::metadata(&path).unwrap().permissions().mode() & 0o777, 0o600);
        assert_eq!(std::fs::read_dir(dir.path()).unwrap().count(), 1);
        assert!(write(&dir.path().join("no/such/folder"), b"x").is_err());
    }
}
