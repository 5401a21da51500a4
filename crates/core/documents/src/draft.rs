use super::WrittenFile;
use crate::shapes::{DraftShape, FindingShape};
use bradawl_change::draft::Draft;
use bradawl_judgement::Judgement;
use bradawl_judgement::rules::Finding;
use serde::Serialize;
use serde_with::serde_as;

/// `bradawl.draft/1`: an entry that is proposed.
#[serde_as]
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct DraftReport {
    /// Always `bradawl.draft/1`.
    pub schema: &'static str,
    /// Host name.
    pub host: String,
    /// The table it was judged in.
    pub table: String,
    /// The line as it would stand there.
    pub text: String,
    /// Its number there.
    pub line: usize,
    /// The entry, the choices and the steps.
    #[serde(flatten)]
    #[serde_as(as = "DraftShape")]
    pub draft: Draft,
    /// The boot with it, in one sentence.
    pub verdict: String,
    /// Whether the boot without the entry comes to no login either.
    pub stops_without_it: bool,
    /// What is found wrong on the line itself, worst first.
    #[serde_as(as = "Vec<FindingShape>")]
    pub findings: Vec<Finding>,
    /// What gets worse by it.
    pub worse: Vec<String>,
    /// What was written; null: nothing.
    pub written: Option<WrittenFile>,
}

impl DraftReport {
    /// The report on an entry that stands on this line of a table.
    pub fn new(
        host: &str,
        path: &str,
        (line, text): (usize, String),
        draft: Draft,
        (before, with): (&Judgement, Judgement),
        worse: Vec<String>,
    ) -> Self {
        let mut findings = with.findings;
        findings.retain(|f| f.line == Some(line));
        DraftReport {
            schema: "bradawl.draft/1",
            host: host.to_owned(),
            table: path.to_owned(),
            text,
            line,
            draft,
            verdict: with.forecast.verdict.to_string(),
            stops_without_it: !before.forecast.outcome.reaches_login(),
            findings,
            worse,
            written: None,
        }
    }
}
