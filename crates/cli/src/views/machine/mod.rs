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
use bradawl_core::report::HostAudit;
use serde::Serialize;

/// `bradawl.audit-line/1`: one host, on one line.
#[derive(Serialize)]
struct Line<'a> {
    schema: &'static str,
    #[serde(flatten)]
    audit: &'a HostAudit,
}

/// One host's audit as a line of JSON.
pub fn jsonl(audit: &HostAudit) -> Result<String, CommandError> {
    let line = Line { schema: "bradawl.audit-line/1", audit };
    crate::views::json_line(&line)
}
