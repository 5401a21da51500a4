//! What a source names: from the words in a table to devices, and back.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

mod absent;
mod by_program;
mod disagree;
mod dormant;
mod doubt;
mod gathered;
mod identity;
mod image;
mod index;
mod link;
mod looks;
mod names;
mod pairs;
mod passing;
mod purpose;
mod reordered;
mod source;
mod suggest;
mod usage;
pub use source::is_network_type;

pub use absent::take_away;
pub use by_program::ByProgram;
pub use disagree::stale_links;
pub use disagree::unread_partitions;
pub use dormant::{dormant, is_read_through};
pub use gathered::Gathered;
pub use identity::{Identity, Stable, identities};
pub use image::ImageSource;
pub use index::{Index, Near, Resolution};
pub use link::{decode_link, encode_link};
pub use names::{best_identity, is_kernel_name};
pub use pairs::same_devices;
pub use passing::Passing;
pub use purpose::Purpose;
pub use reordered::{rename, reorder_usb};
pub use source::{Source, Tag};
pub use suggest::{LookAlikes, suggest};
pub use usage::{DeviceUse, Use, Uses};
