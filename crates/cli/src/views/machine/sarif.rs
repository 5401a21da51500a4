//! SARIF 2.1.0 (OASIS): what code scanning reads.

use bradawl_documents::fleet::MissingHost;
use bradawl_documents::{Failure, HostAudit, PolicyUse};
use bradawl_facts::Consequence;
use bradawl_facts::table::Edit;
use bradawl_facts::text::visible;
use bradawl_judgement::rules::{Finding, RULES, Rule, Silenced};
use serde_json::{Value, json};

/// The log of one run; `given`: all tables are the one that was given by its
/// path.
pub fn sarif(
    audits: &[HostAudit],
    policy: Option<&PolicyUse>,
    (failed, missing): (&[Failure], &[MissingHost]),
    given: bool,
) -> Value {
    let mut results: Vec<Value> = Vec::new();
    for audit in audits {
        let uri = if given { encoded(&audit.table) } else { artifact(&audit.host, &audit.table) };
        results.extend(audit.findings.iter().map(|f| result(&audit.host, &uri, f)));
        results.extend(audit.silenced.iter().map(|s| suppressed(&audit.host, &uri, s)));
    }
    if let Some(policy) = policy {
        let uri = encoded(policy.file.as_deref().unwrap_or("policy"));
        results.extend(policy.findings.iter().map(|f| result("", &uri, f)));
    }
    let notice = |level: &str, text: &str| json!({ "level": level, "message": { "text": visible(text) } });
    let mut notices: Vec<Value> = failed.iter().map(|f| notice("error", &f.error)).collect();
    let absent = missing.iter().map(|m| (m, if m.has_no_record() { "error" } else { "warning" }));
    notices.extend(absent.map(|(m, level)| notice(level, &format!("{}: {}", m.host, m.words()))));
    let ignored = policy.into_iter().flat_map(|p| &p.ignored);
    notices.extend(ignored.map(|p| notice("warning", &p.words())));
    json!({
        "$schema": "https://json.schemastore.org/sarif-2.1.0.json",
        "version": "2.1.0",
        "runs": [{
            "tool": { "driver": {
                "name": "bradawl",
                "semanticVersion": env!("CARGO_PKG_VERSION"),
                "rules": RULES.iter().map(rule).collect::<Vec<_>>(),
            }},
            "columnKind": "unicodeCodePoints",
            "invocations": [{
                "executionSuccessful": failed.is_empty() && !missing.iter().any(MissingHost::has_no_record),
                "toolExecutionNotifications": notices,
            }],
            "results": results,
        }],
    })
}

fn rule(rule: &Rule) -> Value {
    json!({
        "id": rule.slug,
        "shortDescription": { "text": rule.what },
        "fullDescription": { "text": rule.matters },
        "help": { "text": format!("At boot: {} To do: {}", rule.at_boot, rule.fix) },
        "defaultConfiguration": { "level": level(rule.default) },
        "properties": { "tags": [rule.family.title()] },
    })
}

fn level(consequence: Consequence) -> &'static str {
    match consequence {
        Consequence::Halt | Consequence::Stall | Consequence::Missing => "error",
        Consequence::Risk => "warning",
        Consequence::Note => "note",
    }
}

fn result(host: &str, uri: &str, finding: &Finding) -> Value {
    let text = [&finding.message, &finding.why, &finding.remedy].map(|t| visible(t).into_owned());
    let text = text.iter().filter(|t| !t.is_empty()).map(String::as_str).collect::<Vec<_>>().join(" ");
    let mut physical = json!({ "artifactLocation": { "uri": uri } });
    if let Some(line) = finding.line {
        physical["region"] = region(line, finding.columns);
    }
    let entry = finding.entry.as_ref();
    let names = [host, finding.rule, entry.map_or("", |e| &e.source), entry.map_or("", |e| &e.target)];
    let mut result = json!({
        "ruleId": finding.rule,
        "level": level(finding.consequence),
        "message": { "text": text },
        "locations": [{ "physicalLocation": physical }],
        "partialFingerprints": { "entry/v1": visible(&names.join("|")) },
        "properties": { "host": visible(host), "consequence": finding.consequence.name() },
    });
    if let Some(index) = RULES.iter().position(|r| r.slug == finding.rule) {
        result["ruleIndex"] = index.into();
    }
    if !finding.fixes.is_empty() {
        let fix = |fix: &bradawl_judgement::rules::Fix| {
            let replacements: Vec<Value> = fix.edits.iter().map(replacement).collect();
            let change = json!({ "artifactLocation": { "uri": uri }, "replacements": replacements });
            json!({ "description": { "text": visible(&fix.title) }, "artifactChanges": [change] })
        };
        result["fixes"] =
            finding.fixes.iter().filter(|f| !f.edits.is_empty() && !f.tells_secrets()).map(fix).collect();
    }
    result
}

/// A finding that an exception of the policy left out.
fn suppressed(host: &str, uri: &str, silenced: &Silenced) -> Value {
    let mut result = result(host, uri, &silenced.finding);
    // One that is not accepted counts for the exit status.
    let status = if silenced.counts { "underReview" } else { "accepted" };
    let reason = visible(&silenced.reason);
    result["suppressions"] = json!([{ "kind": "external", "status": status, "justification": reason }]);
    result
}

fn replacement(edit: &Edit) -> Value {
    json!({
        "deletedRegion": region(edit.line, Some(edit.columns)),
        "insertedContent": { "text": visible(&edit.text) },
    })
}

/// The last column there is the one behind the place.
fn region(line: usize, columns: Option<[usize; 2]>) -> Value {
    match columns {
        Some([first, last]) => {
            json!({ "startLine": line, "startColumn": first, "endColumn": (last + 1).max(first) })
        }
        None => json!({ "startLine": line }),
    }
}

/// The table of a host as a relative URI, below the host's name: no two hosts
/// share one.
fn artifact(host: &str, table: &str) -> String {
    format!("{}/{}", encoded(&host.replace('/', "%")), encoded(table.trim_start_matches('/')))
}

/// Percent-encoded but for what may stand in a path (RFC 3986).
fn encoded(text: &str) -> String {
    let plain = |b: u8| b.is_ascii_alphanumeric() || matches!(b, b'-' | b'.' | b'_' | b'~' | b'/');
    text.bytes().map(|b| if plain(b) { char::from(b).to_string() } else { format!("%{b:02X}") }).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tables_have_relative_addresses() {
        assert_eq!(artifact("kelp", "/etc/fstab"), "kelp/etc/fstab");
        assert_eq!(artifact("gauge/kelp", "tables/fstab"), "gauge%25kelp/tables/fstab");
        assert_eq!(artifact("ä:b", "/etc/fstab"), "%C3%A4%3Ab/etc/fstab");
        assert_eq!(region(3, Some([5, 4]))["endColumn"], 5);
    }
}
