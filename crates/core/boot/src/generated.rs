//! What the host's own generator made, where it was asked about the table at
//! hand.

use bradawl_facts::map::Set;
use bradawl_facts::record::{Generated, Record};

/// Its answer about this table.
pub(crate) fn about<'r>(record: &'r Record, table: &[u8]) -> Option<&'r Generated> {
    record.generated.as_ref().filter(|g| g.table.bytes().as_deref() == Some(table))
}

/// The units that it makes of this table.
pub(crate) fn units<'r>(record: &'r Record, table: &[u8]) -> Option<Set<&'r str>> {
    Some(about(record, table)?.made.iter().filter_map(|line| line.strip_prefix("unit ")).collect())
}
