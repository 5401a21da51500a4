//! What is known of the trade, as data: file system types, mount options,
//! partition types.

#![forbid(unsafe_code)]
#![deny(clippy::print_stdout, clippy::print_stderr, clippy::exit, clippy::disallowed_methods)]

pub mod command_line;
pub mod crypttab;
pub mod directories;
pub mod fstypes;
pub mod options;
pub mod packages;
pub mod partition_types;
pub mod releases;
mod systemd;

pub use systemd::SystemdVersion;

/// The day up to which the catalogue's kernels and mount programs go, for
/// `concat!`.
#[macro_export]
macro_rules! as_of {
    () => {
        "2026-11-29"
    };
}
