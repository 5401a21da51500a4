//! The pages of the documentation.

use std::path::{Path, PathBuf};

/// README.md and every page below docs/, but the one that is made of help texts.
pub fn pages(root: &Path) -> Vec<PathBuf> {
    let (mut found, mut waiting) = (vec![root.join("README.md")], vec![root.join("docs")]);
    while let Some(directory) = waiting.pop() {
        for path in std::fs::read_dir(directory).unwrap().map(|e| e.unwrap().path()) {
            if path.is_dir() {
                waiting.push(path);
            } else if path.extension().is_some_and(|e| e == "md") && !path.ends_with("commands.md") {
                found.push(path);
            }
        }
    }
    found.sort();
    found
}
