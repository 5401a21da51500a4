use std::io;

/// Why a disk inside a file cannot be read.
#[derive(Debug, thiserror::Error)]
#[non_exhaustive]
pub enum DiskImageError {
    /// The format is known, and this file of it is not read.
    #[error("is a {format} image: {why}")]
    NotRead {
        /// The format.
        format: &'static str,
        /// Why not, and what to do.
        why: String,
    },
    /// The file says it is of a format and breaks its rules.
    #[error("is a damaged {format} image: {why}")]
    Damaged {
        /// The format.
        format: &'static str,
        /// What is wrong.
        why: &'static str,
    },
    /// The file cannot be read.
    #[error(transparent)]
    Io(#[from] io::Error),
}
