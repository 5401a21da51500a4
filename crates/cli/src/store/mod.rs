//! Writing a table: whole or not at all, with a backup to go back to and a
//! line in a history that says what was written.

mod dress;
mod gate;
mod history;
mod place;
mod replace;
mod stamp;
mod undo;

#[cfg(test)]
mod tests;

pub use history::{Entry, digest};
pub use place::Target;
pub use replace::{Why, create, replace};
pub use undo::{history, past, read_table as read};

/// Why a table was not written. It is as it was.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The file changed since it was read.
    #[error("it changed while the new text was judged; nothing was written, look again")]
    Changed,
    /// Somebody else is writing there.
    #[error("another bradawl is writing there now; nothing was written")]
    Locked,
    /// It is no regular file: a device, a FIFO, a directory.
    #[error("it is no regular file; nothing was written")]
    NoFile,
    /// The history is not to be believed; its name, and why.
    #[error("its history {0} is not believed: {1}")]
    History(String, String),
    /// Nothing that was written is left to take back.
    #[error("bradawl has written nothing there that could be taken back{0}")]
    NothingWritten(&'static str),
    /// The history has no such entry.
    #[error("its history has no entry {0} (--history lists them)")]
    NoEntry(usize),
    /// The backup is not what was kept.
    #[error("the backup {0} is no longer what bradawl put there; nothing was written")]
    Backup(String),
    /// A system call failed; which, and why.
    #[error("cannot {0}: {1}; the table is as it was")]
    Call(&'static str, String),
    /// The new table is in its place, but what was to follow failed.
    #[error("the new table is in its place, but: cannot {0}: {1}")]
    Late(&'static str, String),
}

fn call(what: &'static str) -> impl Fn(std::io::Error) -> StoreError {
    move |e| StoreError::Call(what, crate::input::plain(&e))
}
