//! Writing a table: whole or not at all, with a backup to go back to.

mod dress;
mod gate;
mod replace;
mod stamp;
mod undo;

#[cfg(test)]
mod tests;

pub use replace::replace;
pub use undo::undo;

use std::path::PathBuf;

/// Why a table was not written. It is as it was.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The file changed since it was read.
    #[error("it changed while the new text was judged; nothing was written, look again")]
    Changed,
    /// Somebody else is writing in its folder.
    #[error("another bradawl is writing there now; nothing was written")]
    Locked,
    /// There is nothing to go back to.
    #[error("there is no backup of it in {}", .0.display())]
    NoBackup(PathBuf),
    /// A system call failed; which, and why.
    #[error("cannot {0}: {1}; the table is as it was")]
    Call(&'static str, String),
    /// The new table is in its place, but what was to follow failed.
    #[error("the new table is in its place, but: cannot {0}: {1}")]
    Late(&'static str, String),
}
