//! What `install` puts in place and `uninstall` takes away.

mod pieces;
mod place;

pub use pieces::{Piece, pieces};
pub use place::{Plan, read_list, uninstall};
