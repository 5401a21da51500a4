//! From a table that was judged to a file that was written, for every command
//! that writes one.

use crate::outcome::CommandError;
use crate::store::{self, Target, Why};
use bradawl_documents::WrittenFile;
use bradawl_facts::table::Table;
use bradawl_facts::text::quoted;
use bradawl_facts::{secrets, text};
use std::path::Path;

/// What the history keeps of a command line.
const MAX_COMMAND: usize = 400;

/// Writes a table in place of another, and says so in its history. `undoes`:
/// the backups of the writes that this takes back.
pub fn replace(
    target: Target<'_>,
    old: &Table,
    new: &Table,
    undoes: Vec<String>,
) -> Result<WrittenFile, CommandError> {
    let why = Why { command: command_line(), undoes };
    let written = store::replace(target, old.bytes(), new.bytes(), &why);
    let written = written.map_err(|e| CommandError::input(shown(target), e))?;
    let path = |path: &Path| path.display().to_string();
    Ok(WrittenFile {
        file: path(&written.file),
        backup: path(&written.backup),
        unrecorded: written.unrecorded,
    })
}

/// Writes a table where none is.
pub fn create(target: Target<'_>, new: &Table) -> Result<WrittenFile, CommandError> {
    let file = store::create(target, new.bytes()).map_err(|e| CommandError::input(shown(target), e))?;
    Ok(WrittenFile { file: file.display().to_string(), backup: String::new(), unrecorded: None })
}

/// How a target is named in messages.
pub fn shown(target: Target<'_>) -> String {
    match target {
        Target::File(path) => path.display().to_string(),
        Target::Tree(root) => root.join("etc/fstab").display().to_string(),
    }
}

/// The command as it was given, to be kept: quoted, bounded, secrets masked.
fn command_line() -> String {
    let words = std::env::args_os().skip(1).map(|word| quoted(&word.to_string_lossy()));
    let line = words.collect::<Vec<_>>().join(" ");
    text::visible(&secrets::masked(&line)).chars().take(MAX_COMMAND).collect()
}
