//! What a source names: from the words in a table to devices, and back.

mod disagree;
mod doubt;
mod gathered;
mod identity;
mod index;
mod link;
mod looks;
mod names;
mod source;
mod suggest;
pub(crate) use source::is_network_type;

pub use disagree::stale_links;
pub(crate) use disagree::unread_partitions;
pub use identity::{Identity, Stable, identities};
pub use index::{Index, Near, Purpose, Resolution};
pub use link::{decode_link, encode_link};
pub use names::{best_identity, is_kernel_name};
pub use source::{Source, Tag};
pub use suggest::{LookAlikes, suggest};
