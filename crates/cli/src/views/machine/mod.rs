//! Results for other programs, in the forms that they know.

mod csv;
mod junit;
mod prometheus;
mod sarif;

pub use self::csv::{cell, csv};
pub use junit::junit;
pub use prometheus::prometheus;
pub use sarif::sarif;

use crate::outcome::CommandError;
use crate::policy::InForce;
use bradawl_documents::{AuditLine, HostAudit, LinePolicy};

/// One host's audit as a line of JSON.
pub fn jsonl(audit: &HostAudit, force: &InForce) -> Result<String, CommandError> {
    let policy = (force.policy.is_some() || !force.ignored.is_empty()).then(|| LinePolicy {
        file: force.policy.as_ref().map(|p| p.name.as_str()).filter(|n| !n.is_empty()),
        profiles: force.policy.as_ref().map_or(&[], |p| p.profiles.as_slice()),
        ignored: &force.ignored,
    });
    crate::views::json_line(&AuditLine::new(audit, policy))
}
