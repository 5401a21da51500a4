use super::WrittenFile;
use crate::shapes::{FindingShape, FreshShape, SkippedShape};
use bradawl_change::adopt::{Adoption, Skipped};
use bradawl_change::edit::Fresh;
use bradawl_judgement::Judgement;
use bradawl_judgement::rules::Finding;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.adopt/1`: a table for what is mounted.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct AdoptReport {
    /// Always `bradawl.adopt/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table's path, where it would be written.
    pub table: String,
    /// The whole table; bytes that are no text are replaced.
    pub text: String,
    /// The entries that are new in it.
    #[serde_as(as = "Vec<FreshShape>")]
    pub added: Vec<Fresh>,
    /// What is mounted and got no entry.
    #[serde_as(as = "Vec<SkippedShape>")]
    pub skipped: Vec<Skipped>,
    /// What a whole table would have, and names that could not be had.
    pub notes: Vec<String>,
    /// The boot with it, in one sentence.
    pub verdict: String,
    /// What is found wrong with it, worst first.
    #[serde_as(as = "Vec<FindingShape>")]
    pub findings: Vec<Finding>,
    /// What was written; null: nothing.
    pub written: Option<WrittenFile>,
}

impl AdoptReport {
    /// The report on a table, with what is said of it.
    pub fn new(host: &str, path: &str, adoption: Adoption, judged: Judgement) -> Self {
        AdoptReport {
            schema: "bradawl.adopt/1",
            host: host.to_owned(),
            table: path.to_owned(),
            text: String::from_utf8_lossy(adoption.table.bytes()).into_owned(),
            added: adoption.added,
            skipped: adoption.skipped,
            notes: adoption.notes,
            verdict: judged.forecast.verdict.to_string(),
            findings: judged.findings,
            written: None,
        }
    }
}
