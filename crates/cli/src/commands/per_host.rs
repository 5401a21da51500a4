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

/// FNV-1a, 64 bits.
const FNV_BASIS: u64 = 0xcbf2_9ce4_8422_2325;
const FNV_PRIME: u64 = 0x0000_0100_0000_01b3;
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

/// A name for a directory: what could mean something in a path is left out. No two
/// hosts share one: where something is left out, the name's hash stands behind it.
pub fn folder_name(host: &str) -> PathBuf {
    let tame = |c: char| if c.is_alphanumeric() || "._-()".contains(c) { c } else { '_' };
    let name: String = host.chars().map(tame).take(200).collect();
    if name == host && !name.trim_matches('.').is_empty() {
        return PathBuf::from(name);
    }
    let hash = host.bytes().fold(FNV_BASIS, |hash, b| (hash ^ u64::from(b)).wrapping_mul(FNV_PRIME));
    PathBuf::from(format!("{name}-{hash:016x}"))
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
        assert_eq!(folder_name("gauge-01"), PathBuf::from("gauge-01"));
        for (host, start) in [("../etc", ".._etc-"), ("..", "..-"), ("", "-"), ("a/b\nc", "a_b_c-")] {
            let name = folder_name(host).to_string_lossy().into_owned();
            assert!(name.starts_with(start) && name.len() == start.len() + 16, "{host:?}: {name}");
        }
        assert_ne!(folder_name("a/b"), folder_name("a_b"));
        assert_ne!(folder_name(&"x".repeat(201)), folder_name(&"x".repeat(202)));
    }
}
