//! From a path to a node: the same for each file system.

use crate::{FileKind, Meta, TreeError};
use std::collections::VecDeque;

/// Links on the way to a file, as the kernel bounds them.
const MAX_LINKS: usize = 40;
/// Longer paths are nobody's.
const MAX_PATH: usize = 4096;
const MAX_PARTS: usize = 1000;

/// The nodes of a file system.
pub(crate) trait Nodes {
    type Node: Copy;

    fn root(&self) -> Self::Node;
    fn meta(&self, node: Self::Node) -> Result<Meta, TreeError>;
    /// What a directory has under this name.
    fn child(&self, folder: Self::Node, name: &[u8]) -> Result<Option<Self::Node>, TreeError>;
    /// Names in a directory, without `.` and `..`, at most so many.
    fn names(&self, folder: Self::Node, limit: usize) -> Result<Vec<Vec<u8>>, TreeError>;
    /// The first bytes of a file or link, as many as its size says.
    fn bytes(&self, node: Self::Node, size: usize) -> Result<Vec<u8>, TreeError>;
}

/// Files by their paths from the root of a file system; symbolic links are
/// followed and never lead out of it.
pub trait FileTree {
    /// What is at a path.
    ///
    /// # Errors
    /// When there is nothing, or the bytes do not tell.
    fn stat(&self, path: &str) -> Result<Meta, TreeError>;

    /// A regular file of at most `limit` bytes.
    ///
    /// # Errors
    /// When it is none, is larger, or the bytes do not tell.
    fn read(&self, path: &str, limit: u64) -> Result<Vec<u8>, TreeError>;

    /// The first `len` bytes of a regular file, or all of a shorter one.
    ///
    /// # Errors
    /// When it is none, or the bytes do not tell.
    fn head(&self, path: &str, len: usize) -> Result<Vec<u8>, TreeError>;

    /// Names in a directory, without `.` and `..`, at most `limit`.
    ///
    /// # Errors
    /// When it is none, or the bytes do not tell.
    fn list(&self, path: &str, limit: usize) -> Result<Vec<Vec<u8>>, TreeError>;

    /// The path without links.
    ///
    /// # Errors
    /// When there is nothing at the path, or the bytes do not tell.
    fn canonical(&self, path: &str) -> Result<String, TreeError>;

    /// Where the link of this name leads, as it stands.
    ///
    /// # Errors
    /// When it is no link, or the bytes do not tell.
    fn link(&self, path: &str) -> Result<Vec<u8>, TreeError>;
}

impl<T: Nodes> FileTree for T {
    fn stat(&self, path: &str) -> Result<Meta, TreeError> {
        self.meta(walk(self, path, true)?.0)
    }

    fn read(&self, path: &str, limit: u64) -> Result<Vec<u8>, TreeError> {
        let node = walk(self, path, true)?.0;
        let meta = self.meta(node)?;
        match meta.kind {
            FileKind::Regular if meta.size > limit => Err(TreeError::TooLarge),
            FileKind::Regular => {
                self.bytes(node, usize::try_from(meta.size).map_err(|_| TreeError::TooLarge)?)
            }
            _ => Err(TreeError::NotRegular),
        }
    }

    fn head(&self, path: &str, len: usize) -> Result<Vec<u8>, TreeError> {
        let node = walk(self, path, true)?.0;
        let meta = self.meta(node)?;
        match meta.kind {
            FileKind::Regular => {
                self.bytes(node, usize::try_from(meta.size).map_or(len, |size| size.min(len)))
            }
            _ => Err(TreeError::NotRegular),
        }
    }

    fn list(&self, path: &str, limit: usize) -> Result<Vec<Vec<u8>>, TreeError> {
        let node = walk(self, path, true)?.0;
        match self.meta(node)?.kind {
            FileKind::Directory => self.names(node, limit),
            _ => Err(TreeError::NotADirectory),
        }
    }

    fn canonical(&self, path: &str) -> Result<String, TreeError> {
        let parts = walk(self, path, true)?.1;
        let parts: Vec<_> = parts.iter().map(|p| String::from_utf8_lossy(p)).collect();
        Ok(format!("/{}", parts.join("/")))
    }

    fn link(&self, path: &str) -> Result<Vec<u8>, TreeError> {
        let node = walk(self, path, false)?.0;
        target(self, node)?.ok_or(TreeError::NotFound)
    }
}

/// Where a link leads, as it stands; `None`: it is no link.
fn target<T: Nodes>(tree: &T, node: T::Node) -> Result<Option<Vec<u8>>, TreeError> {
    let meta = tree.meta(node)?;
    let size = usize::try_from(meta.size).ok().filter(|n| *n <= MAX_PATH);
    match meta.kind {
        FileKind::Link => Ok(Some(tree.bytes(node, size.ok_or(TreeError::Damaged)?)?)),
        _ => Ok(None),
    }
}

/// The node at a path with the names that lead to it; the link at its end is
/// followed or not.
pub(crate) fn walk<T: Nodes>(
    tree: &T,
    path: &str,
    follow: bool,
) -> Result<(T::Node, Vec<Vec<u8>>), TreeError> {
    let mut todo: VecDeque<Vec<u8>> = parts(path.as_bytes()).collect();
    let mut way: Vec<(T::Node, Vec<u8>)> = Vec::new();
    let mut links = 0;
    while let Some(part) = todo.pop_front() {
        if todo.len() + way.len() > MAX_PARTS {
            return Err(TreeError::TooMuch);
        }
        let at = way.last().map_or_else(|| tree.root(), |(node, _)| *node);
        if tree.meta(at)?.kind != FileKind::Directory {
            return Err(TreeError::NotADirectory);
        }
        if part == b".." {
            way.pop();
            continue;
        }
        let child = tree.child(at, &part)?.ok_or(TreeError::NotFound)?;
        let to = if follow || !todo.is_empty() { target(tree, child)? } else { None };
        let Some(to) = to else {
            way.push((child, part));
            continue;
        };
        links += 1;
        if links > MAX_LINKS {
            return Err(TreeError::TooManyLinks);
        }
        if to.first() == Some(&b'/') {
            way.clear();
        }
        parts(&to).rev().for_each(|part| todo.push_front(part));
    }
    let node = way.last().map_or_else(|| tree.root(), |(node, _)| *node);
    Ok((node, way.into_iter().map(|(_, name)| name).collect()))
}

fn parts(path: &[u8]) -> impl DoubleEndedIterator<Item = Vec<u8>> + '_ {
    path.split(|b| *b == b'/').filter(|p| !p.is_empty() && *p != b".").map(<[u8]>::to_vec)
}
