//! Entries in other forms than a table: unit files of the init system, and the
//! configuration that a machine is given at its first boot.

mod cloud_init;
mod units;

pub use cloud_init::cloud_config;
pub use units::{UnitFile, unit_files};

#[cfg(test)]
mod tests;
