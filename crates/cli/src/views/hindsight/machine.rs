//! The last boots of many hosts, for programs.

use crate::outcome::CommandError;
use crate::views::machine::cell;
use bradawl_documents::hindsight::HindsightFleet;
use bradawl_documents::shapes::{AgreementShape, EndedShape, in_shape};
use bradawl_facts::text::visible;
use std::io;

/// A row for each host.
///
/// # Errors
/// Never in practice: it is written to memory.
pub fn csv(report: &HindsightFleet) -> Result<String, CommandError> {
    let mut out = ::csv::Writer::from_writer(Vec::new());
    let failed = |e: ::csv::Error| CommandError::from(io::Error::other(e));
    out.write_record(["host", "ended", "ended_at_s", "agreement", "differed", "slowest_s", "slowest"])
        .map_err(failed)?;
    for host in &report.hosts {
        let number = |n: Option<f64>| n.map(|n| n.to_string()).unwrap_or_default();
        let row = [
            cell(&host.host),
            name(&in_shape::<_, EndedShape>(&host.ended)),
            number(host.ended_at_s),
            name(&in_shape::<_, AgreementShape>(&host.agreement)),
            cell(&host.differed.join(" ")),
            number(host.slowest.as_ref().map(|(s, _)| *s)),
            cell(host.slowest.as_ref().map_or("", |(_, unit)| unit)),
        ];
        out.write_record(&row).map_err(failed)?;
    }
    let bytes = out.into_inner().map_err(|e| io::Error::other(e.to_string()))?;
    Ok(String::from_utf8_lossy(&bytes).into_owned())
}

/// The word for it, as in JSON.
fn name(value: &impl serde::Serialize) -> String {
    serde_json::to_value(value).ok().and_then(|v| v.as_str().map(str::to_owned)).unwrap_or_default()
}

/// How often forecasts were right, for a time series database.
pub fn prometheus(report: &HindsightFleet) -> String {
    let mut out = String::new();
    for (what, all) in [("boots", &report.boots), ("entries", &report.entries)] {
        out.push_str(&format!(
            "# HELP bradawl_hindsight_{what} The last {what}, by whether they ended as forecast.\n# TYPE bradawl_hindsight_{what} gauge\n"
        ));
        for (word, n) in [("agreed", all.agreed), ("differed", all.differed), ("not-known", all.not_known)] {
            out.push_str(&format!("bradawl_hindsight_{what}{{agreement=\"{word}\"}} {n}\n"));
        }
    }
    out.push_str("# HELP bradawl_boot_seconds When the last boot came to its end, after the init system began.\n# TYPE bradawl_boot_seconds gauge\n");
    for host in &report.hosts {
        let label = visible(&host.host).replace('\\', "\\\\").replace('"', "\\\"");
        if let Some(at) = host.ended_at_s {
            out.push_str(&format!("bradawl_boot_seconds{{host=\"{label}\"}} {at}\n"));
        }
    }
    out
}
