//! A directory for each of many hosts.

use crate::outcome::CommandError;
use anstream::adapter::strip_str;
use std::os::unix::fs::DirBuilderExt as _;
use std::path::{Path, PathBuf};

/// Text without its colours, for files.
pub fn plain(text: &str) -> String {
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
