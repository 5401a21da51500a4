use serde::Serialize;

/// `bradawl.history/1`: what was written of a table.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct HistoryReport {
    /// Always `bradawl.history/1`.
    pub schema: &'static str,
    /// The table's path.
    pub table: String,
    /// Whether the table was changed since it was last written.
    pub changed: bool,
    /// The writes, oldest first; `--undo --to` counts them from 1.
    pub writes: Vec<TableWrite>,
}

/// One write of a table.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct TableWrite {
    /// When, in UTC: `2026-11-23T173000Z`.
    pub at: String,
    /// The user's number.
    pub uid: u32,
    /// The number of the user for whom it was done, where sudo said so.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sudo_uid: Option<u32>,
    /// The command, secrets masked.
    pub command: String,
    /// SHA-256 of the table before, in hexadecimal digits.
    pub before: String,
    /// SHA-256 of the table afterwards.
    pub after: String,
    /// The file beside the table with what was there before.
    pub backup: String,
    /// The backups of the writes that this one took back.
    pub undoes: Vec<String>,
}
