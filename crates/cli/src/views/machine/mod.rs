//! Results for other programs, in the forms that they know.

mod csv;
mod junit;
mod prometheus;
mod sarif;

pub use self::csv::csv;
pub use junit::junit;
pub use prometheus::prometheus;
pub use sarif::sarif;

use crate::outcome::CommandError;
use crate::policy::InForce;
use bradawl_documents::{HostAudit, IgnoredPolicy};
use serde::Serialize;

/// `bradawl.audit-line/1`: one host, on one line.
#[derive(Serialize)]
struct Line<'a> {
    schema: &'static str,
    #[serde(flatten)]
    audit: &'a HostAudit,
    policy: Option<Policy<'a>>,
}

/// The policy of the run, on every line.
#[derive(Serialize)]
struct Policy<'a> {
    file: Option<&'a str>,
    profiles: &'a [String],
    ignored: &'a [IgnoredPolicy],
}

/// One host's audit as a line of JSON.
pub fn jsonl(audit: &HostAudit, force: &InForce) -> Result<String, CommandError> {
    let policy = (force.policy.is_some() || !force.ignored.is_empty()).then(|| Policy {
        file: force.policy.as_ref().map(|p| p.name.as_str()).filter(|n| !n.is_empty()),
        profiles: force.policy.as_ref().map_or(&[], |p| p.profiles.as_slice()),
        ignored: &force.ignored,
    });
    let line = Line { schema: "bradawl.audit-line/1", audit, policy };
    crate::views::json_line(&line)
}
