//! A directory for each of many hosts.

use crate::outcome::CommandError;
use crate::output::{self, Readers};
use crate::views;
use anstream::adapter::strip_str;
use bradawl_documents::RollOut;
use bradawl_facts::table::Table;
use serde::Serialize;
use std::os::unix::fs::DirBuilderExt as _;
use std::path::{Path, PathBuf};

/// Files are read by programs, at this width or any.
const WIDTH: usize = 80;

/// Writes what one host is to get: the tables before and after, the difference, the
/// steps, and the document of the command that made it. Returns the directory.
pub fn hand_out(
    into: &Path,
    out: &RollOut,
    (old, new): (&Table, &Table),
    (name, document): (&str, &impl Serialize),
) -> Result<PathBuf, CommandError> {
    let folder = into.join(folder_name(&out.host));
    make(&folder)?;
    let put = |name: &str, text: &[u8]| output::write(&folder.join(name), text, Readers::Owner);
    put("fstab", new.bytes())?;
    put("fstab.before", old.bytes())?;
    put("fstab.patch", plain(&views::mend::diff(&out.table, old, new)).as_bytes())?;
    put("steps.txt", plain(&views::steps::steps(&out.steps, WIDTH)).as_bytes())?;
    put("roll-out.json", (views::json_whole(out) + "\n").as_bytes())?;
    put(name, (views::json_whole(document) + "\n").as_bytes())?;
    Ok(folder)
}

/// Text without its colours, for files.
fn plain(text: &str) -> String {
    strip_str(text).to_string()
}

/// A name for a directory: what could mean something in a path is left out.
pub fn folder_name(host: &str) -> PathBuf {
    let tame = |c: char| if c.is_alphanumeric() || "._-()".contains(c) { c } else { '_' };
    let name: String = host.chars().map(tame).take(200).collect();
    PathBuf::from(if name.trim_matches('.').is_empty() { "_".to_owned() } else { name })
}

/// Makes it, for its owner alone.
pub fn make(folder: &Path) -> Result<(), CommandError> {
    let made = std::fs::DirBuilder::new().recursive(true).mode(0o700).create(folder);
    made.map_err(|source| CommandError::Output { name: folder.display().to_string(), source })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn hostile_names_stay_below_the_directory() {
        for (host, name) in
            [("gauge-01", "gauge-01"), ("../etc", ".._etc"), ("..", "_"), ("", "_"), ("a/b\nc", "a_b_c")]
        {
            assert_eq!(folder_name(host), PathBuf::from(name), "{host:?}");
        }
    }
}
