//! A line for each host (RFC 4180).

use crate::outcome::CommandError;
use bradawl_documents::PolicyUse;
use bradawl_documents::fleet::FleetReport;
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;
use std::io;

/// The hosts, worst first.
pub fn csv(report: &FleetReport) -> Result<String, CommandError> {
    let mut out = ::csv::Writer::from_writer(Vec::new());
    let failed = |e: ::csv::Error| CommandError::from(io::Error::other(e));
    let head = ["host", "roles", "outcome", "wait_s"];
    let counts = Consequence::ALL.map(Consequence::name);
    out.write_record(head.iter().chain(&counts).chain(&["silenced", "policy", "verdict"])).map_err(failed)?;
    let policy = report.policy.as_ref().map(policy_words).unwrap_or_default();
    for host in &report.hosts {
        let outcome = host.outcome.map_or("", |o| o.name());
        let wait = host.stall_s.map_or_else(|| "inf".to_owned(), |s| s.to_string());
        let mut row = vec![cell(&host.host), cell(&host.roles.join(" ")), outcome.to_owned(), wait];
        row.extend(Consequence::ALL.map(|c| host.totals.get(c).to_string()));
        row.extend([host.silenced.to_string(), cell(&policy), cell(&host.verdict)]);
        out.write_record(&row).map_err(failed)?;
    }
    for missing in report.missing.iter().filter(|m| m.has_no_record()) {
        let mut row =
            vec![cell(&missing.host), cell(&missing.roles.join(" ")), "no-record".to_owned(), String::new()];
        row.extend(Consequence::ALL.map(|_| String::new()));
        row.extend([String::new(), cell(&policy), cell(&missing.words())]);
        out.write_record(&row).map_err(failed)?;
    }
    let bytes = out.into_inner().map_err(|e| io::Error::other(e.to_string()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// The policy of the run in a cell.
fn policy_words(policy: &PolicyUse) -> String {
    let profiles = policy.profiles.iter().map(|p| format!("profile {p}"));
    let ignored = policy.ignored.iter().map(|p| format!("not in force: {}", p.file));
    policy.file.iter().cloned().chain(profiles).chain(ignored).collect::<Vec<_>>().join("; ")
}

/// Text that no spreadsheet takes for a formula.
pub fn cell(text: &str) -> String {
    let shown = visible(text);
    match shown.starts_with(['=', '+', '-', '@']) {
        true => format!("'{shown}"),
        false => shown.into_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_documents::HostAudit;
    use bradawl_documents::fleet::Fleet;

    #[test]
    fn hostile_names_are_no_formulas() {
        let mut fleet = Fleet::default();
        fleet.add(&HostAudit::empty("=cmd|'/c calc'!A1,\"x\""));
        let text = csv(&fleet.report(Vec::new(), None)).unwrap();
        assert_eq!(
            text,
            "host,roles,outcome,wait_s,halt,stall,missing,risk,note,silenced,policy,verdict\n\
             \"'=cmd|'/c calc'!A1,\"\"x\"\"\",,,0,0,0,0,0,0,0,,\n"
        );
    }
}
