use serde::Serialize;

/// Stands before an entry that was switched off, so that it can be switched
/// on again as it was.
pub const OFF_MARK: &str = "# off: ";

/// New text for a place in the table.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct Edit {
    /// Line, from 1.
    pub line: usize,
    /// First and last column to replace, from 1.
    pub columns: [usize; 2],
    /// What to put there.
    pub text: String,
}
