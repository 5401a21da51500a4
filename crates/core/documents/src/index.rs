use serde::Serialize;

/// `bradawl.index/1`: what a survey of many hosts brought.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct SurveyIndex {
    /// Always `bradawl.index/1`.
    pub schema: &'static str,
    /// How many records are there, those of earlier runs among them.
    pub records: usize,
    /// How many hosts failed.
    pub failed: usize,
    /// Each host, as they were named.
    pub hosts: Vec<IndexLine>,
}

/// One host of a survey.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct IndexLine {
    /// The name it was asked for by.
    pub host: String,
    /// Its roles.
    pub roles: Vec<String>,
    /// How it ended.
    pub state: SurveyState,
    /// Its record, in the same directory; null: there is none.
    pub record: Option<String>,
    /// Why there is none; null: there is one.
    pub why: Option<String>,
    /// How often it was tried.
    pub tries: usize,
    /// Seconds it took.
    pub took_s: f64,
}

/// How the survey of one host ended.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "lowercase")]
pub enum SurveyState {
    /// A record was taken.
    Taken,
    /// A record was there already.
    Kept,
    /// There is none.
    Failed,
}

impl SurveyIndex {
    /// The index of these hosts.
    pub fn new(hosts: Vec<IndexLine>) -> Self {
        let failed = hosts.iter().filter(|h| h.state == SurveyState::Failed).count();
        SurveyIndex { schema: "bradawl.index/1", records: hosts.len() - failed, failed, hosts }
    }
}
