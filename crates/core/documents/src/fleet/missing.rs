//! Hosts of which there is no record, or an old one.

use bradawl_facts::size::age;
use bradawl_facts::text::{count, visible};
use serde::Serialize;

/// A host of which there is no record, or one that is too old to be believed.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct MissingHost {
    /// Its name.
    pub host: String,
    /// Its roles.
    pub roles: Vec<String>,
    /// What is missing.
    pub state: MissingState,
    /// Why its survey failed; null where that is not known, or it did not.
    pub why: Option<String>,
    /// Age of its record in seconds; null: there is none.
    pub age_s: Option<u64>,
}

/// What is missing of a host.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
#[serde(rename_all = "kebab-case")]
pub enum MissingState {
    /// Its survey failed, and there is no record of an earlier one.
    Failed,
    /// It is expected, and was never surveyed.
    NeverSurveyed,
    /// Its record is older than was asked for; it is judged all the same.
    Stale,
}

impl MissingState {
    /// The word for it, as in JSON.
    pub fn name(self) -> &'static str {
        match self {
            MissingState::Failed => "failed",
            MissingState::NeverSurveyed => "never-surveyed",
            MissingState::Stale => "stale",
        }
    }
}

impl MissingHost {
    /// Whether nothing is known of it.
    pub fn has_no_record(&self) -> bool {
        self.state != MissingState::Stale
    }

    /// What is missing, as a clause.
    pub fn words(&self) -> String {
        let why = self.why.as_deref().map(|w| format!(": {}", visible(w))).unwrap_or_default();
        match self.state {
            MissingState::Failed => format!("no record{why}"),
            MissingState::NeverSurveyed => "no record: it was never surveyed".to_owned(),
            MissingState::Stale => format!("its record is {} old", self.age_s.map_or_else(String::new, age)),
        }
    }
}

/// How many hosts are missing, for a headline; empty when none is.
pub(super) fn told(missing: &[MissingHost]) -> String {
    let without = missing.iter().filter(|m| m.has_no_record()).count();
    let stale = missing.len() - without;
    let mut parts = Vec::new();
    if without > 0 {
        let verb = if without == 1 { "has" } else { "have" };
        parts.push(format!("{without} {verb} no record"));
    }
    if stale > 0 {
        let verb = if stale == 1 { "is" } else { "are" };
        parts.push(format!("{} {verb} old", count(stale, "record")));
    }
    parts.join(", ")
}
