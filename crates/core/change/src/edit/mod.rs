//! Changes to the text of a table. Lines that are not asked for keep their
//! bytes. On a changed line the other fields stay in their columns, where
//! blanks behind the changed one leave room for that.

mod align;
mod change;
mod fields;
mod insert;
mod lines;
mod names;

pub use align::align;
pub use change::{Change, EditError, changed, idle};
pub use fields::{set_field, with_options};
pub use insert::{Fresh, insert, place_for};
pub use lines::{moved, ordered, switched_off, switched_on, without_repeats};
pub use names::{By, name_by};

pub use bradawl_facts::table::apply;
use bradawl_facts::table::replaced;
use bradawl_facts::table::{Entry, Table};

/// The entry on a line.
pub fn entry_on(table: &Table, line: usize) -> Option<Entry> {
    Entry::read(table, table.line(line)?)
}
