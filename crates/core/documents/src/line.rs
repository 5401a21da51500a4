use super::{HostAudit, IgnoredPolicy};
use serde::Serialize;

/// `bradawl.audit-line/1`: one host, on one line.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct AuditLine<'a> {
    /// Always `bradawl.audit-line/1`.
    pub schema: &'static str,
    /// What was found.
    #[serde(flatten)]
    pub audit: &'a HostAudit,
    /// The policy of the run; null when there is none.
    pub policy: Option<LinePolicy<'a>>,
}

/// The policy of the run, on every line.
#[derive(Debug, Serialize)]
#[cfg_attr(feature = "schema", derive(schemars::JsonSchema))]
pub struct LinePolicy<'a> {
    /// The policy file; null when only profiles are in force.
    pub file: Option<&'a str>,
    /// The shipped profiles in force.
    pub profiles: &'a [String],
    /// Policy files that were found by themselves and are not in force.
    pub ignored: &'a [IgnoredPolicy],
}

impl<'a> AuditLine<'a> {
    /// The line of a host.
    pub fn new(audit: &'a HostAudit, policy: Option<LinePolicy<'a>>) -> Self {
        AuditLine { schema: "bradawl.audit-line/1", audit, policy }
    }
}
