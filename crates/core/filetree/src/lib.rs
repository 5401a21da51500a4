//! Files inside XFS and Btrfs file systems that are not mounted, and inside tar
//! archives of a root, read from their bytes alone: no journal is replayed, nothing is written, and whatever
//! the bytes say, time and memory are bounded.
//!
//! Layouts: "XFS Algorithms & Data Structures" and btrfs-dev-docs, "On-disk
//! format" and "Trees".

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

mod btrfs;
mod disk;
mod tar;
mod walk;
mod xfs;

pub use btrfs::Btrfs;
pub use tar::Tar;
pub use walk::FileTree;
pub use xfs::Xfs;

use std::fmt;

/// What kind of file a node is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum FileKind {
    /// A directory.
    Directory,
    /// A regular file.
    Regular,
    /// A symbolic link.
    Link,
    /// A device, a FIFO or a socket.
    Other,
}

impl FileKind {
    /// From the upper bits of a mode.
    fn of_mode(mode: u32) -> Self {
        match mode & 0o170_000 {
            0o040_000 => FileKind::Directory,
            0o100_000 => FileKind::Regular,
            0o120_000 => FileKind::Link,
            _ => FileKind::Other,
        }
    }
}

/// What an inode says of itself.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Meta {
    /// What kind of file it is.
    pub kind: FileKind,
    /// Permission bits, with set-user-ID, set-group-ID and sticky.
    pub mode: u32,
    /// Its owner.
    pub uid: u32,
    /// Its size in bytes.
    pub size: u64,
}

/// Why something could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum TreeError {
    /// There is no such file.
    NotFound,
    /// Something on the way to it is no directory.
    NotADirectory,
    /// Symbolic links lead to each other.
    TooManyLinks,
    /// The file is larger than was asked for.
    TooLarge,
    /// It is no regular file.
    NotRegular,
    /// The bytes do not hold together, or lie outside the device.
    Damaged,
    /// There is more to look through than is allowed.
    TooMuch,
    /// Part of it lies on another device.
    ElsewhereStored,
    /// It is stored in a way that is not read here.
    NotRead(&'static str),
}

impl fmt::Display for TreeError {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            TreeError::NotFound => "there is no such file",
            TreeError::NotADirectory => "something on the way to it is no directory",
            TreeError::TooManyLinks => "its symbolic links lead to each other",
            TreeError::TooLarge => "the file is too large",
            TreeError::NotRegular => "it is no regular file",
            TreeError::Damaged => "the file system is damaged here",
            TreeError::TooMuch => "there is too much to look through",
            TreeError::ElsewhereStored => "part of it lies on another device",
            TreeError::NotRead(what) => what,
        })
    }
}

impl std::error::Error for TreeError {}
