//! Files that nobody named are believed only when nobody else can have written
//! them, as ssh and sudo believe their files.

use std::fs::{self, Metadata};
use std::os::unix::fs::MetadataExt as _;
use std::path::{Path, PathBuf};

/// The file itself, when it and everything on the way to it belong to root or
/// the caller, and nobody else may write there.
pub fn believed(path: &Path) -> Result<PathBuf, String> {
    let plain = |e: std::io::Error| crate::input::plain(&e);
    let real = fs::canonicalize(path).map_err(plain)?;
    let meta = fs::metadata(&real).map_err(plain)?;
    if !meta.is_file() {
        return Err("it is no regular file".to_owned());
    }
    alone(&meta, "it")?;
    // The directory that a link lies in decides where it leads.
    let linked = path.parent().and_then(|folder| fs::canonicalize(folder).ok());
    for start in [real.parent(), linked.as_deref()].into_iter().flatten() {
        for folder in start.ancestors() {
            let meta = fs::metadata(folder).map_err(plain)?;
            alone(&meta, &folder.display().to_string())?;
        }
    }
    Ok(real)
}

/// Where the sticky bit keeps others from replacing what is ours.
const STICKY: u32 = 0o1000;

fn alone(meta: &Metadata, what: &str) -> Result<(), String> {
    let own = rustix::process::geteuid().as_raw();
    if meta.uid() != 0 && meta.uid() != own {
        return Err(format!("{what} belongs to another user ({})", meta.uid()));
    }
    let kept = meta.is_dir() && meta.mode() & STICKY != 0;
    match meta.mode() & 0o022 {
        0 => Ok(()),
        _ if kept => Ok(()),
        _ => Err(format!("others may write {what} (mode {:04o})", meta.mode() & 0o7777)),
    }
}
