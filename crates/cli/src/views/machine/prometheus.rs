//! Gauges in the text form that Prometheus' textfile collector reads; names by
//! its conventions: base units, a suffix that says which.

use bradawl_boot::Outcome;
use bradawl_documents::fleet::{FleetReport, HostLine};
use bradawl_facts::Consequence;
use bradawl_facts::text::visible;

/// All gauges of a run.
pub fn prometheus(report: &FleetReport) -> String {
    let mut out = String::new();
    let of = |value: &dyn Fn(&HostLine) -> Option<String>| {
        let row = |h: &HostLine| Some((labels(h, ""), value(h)?));
        report.hosts.iter().filter_map(row).collect::<Vec<_>>()
    };
    let returns = of(&|h| Some(u8::from(!h.is_lost()).to_string()));
    family(&mut out, "bradawl_boot_returns", "Whether the host reaches login at its next boot.", &returns);
    let open = of(&|h| Some(u8::from(h.outcome == Some(Outcome::NotKnown)).to_string()));
    family(
        &mut out,
        "bradawl_boot_not_known",
        "Whether facts are missing that may keep the host from login or make it late.",
        &open,
    );
    let waits = of(&|h| Some(h.stall_s.map_or_else(|| "+Inf".to_owned(), |s| s.to_string())));
    family(
        &mut out,
        "bradawl_boot_wait_seconds",
        "How long the next boot waits for what does not come.",
        &waits,
    );
    let each = |h: &HostLine| Consequence::ALL.map(|c| (labels(h, c.name()), h.totals.get(c).to_string()));
    let findings: Vec<_> = report.hosts.iter().flat_map(each).collect();
    family(&mut out, "bradawl_findings", "Findings on the host's table, by consequence.", &findings);
    let silenced = of(&|h| Some(h.silenced.to_string()));
    family(
        &mut out,
        "bradawl_silenced_findings",
        "Findings that the policy's exceptions left out.",
        &silenced,
    );
    let taken = of(&|h| h.taken_at_s.map(|s| s.to_string()));
    family(&mut out, "bradawl_record_timestamp_seconds", "When the host's record was taken.", &taken);
    let failed = [(String::new(), report.failed.len().to_string())];
    family(&mut out, "bradawl_failed_inputs", "Inputs that could not be judged.", &failed);
    let missing: Vec<_> = report
        .missing
        .iter()
        .map(|m| {
            let role = m.roles.first().map(|r| format!(",role=\"{}\"", escaped(r))).unwrap_or_default();
            let labels = format!("{{host=\"{}\"{role},state=\"{}\"}}", escaped(&m.host), m.state.name());
            (labels, "1".to_owned())
        })
        .collect();
    family(&mut out, "bradawl_host_missing", "Hosts without a record, or with an old one.", &missing);
    let ignored = report.policy.iter().flat_map(|p| &p.ignored);
    let ignored: Vec<_> =
        ignored.map(|p| (format!("{{file=\"{}\"}}", escaped(&p.file)), "1".to_owned())).collect();
    family(&mut out, "bradawl_ignored_policy", "Policy files found and not in force.", &ignored);
    out
}

fn family(out: &mut String, name: &str, help: &str, rows: &[(String, String)]) {
    if rows.is_empty() {
        return;
    }
    out.push_str(&format!("# HELP {name} {help}\n# TYPE {name} gauge\n"));
    rows.iter().for_each(|(labels, value)| out.push_str(&format!("{name}{labels} {value}\n")));
}

fn labels(host: &HostLine, consequence: &str) -> String {
    let mut labels = format!("{{host=\"{}\"", escaped(&host.host));
    if let Some(role) = host.roles.first() {
        labels.push_str(&format!(",role=\"{}\"", escaped(role)));
    }
    if !consequence.is_empty() {
        labels.push_str(&format!(",consequence=\"{consequence}\""));
    }
    labels + "}"
}

fn escaped(text: &str) -> String {
    visible(text).replace('\\', "\\\\").replace('"', "\\\"").replace('\n', "\\n")
}

#[cfg(test)]
mod tests {
    use super::*;
    use bradawl_documents::HostAudit;
    use bradawl_documents::fleet::Fleet;

    #[test]
    fn every_line_is_a_comment_or_a_sample() {
        let mut fleet = Fleet::default();
        let lost = HostAudit { outcome: Some(Outcome::Never), stall_s: None, ..HostAudit::empty("ke\"lp\n") };
        fleet.add(&HostAudit { roles: vec!["gauge".into()], ..lost });
        let text = prometheus(&fleet.report(Vec::new(), None));
        assert!(text.contains("bradawl_boot_returns{host=\"ke\\\"lp"), "{text}");
        assert!(
            text.contains("} +Inf\n") && text.contains(",role=\"gauge\",consequence=\"halt\"} 0\n"),
            "{text}"
        );
        for line in text.lines() {
            let sample = line.rsplit_once(' ').is_some_and(|(_, v)| v.parse::<f64>().is_ok());
            assert!(line.starts_with("# ") || sample, "{line}");
        }
    }
}
