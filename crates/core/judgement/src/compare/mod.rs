//! What differs, and matters: between two records of one host, between two
//! hosts, between a host and others of its role.
//!
//! Entries are compared by what they ask for, not by how they are spelled.
//! Between hosts, what differs by nature (UUIDs, names of disks) is left out.

mod devices;
mod group;
mod pair;
mod traits;

pub use group::{Common, Departure, Departures, Point, Roles, of_member};
pub use pair::{Comparison, Difference, Side, compare};
pub use traits::{Likeness, Trait, traits};

use bradawl_facts::Consequence;

/// What it weighs that something differs.
pub(crate) fn weight(harm: Consequence) -> f64 {
    match harm {
        Consequence::Halt => 8.0,
        Consequence::Stall => 4.0,
        Consequence::Missing => 3.0,
        Consequence::Risk => 2.0,
        Consequence::Note => 1.0,
    }
}
